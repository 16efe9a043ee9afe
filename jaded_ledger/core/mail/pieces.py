"""Pieces: what is mailed to whom, and why everything else is not."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.core.whole_numbers import whole_number


class Addressing(StrEnum):
    """Whom a piece is for, and where it goes."""

    OWNER_MAILING = "owner-mailing"
    OWNER_PROPERTY = "owner-property"
    RESIDENT = "resident"

    @property
    def words(self) -> str:
        return {
            Addressing.OWNER_MAILING: "owner at the mailing address",
            Addressing.OWNER_PROPERTY: "owner at the property",
            Addressing.RESIDENT: "current resident at the property",
        }[self]


SAME_OWNER = "second piece to the same owner"
SAME_HOUSEHOLD = "second piece to the same household"
SAME_DWELLING = "second piece to the same dwelling"
NO_OWNER = "no owner name on record"
NO_BUILDING = "no building there"
NO_ADDRESS = "no deliverable address"
ASKED_FOR_NONE = "asked not to be contacted"
PASSED_ON = "passed to somebody else since it was listed"
RESIDENT_NAME = "CURRENT RESIDENT"


@dataclass(frozen=True)
class Candidate:
    """A parcel that something may be mailed about. None is unknown."""

    parcel_id: int
    number: str
    owner_id: int | None
    owner_name: str
    handler: str
    situs: Address | None
    mailing: Address | None
    improvement_value: int | None = None
    do_not_contact: bool | None = None
    stale_on: str = ""
    """The list on which it is stale, where it comes from one."""


@dataclass(frozen=True)
class Piece:
    """One thing mailed to one address: its lines from the name down."""

    parcel_id: int
    lines: tuple[str, ...]
    address: Address


@dataclass(frozen=True)
class Refusal:
    """A parcel for which no piece is made. ``reason`` is counted, ``detail`` says more of this one."""

    parcel_id: int
    number: str
    reason: str
    detail: str


def _house_number(address: Address) -> int:
    digits = address.street.split(" ", 1)[0]
    return whole_number(digits) or 0


def _street(address: Address) -> str:
    first, _, rest = address.street.partition(" ")
    return rest if first.isdecimal() else address.street


def sort_key(address: Address) -> tuple[str, str, str, int, str]:
    """Return what pieces are sorted by: ZIP+4, then street, then house number, then unit."""
    return (address.zip5, address.zip4, _street(address), _house_number(address), address.unit)


def _lines(candidate: Candidate, to: Addressing, address: Address) -> tuple[str, ...]:
    if to is Addressing.RESIDENT:
        return (RESIDENT_NAME, address.delivery_line, address.last_line)
    # An executor or other handler reads the letter: the attention line of Publication 28 section 211.
    in_care_of = candidate.handler.upper() or address.attention
    handler = (f"C/O {in_care_of}",) if in_care_of and to is Addressing.OWNER_MAILING else ()
    return (candidate.owner_name, *handler, address.delivery_line, address.last_line)


def make_pieces(candidates: Iterable[Candidate], to: Addressing) -> tuple[list[Piece], list[Refusal]]:
    """Return the pieces in mailing order, and a refusal with its reason for every other candidate.

    Nothing is made for an owner who asked not to be contacted, however it is addressed: the owner may be the resident.
    Nothing goes to an address that can't be delivered to. An owner, and a household, gets one piece, for the first of
    its parcels in mailing order; a resident gets one for each dwelling, whoever owns it.
    """
    refusals: list[Refusal] = []
    addressed: list[tuple[Candidate, Address]] = []
    for candidate in candidates:
        address = candidate.mailing if to is Addressing.OWNER_MAILING else candidate.situs
        if candidate.do_not_contact:
            refusals.append(Refusal(candidate.parcel_id, candidate.number, ASKED_FOR_NONE, candidate.owner_name))
        elif candidate.stale_on:
            refusals.append(Refusal(candidate.parcel_id, candidate.number, PASSED_ON, candidate.stale_on))
        elif address is None or address.undeliverable:
            detail = address.undeliverable if address else "none on record"
            refusals.append(Refusal(candidate.parcel_id, candidate.number, NO_ADDRESS, detail))
        elif to is Addressing.RESIDENT and candidate.improvement_value == 0:
            # An improvement value of 0 is how raw land is recognized: nobody lives there.
            refusals.append(Refusal(candidate.parcel_id, candidate.number, NO_BUILDING, address.delivery_line))
        elif to is not Addressing.RESIDENT and not candidate.owner_name:
            refusals.append(Refusal(candidate.parcel_id, candidate.number, NO_OWNER, ""))
        else:
            addressed.append((candidate, address))
    addressed.sort(key=lambda pair: (*sort_key(pair[1]), pair[0].number, pair[0].parcel_id))
    pieces: list[Piece] = []
    owners: set[int] = set()
    households: set[str] = set()
    for candidate, address in addressed:
        if to is not Addressing.RESIDENT and candidate.owner_id in owners:
            refusals.append(Refusal(candidate.parcel_id, candidate.number, SAME_OWNER, candidate.owner_name))
            continue
        if address.household_key in households:
            reason = SAME_DWELLING if to is Addressing.RESIDENT else SAME_HOUSEHOLD
            refusals.append(Refusal(candidate.parcel_id, candidate.number, reason, address.delivery_line))
            continue
        households.add(address.household_key)
        if candidate.owner_id is not None:
            owners.add(candidate.owner_id)
        pieces.append(Piece(candidate.parcel_id, _lines(candidate, to, address), address))
    return pieces, refusals
