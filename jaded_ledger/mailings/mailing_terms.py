"""The terms of a mailing as its fields say them: each read and checked, and what follows from the form of it settled."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.core.mail.envelopes import ENVELOPES, Envelope
from jaded_ledger.core.mail.letter_layout import PAPERS, Paper
from jaded_ledger.core.mail.letters import Recipient
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.core.mail.postage import POSTAGE
from jaded_ledger.core.mail.sheets import SHEETS, Sheet
from jaded_ledger.mailings.letters import begin_with_shipped, letters_of
from jaded_ledger.mailings.mail_settings import printers_of
from jaded_ledger.mailings.models import LetterTemplate, Mailing

_LETTER_PAPER, _CARD = ({key: paper for key, paper in PAPERS.items() if paper.has_back is is_card} for is_card in (False, True))
STOCK: Mapping[Mailing.Form, Mapping[str, Sheet | Envelope | Paper]] = {
    Mailing.Form.LABELS: SHEETS,
    Mailing.Form.ENVELOPES: ENVELOPES,
    Mailing.Form.LETTERS: _LETTER_PAPER,
    Mailing.Form.POSTCARDS: _CARD,
}
"""What each form is printed on, by key."""
WRITTEN = frozenset({Mailing.Form.LETTERS, Mailing.Form.POSTCARDS})
"""Forms that say something."""
MOST_DAYS, MOST_IN_BATCH, LONGEST_NAME, LONGEST_NOTE = 3650, 100_000, 80, 60


NO_LETTER = "none"
"""Said in the place of a letter for those who shall get none."""


class MailingError(ValueError):
    """What can't be; the message says why, and what to do."""


def _whole(what: str, least: int, most: int) -> Callable[[str], int]:
    def read(text: str) -> int:
        said = text.strip()
        if not (said.isascii() and said.isdecimal() and len(said) <= 6 and least <= int(said) <= most):
            raise MailingError(f"{what} is a whole number from {least:,} to {most:,}, not “{said[:12]}”")
        return int(said)

    return read


def _one_of(what: str, known: Sequence[str]) -> Callable[[str], str]:
    def read(text: str) -> str:
        if text not in known:
            raise MailingError(f"there is no {what} “{text[:20]}”; there are {', '.join(known)}")
        return text

    return read


def _name(text: str) -> str:
    found = " ".join(text.split())
    if not 0 < len(found) <= LONGEST_NAME:
        raise MailingError(f"a mailing has a name of 1 to {LONGEST_NAME} characters")
    return found


def _note(text: str) -> str:
    found = " ".join(text.split())
    if len(found) > LONGEST_NOTE:
        raise MailingError(f"the small line has at most {LONGEST_NOTE} characters; that has {len(found)}")
    return found


_READERS: Mapping[str, Callable[[str], Any]] = {
    "name": _name,
    "to": _one_of("addressing", [one.value for one in Addressing]),
    "form": _one_of("form", Mailing.Form.values),
    "stock": str,
    "start": _whole("the first label", 1, max(sheet.count for sheet in SHEETS.values())),
    "batch": _whole("pieces a file", 0, MOST_IN_BATCH),
    "note": _note,
    "return_address": bool,
    "postage": _one_of("class of postage", POSTAGE),
    "bought_within": _whole("days since it was bought", 1, MOST_DAYS),
    "mailed_within": _whole("days since the last mail", 1, MOST_DAYS),
}


def _settle(mailing: Mailing, values: dict[str, Any]) -> None:
    """Have what it is printed on be of its form, and the first label be on the sheet. Raises MailingError."""
    form = Mailing.Form(values.get("form", mailing.form))
    stock = values.get("stock", mailing.stock)
    if stock not in STOCK[form]:
        if "form" not in values or values["form"] == mailing.form:
            raise MailingError(f"{form.label} are not printed on “{stock[:20]}”; there are {', '.join(STOCK[form])}")
        # Another form is printed on something else.
        stock = next(iter(STOCK[form]))
    count = SHEETS[stock].count if form == Mailing.Form.LABELS else 1
    start = values.get("start", mailing.start)
    if start > count:
        if form == Mailing.Form.LABELS and stock == mailing.stock:
            raise MailingError(f"this sheet has {count} labels; begin at 1 to {count}")
        start = 1
    values |= {"stock": stock, "start": start}


def _settle_letters(scope: Scope, mailing: Mailing, said: Mapping[str, str], values: dict[str, Any]) -> None:
    """Have the letters be of the mailing's form, the first of them where none is chosen yet. Raises MailingError."""
    form = values.get("form", mailing.form)
    if form not in WRITTEN:
        return
    begin_with_shipped(scope)
    known = {str(one.pk): one for one in letters_of(scope, form)} | {one.name: one for one in letters_of(scope, form)}
    if form != mailing.form or mailing.letter is None:
        values |= {"letter": next(iter(known.values()), None), "against": None, "letter_of": {}}
    if values.get("letter", mailing.letter) is None:
        raise MailingError(f"write a {LetterTemplate.Form(form).label} first, under Letters")
    for name in ("letter", "against"):
        if name in said and said[name] in known:
            values[name] = known[said[name]]
        elif said.get(name):
            # Of another form the page still says the letters of the one before, by their numbers.
            if form == mailing.form or not said[name].isdecimal():
                raise MailingError(f"there is no {LetterTemplate.Form(form).label} “{said[name][:40]}”; write it under Letters")
        elif name == "against" and name in said:
            values[name] = None
    if values.get("against", mailing.against) == values.get("letter", mailing.letter):
        values["against"] = None
    chosen = dict(values.get("letter_of", mailing.letter_of))
    for recipient in Recipient:
        text = said.get(f"letter-{recipient}")
        if text == "":
            chosen.pop(recipient.value, None)
        elif text == NO_LETTER:
            chosen[recipient.value] = 0
        elif text in known:
            chosen[recipient.value] = known[text].pk
        elif text and (form == mailing.form or not text.isdecimal()):
            raise MailingError(f"there is no {LetterTemplate.Form(form).label} “{text[:40]}”; write it under Letters")
    values["letter_of"] = chosen


def change(scope: Scope, mailing: Mailing, said: Mapping[str, str], relaxed: Sequence[str] | None = None) -> None:
    """Set what of a mailing's terms was said, each by its field's name. Raises MailingError, and nothing is changed."""
    require(scope, CONTACTS)
    if mailing.made_at is not None:
        raise MailingError(f"{mailing.name} is made; begin another to change what is sent")
    values = {name: read(said[name]) for name, read in _READERS.items() if name in said}
    _settle(mailing, values)
    _settle_letters(scope, mailing, said, values)
    if "printer" in said:
        values["printer"] = printers_of(scope).filter(name=said["printer"]).first()
    if relaxed is not None:
        known = [reason.value for reason in Reason if reason.may_be_relaxed]
        values["relaxed"] = sorted({*known}.intersection(relaxed))
    for name, value in values.items():
        setattr(mailing, name, value)
    mailing.save(update_fields=[*values])
