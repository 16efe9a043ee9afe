"""What a contact file can hold beside the traits: what mail houses and look-up services ask for in columns of their own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.models import Contact
from jaded_ledger.records.models.contacts import ContactKind

ONE_TELEPHONE = "telephone"
TELEPHONES = ("telephone-1", "telephone-2", "telephone-3")


@dataclass
class Beside:
    """What is known of some rows beside their facts: contacts by owner and kind, and how many of the chosen parcels each owner has."""

    contacts: dict[tuple[int, str], list[str]] = field(default_factory=dict)
    parcels: Counter[int] = field(default_factory=Counter)
    numbers: dict[int, list[str]] = field(default_factory=dict)
    telephone: str = ""
    """The number that a row is for, where each has a row of its own."""


Value = Callable[[Sequence[Any], Beside], str | int | None]


@dataclass(frozen=True)
class ContactColumn:
    """A column of a contact file: its key, what heads it, where it stands in the chooser, and its value for a row."""

    key: str
    label: str
    group: str
    value: Value
    """Told from the values of what it reads, and from what is known beside them."""
    reads: tuple[str, ...]
    """The columns that it reads, as queries name them from the row of facts."""


def contacts_of(owners: Iterable[int], refused: frozenset[str]) -> dict[tuple[int, str], list[str]]:
    """Return the contacts of some owners that may be used, by owner and kind, in the order in which they were taken in.

    ``refused`` are numbers and addresses that the team must leave alone.
    """
    found: dict[tuple[int, str], list[str]] = {}
    asked = Contact.objects.filter(owner__in=owners, superseded_at=None, do_not_contact=False).order_by("pk")
    for owner, kind, value in asked.values_list("owner_id", "kind", "value"):
        if value not in refused:
            found.setdefault((owner, kind), []).append(value)
    return found


def _person(place: int, part: str) -> Value:
    def value(values: Sequence[Any], _: Beside) -> str | None:
        people = read_name(values[0]).persons if values[0] is not None else ()
        return str(getattr(people[place], part)) or None if place < len(people) else None

    return value


def _first_of(values: Sequence[Any], _: Beside) -> str | None:
    """Return the first that is not blank."""
    return next(filter(None, values), None)


def _together(values: Sequence[Any], _: Beside) -> str | None:
    return " ".join(filter(None, values)) or None


def _zip_plus_4(values: Sequence[Any], _: Beside) -> str | None:
    return "-".join(filter(None, values)) or None


def _contact(kind: ContactKind, place: int) -> Value:
    def value(values: Sequence[Any], beside: Beside) -> str | None:
        found = beside.contacts.get((values[0] or 0, kind.value), [])
        return found[place] if place < len(found) else None

    return value


_first_telephone = _contact(ContactKind.TELEPHONE, 0)


def _telephone(values: Sequence[Any], beside: Beside) -> str | int | None:
    return beside.telephone or _first_telephone(values, beside)


def _parcels(values: Sequence[Any], beside: Beside) -> int:
    return beside.parcels[values[0]] if values[0] else 1


def _numbers(values: Sequence[Any], beside: Beside) -> str:
    owner, number = values
    return ", ".join(beside.numbers.get(owner or 0) or [number])


_OF_MAIL, _OF_PROPERTY, CALLS = "mailing address, in parts", "property address, in parts", "telephone and e-mail"
_PARTS = (("first-name", "given"), ("last-name", "surname"), ("name-suffix", "suffix"))
_NAME, _OWNER = ("owner_name__text",), ("owner",)


def _of_address(which: str, *parts: str) -> tuple[str, ...]:
    return tuple(f"{which}__{part}" for part in parts)


CONTACT_COLUMNS = {
    column.key: column
    for column in (
        ContactColumn("envelope-name", "envelope name", "name for mail", _first_of, ("owner_name__mailing_name",)),
        *(ContactColumn(key, key.replace("-", " "), "name for mail", _person(0, part), _NAME) for key, part in _PARTS),
        *(
            ContactColumn(f"second-{key}", f"second {key.replace('-', ' ')}", "name for mail", _person(1, part), _NAME)
            for key, part in _PARTS
        ),
        ContactColumn("in-care-of", "in care of", "name for mail", _first_of, ("owner_name__handler", "mailing_address__attention")),
        ContactColumn("mail-street", "mail street", _OF_MAIL, _together, _of_address("mailing_address", "street", "unit")),
        ContactColumn("mail-city", "mail city", _OF_MAIL, _first_of, _of_address("mailing_address", "city")),
        ContactColumn("mail-state", "mail state", _OF_MAIL, _first_of, _of_address("mailing_address", "state")),
        ContactColumn("mail-zip", "mail ZIP", _OF_MAIL, _first_of, _of_address("mailing_address", "zip5")),
        ContactColumn("mail-zip-4", "mail ZIP+4", _OF_MAIL, _zip_plus_4, _of_address("mailing_address", "zip5", "zip4")),
        ContactColumn("property-street", "property street", _OF_PROPERTY, _together, _of_address("address", "street", "unit")),
        ContactColumn("property-city", "property city", _OF_PROPERTY, _first_of, _of_address("address", "city")),
        ContactColumn("property-state", "property state", _OF_PROPERTY, _first_of, _of_address("address", "state")),
        ContactColumn("property-zip", "property ZIP", _OF_PROPERTY, _first_of, _of_address("address", "zip5")),
        ContactColumn(ONE_TELEPHONE, "telephone", CALLS, _telephone, _OWNER),
        *(
            ContactColumn(key, key.replace("-", " "), CALLS, _contact(ContactKind.TELEPHONE, place), _OWNER)
            for place, key in enumerate(TELEPHONES)
        ),
        ContactColumn("e-mail", "e-mail", CALLS, _contact(ContactKind.EMAIL, 0), _OWNER),
        ContactColumn("parcels-here", "parcels of the owner in this file", "of an owner with several", _parcels, _OWNER),
        ContactColumn("parcel-numbers", "parcel numbers", "of an owner with several", _numbers, ("owner", "parcel__number")),
    )
}  # fmt: skip
"""By their keys, in the order in which they are offered. None is a trait's key."""
