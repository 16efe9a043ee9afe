"""The letters that a team begins with; it edits them as it likes."""

from __future__ import annotations

from typing import NamedTuple

from jaded_ledger.mailings.models import LetterTemplate


class Shipped(NamedTuple):
    """A letter or a postcard that is shipped."""

    form: LetterTemplate.Form
    name: str
    text: str


_END = """{sender|}
{team}
{phone|}
{license|}

If you call or write, name this code: {code}

If you would rather get no more letters, say so and you won’t."""
_AFTER_A_SALE = (
    "{sale-address|A house near yours} has sold.\n\n"
    "It took {sale-days|only a short time}. Those who looked at it and did not get it are still looking near {address}.\n\n"
)
SHIPPED = (
    Shipped(
        LetterTemplate.Form.LETTERS,
        "First letter",
        "{today}\n\nDear {salutation|neighbor},\n\n"
        "You have owned {address} for {years-owned|some years now}. I work with people who own in {city|your town}, and I write to ask "
        "one thing: have you thought of selling, this year or later?\n\n"
        "If you have, I will tell you what it would bring, and what it would cost to sell, on one page and without obligation. If you "
        "have not, keep this letter; it is good at any time.\n\n" + _END,
    ),
    Shipped(
        LetterTemplate.Form.LETTERS,
        "To owners of several",
        "{today}\n\nDear {salutation|owner},\n\nThese properties of yours are on record in the county:\n\n{parcel-list}\n\n"
        "If there are some among them that you would rather not keep, I would be glad to look at them with you: one, or all "
        "{parcels} together.\n\n" + _END,
    ),
    Shipped(
        LetterTemplate.Form.LETTERS,
        "To an executor",
        "{today}\n\nTo whoever settles the estate that owns {address}:\n\n"
        "I am sorry for your loss. A house in an estate has to be kept, insured and at some time sold, and that falls to you beside "
        "everything else. If it helps, I can tell you what it would bring as it stands, and take the sale off your hands.\n\n"
        "There is no hurry, and no obligation.\n\n" + _END,
    ),
    Shipped(
        LetterTemplate.Form.LETTERS,
        "After a sale nearby (letter)",
        "{today}\n\nDear {salutation|neighbor},\n\n"
        + _AFTER_A_SALE
        + "If you would like to know what yours would bring, I will tell you on one page and without obligation.\n\n"
        + _END,
    ),
    Shipped(
        LetterTemplate.Form.POSTCARDS,
        "After a sale nearby",
        _AFTER_A_SALE + "If you would like to know what yours would bring, call {phone|} or write and name this code: {code}\n\n"
        "{sender|} · {team}\n{license|}",
    ),
)
