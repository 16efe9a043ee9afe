"""What a contact file can hold beside the traits: what mail houses and look-up services ask for in columns of their own."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.models import Contact, ParcelFacts, RecordedAddress
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


Value = Callable[[ParcelFacts, Beside], str | int | None]


@dataclass(frozen=True)
class ContactColumn:
    """A column of a contact file: its key, what heads it, where it stands in the chooser, and its value for a row."""

    key: str
    label: str
    group: str
    value: Value
    reads: tuple[str, ...] = ()
    """What of a row's facts is read with it."""


def contacts_of(rows: list[ParcelFacts], refused: frozenset[str]) -> dict[tuple[int, str], list[str]]:
    """Return the contacts of some rows' owners that may be used, by owner and kind, in the order in which they were taken in.

    ``refused`` are numbers and addresses that the team must leave alone.
    """
    found: dict[tuple[int, str], list[str]] = {}
    owners = {row.owner_id for row in rows if row.owner_id}
    asked = Contact.objects.filter(owner__in=owners, superseded_at=None, do_not_contact=False).order_by("pk")
    for owner, kind, value in asked.values_list("owner_id", "kind", "value"):
        if value not in refused:
            found.setdefault((owner, kind), []).append(value)
    return found


def _person(place: int, part: str) -> Value:
    def value(facts: ParcelFacts, _: Beside) -> str | None:
        people = read_name(facts.owner_name.text).persons if facts.owner_name else ()
        return str(getattr(people[place], part)) or None if place < len(people) else None

    return value


def _envelope(facts: ParcelFacts, _: Beside) -> str | None:
    return facts.owner_name.mailing_name if facts.owner_name else None


def _care_of(facts: ParcelFacts, _: Beside) -> str | None:
    name, address = facts.owner_name, facts.mailing_address
    return (name.handler if name else "") or (address.attention if address else "") or None


def _of_address(which: str, *parts: str) -> Value:
    def value(facts: ParcelFacts, _: Beside) -> str | None:
        address: RecordedAddress | None = getattr(facts, which)
        return (" ".join(filter(None, (getattr(address, part) for part in parts))) or None) if address else None

    return value


def _zip_plus_4(facts: ParcelFacts, _: Beside) -> str | None:
    address = facts.mailing_address
    return (f"{address.zip5}-{address.zip4}" if address.zip4 else address.zip5 or None) if address else None


def _contact(kind: ContactKind, place: int) -> Value:
    def value(facts: ParcelFacts, beside: Beside) -> str | None:
        found = beside.contacts.get((facts.owner_id or 0, kind.value), [])
        return found[place] if place < len(found) else None

    return value


def _telephone(facts: ParcelFacts, beside: Beside) -> str | None:
    return beside.telephone or _contact(ContactKind.TELEPHONE, 0)(facts, beside)  # type: ignore[return-value]


def _parcels(facts: ParcelFacts, beside: Beside) -> int:
    return beside.parcels[facts.owner_id] if facts.owner_id else 1


def _numbers(facts: ParcelFacts, beside: Beside) -> str:
    return ", ".join(beside.numbers.get(facts.owner_id or 0) or [facts.parcel.number])


_OF_MAIL, _OF_PROPERTY, CALLS = "mailing address, in parts", "property address, in parts", "telephone and e-mail"
_NAME, _MAILING, _SITUS = ("owner_name",), ("mailing_address",), ("address",)
_PARTS = (("first-name", "given"), ("last-name", "surname"), ("name-suffix", "suffix"))
CONTACT_COLUMNS = {
    column.key: column
    for column in (
        ContactColumn("envelope-name", "envelope name", "name for mail", _envelope, _NAME),
        *(ContactColumn(key, key.replace("-", " "), "name for mail", _person(0, part), _NAME) for key, part in _PARTS),
        *(
            ContactColumn(f"second-{key}", f"second {key.replace('-', ' ')}", "name for mail", _person(1, part), _NAME)
            for key, part in _PARTS
        ),
        ContactColumn("in-care-of", "in care of", "name for mail", _care_of, (*_NAME, *_MAILING)),
        ContactColumn("mail-street", "mail street", _OF_MAIL, _of_address("mailing_address", "street", "unit"), _MAILING),
        ContactColumn("mail-city", "mail city", _OF_MAIL, _of_address("mailing_address", "city"), _MAILING),
        ContactColumn("mail-state", "mail state", _OF_MAIL, _of_address("mailing_address", "state"), _MAILING),
        ContactColumn("mail-zip", "mail ZIP", _OF_MAIL, _of_address("mailing_address", "zip5"), _MAILING),
        ContactColumn("mail-zip-4", "mail ZIP+4", _OF_MAIL, _zip_plus_4, _MAILING),
        ContactColumn("property-street", "property street", _OF_PROPERTY, _of_address("address", "street", "unit"), _SITUS),
        ContactColumn("property-city", "property city", _OF_PROPERTY, _of_address("address", "city"), _SITUS),
        ContactColumn("property-state", "property state", _OF_PROPERTY, _of_address("address", "state"), _SITUS),
        ContactColumn("property-zip", "property ZIP", _OF_PROPERTY, _of_address("address", "zip5"), _SITUS),
        ContactColumn(ONE_TELEPHONE, "telephone", CALLS, _telephone),
        *(
            ContactColumn(key, key.replace("-", " "), CALLS, _contact(ContactKind.TELEPHONE, place))
            for place, key in enumerate(TELEPHONES)
        ),
        ContactColumn("e-mail", "e-mail", CALLS, _contact(ContactKind.EMAIL, 0)),
        ContactColumn("parcels-here", "parcels of the owner in this file", "of an owner with several", _parcels),
        ContactColumn("parcel-numbers", "parcel numbers", "of an owner with several", _numbers, ("parcel",)),
    )
}  # fmt: skip
"""By their keys, in the order in which they are offered. None is a trait's key."""
