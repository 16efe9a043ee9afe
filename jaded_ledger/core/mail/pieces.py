"""Pieces: what is mailed to whom, and why everything else is not."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from types import MappingProxyType
from typing import NamedTuple

from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.core.mail.letters import Recipient, Values
from jaded_ledger.core.whole_numbers import whole_number


class Addressing(StrEnum):
    """Whom a piece is for, and where it goes."""

    OWNER_MAILING = "owner-mailing"
    OWNER_PROPERTY = "owner-property"
    RESIDENT = "resident"
    OWNER_OR_RESIDENT = "owner-or-resident"

    @property
    def words(self) -> str:
        return {
            Addressing.OWNER_MAILING: "owner at the mailing address",
            Addressing.OWNER_PROPERTY: "owner at the property",
            Addressing.RESIDENT: "current resident at the property",
            Addressing.OWNER_OR_RESIDENT: "owner or current resident, at the property",
        }[self]

    @property
    def is_for_owner(self) -> bool:
        """Whether nobody but the owner is meant: what is known of the owner then decides."""
        return self in (Addressing.OWNER_MAILING, Addressing.OWNER_PROPERTY)


class Reason(StrEnum):
    """Why no piece is made for a parcel, in the order in which they are asked. The first that holds is told.

    Duplicates come last: an owner whose first parcel is refused for something else still gets the piece of the second.
    """

    NO_ADDRESS = "no-address"
    DO_NOT_MAIL = "do-not-mail"
    RETURNED = "returned"
    STOPPED = "stopped"
    RECENT = "recent"
    STALE = "stale"
    PUBLIC = "public"
    MAILED = "mailed"
    NO_OWNER = "no-owner"
    NO_BUILDING = "no-building"
    CAN_NOT_PRINT = "can-not-print"
    TOO_LONG = "too-long"
    NO_LETTER = "no-letter"
    NO_FIELD = "no-field"
    SAME_OWNER = "same-owner"
    SAME_HOUSEHOLD = "same-household"
    SAME_DWELLING = "same-dwelling"

    @property
    def words(self) -> str:
        return _WORDS[self]

    @property
    def may_be_relaxed(self) -> bool:
        """Whether a mailing may go to such parcels all the same. Nobody who asked for none gets one; what can't be printed can't be."""
        return self not in (Reason.DO_NOT_MAIL, Reason.NO_ADDRESS, Reason.NO_OWNER, Reason.STOPPED, *_OF_PRINT)

    def applies_to(self, to: Addressing) -> bool:
        """Whether it is asked with an addressing."""
        if self in (Reason.RECENT, Reason.STALE, Reason.PUBLIC, Reason.NO_OWNER, Reason.SAME_OWNER, Reason.SAME_HOUSEHOLD):
            return to.is_for_owner
        if self in (Reason.NO_BUILDING, Reason.SAME_DWELLING):
            return not to.is_for_owner
        return True


_OF_PRINT = (Reason.CAN_NOT_PRINT, Reason.TOO_LONG, Reason.NO_LETTER, Reason.NO_FIELD)
"""What the piece itself can't be."""
_WORDS = {
    Reason.NO_ADDRESS: "no deliverable address",
    Reason.DO_NOT_MAIL: "asked not to be contacted",
    Reason.RETURNED: "mail came back",
    Reason.STOPPED: "replied, sold or was listed since the series began",
    Reason.RECENT: "bought lately",
    Reason.STALE: "passed to somebody else since it was listed",
    Reason.PUBLIC: "government or lender",
    Reason.MAILED: "mailed lately",
    Reason.NO_OWNER: "no owner name on record",
    Reason.NO_BUILDING: "no building there",
    Reason.CAN_NOT_PRINT: "has characters that can’t be printed",
    Reason.TOO_LONG: "too long for what it is printed on",
    Reason.NO_LETTER: "no letter for such owners",
    Reason.NO_FIELD: "what its letter says is unknown",
    Reason.SAME_OWNER: "second piece to the same owner",
    Reason.SAME_HOUSEHOLD: "second piece to the same household",
    Reason.SAME_DWELLING: "second piece to the same dwelling",
}
RESIDENT_NAME = "CURRENT RESIDENT"
EXECUTOR = "ATTN EXECUTOR"


class Candidate(NamedTuple):
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
    recipient: Recipient = Recipient.PERSON
    is_public: bool = False
    """Whether a government or a lender owns it."""
    bought_on: date | None = None
    mailed_on: date | None = None
    """When a piece was last mailed to this owner or this household, as the addressing has it."""
    returned_on: date | None = None
    stale_on: str = ""
    """The list on which it is stale, where it comes from one."""
    stopped: str = ""
    """Why it gets no more of the series that the mailing is of."""
    values: Values = MappingProxyType({})
    """What a letter may say of it, by field."""
    parcels: tuple[int, ...] = ()
    """All of the owner's that are reached, its own first: known only once every candidate was asked."""

    @property
    def who(self) -> str:
        """Whom a letter is to: the owner, or where none is known the parcel."""
        return f"owner {self.owner_id}" if self.owner_id is not None else f"parcel {self.parcel_id}"


class Piece(NamedTuple):
    """One thing mailed to one address: its lines from the name down.

    ``parcels`` are, of an owner's piece, all of the owner's that no reason takes off but that of a second piece, or of print; the piece's
    own is the first. A resident's piece has its own alone.
    """

    parcel_id: int
    lines: tuple[str, ...]
    address: Address
    number: str = ""
    owner_id: int | None = None
    parcels: tuple[int, ...] = ()


class Refusal(NamedTuple):
    """A parcel for which no piece is made, with what more is to be said of this one."""

    parcel_id: int
    number: str
    reason: Reason
    detail: str


@dataclass(frozen=True)
class Terms:
    """To whom a mailing goes, which reasons don't count for it, and how long ago is lately, in days."""

    to: Addressing
    today: date
    relaxed: frozenset[Reason] = frozenset()
    bought_within: int = 365
    mailed_within: int = 60

    def counts(self, reason: Reason) -> bool:
        """Whether a reason is asked, and refuses."""
        return reason.applies_to(self.to) and not (reason in self.relaxed and reason.may_be_relaxed)


@dataclass(frozen=True)
class Mailing:
    """Pieces in mailing order, a refusal for every other parcel, and how many pieces have a reason that was relaxed."""

    pieces: list[Piece]
    refusals: list[Refusal]
    relaxed: Counter[Reason]

    @property
    def parcels(self) -> int:
        return len(self.pieces) + len(self.refusals)

    @property
    def reasons(self) -> Counter[Reason]:
        return Counter(refusal.reason for refusal in self.refusals)


Fits = Callable[[Candidate, tuple[str, ...]], tuple[Reason, str] | None]
"""Why a candidate's lines, or its letter, can't be printed, with what more is to be said, or None."""


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
    where = (address.delivery_line, address.last_line)
    if to is Addressing.RESIDENT or not candidate.owner_name:
        return (RESIDENT_NAME, *where)
    if to is Addressing.OWNER_OR_RESIDENT:
        return (candidate.owner_name, f"OR {RESIDENT_NAME}", *where)
    # An executor or other handler reads the letter: the attention line of Publication 28 section 211.
    in_care_of = candidate.handler.upper() or address.attention
    if in_care_of and to is Addressing.OWNER_MAILING:
        return (candidate.owner_name, f"C/O {in_care_of}", *where)
    return (candidate.owner_name, EXECUTOR, *where) if candidate.recipient is Recipient.ESTATE else (candidate.owner_name, *where)


def _asked(candidate: Candidate, terms: Terms, address: Address | None) -> Iterable[tuple[Reason, bool, str]]:
    """Yield the reasons, but for duplicates, with whether each holds and what more is to be said."""
    yield Reason.NO_ADDRESS, address is None or bool(address.undeliverable), address.undeliverable if address else "none on record"
    # However it is addressed: the owner may be the resident.
    yield Reason.DO_NOT_MAIL, bool(candidate.do_not_contact), candidate.owner_name
    yield Reason.RETURNED, candidate.returned_on is not None, f"{candidate.returned_on}"
    yield Reason.STOPPED, bool(candidate.stopped), candidate.stopped
    bought = candidate.bought_on
    yield Reason.RECENT, bought is not None and bought > terms.today - timedelta(terms.bought_within), f"{bought}"
    yield Reason.STALE, bool(candidate.stale_on), candidate.stale_on
    yield Reason.PUBLIC, candidate.is_public, candidate.owner_name
    mailed = candidate.mailed_on
    yield Reason.MAILED, mailed is not None and mailed > terms.today - timedelta(terms.mailed_within), f"{mailed}"
    yield Reason.NO_OWNER, not candidate.owner_name, ""
    # An improvement value of 0 is how raw land is recognized: nobody lives there.
    yield Reason.NO_BUILDING, candidate.improvement_value == 0, address.delivery_line if address else ""


class _Once:
    """Tells the second piece to an owner, to a household or to a dwelling."""

    def __init__(self, terms: Terms) -> None:
        self._terms = terms
        self._owners: set[int] = set()
        self._places: set[str] = set()

    def seen(self, candidate: Candidate, address: Address) -> tuple[Reason, str] | None:
        """Return why a piece would be one too many; of one that is not, remember for whom and where it is."""
        owner, place = candidate.owner_id, address.household_key
        if owner in self._owners and self._terms.counts(Reason.SAME_OWNER):
            return Reason.SAME_OWNER, candidate.owner_name
        same_place = Reason.SAME_HOUSEHOLD if self._terms.to.is_for_owner else Reason.SAME_DWELLING
        if place in self._places and self._terms.counts(same_place):
            return same_place, address.delivery_line
        if owner is not None:
            self._owners.add(owner)
        self._places.add(place)
        return None


def make_pieces(candidates: Sequence[Candidate], terms: Terms, fits: Fits = lambda candidate, lines: None) -> Mailing:
    """Return the pieces in mailing order, and a refusal with its reason for every other candidate.

    An owner, and a household, gets one piece, for the first of its parcels in mailing order; a resident gets one for each dwelling,
    whoever owns it. ``fits`` says which lines can't be printed; it is asked before duplicates are told.
    """
    refusals: list[Refusal] = []
    relaxed: Counter[Reason] = Counter()
    reached: list[tuple[Candidate, Address, list[Reason]]] = []
    for candidate in candidates:
        address = candidate.mailing if terms.to is Addressing.OWNER_MAILING else candidate.situs
        ignored = []
        for reason, holds, detail in _asked(candidate, terms, address):
            if not holds or not reason.applies_to(terms.to):
                continue
            if terms.counts(reason):
                refusals.append(Refusal(candidate.parcel_id, candidate.number, reason, detail))
                break
            ignored.append(reason)
        else:
            assert address is not None
            reached.append((candidate, address, ignored))
    reached.sort(key=lambda one: (*sort_key(one[1]), one[0].number, one[0].parcel_id))
    of_owner: dict[int, list[int]] = defaultdict(list)
    for candidate, _, _ in reached:
        if candidate.owner_id is not None:
            of_owner[candidate.owner_id].append(candidate.parcel_id)
    once, pieces = _Once(terms), []
    for candidate, address, ignored in reached:
        own = candidate.parcel_id
        # A resident's piece is about where they live, and not about what else its owner has.
        others = of_owner.get(candidate.owner_id, ()) if candidate.owner_id is not None and terms.to.is_for_owner else ()
        parcels = (own, *(parcel for parcel in others if parcel != own))
        lines = _lines(candidate, terms.to, address)
        if wrong := fits(candidate._replace(recipient=_recipient(candidate, terms.to, len(parcels)), parcels=parcels), lines):
            refusals.append(Refusal(own, candidate.number, *wrong))
            continue
        relaxed.update(ignored)
        if again := once.seen(candidate, address):
            refusals.append(Refusal(own, candidate.number, *again))
            continue
        pieces.append(Piece(own, lines, address, candidate.number, candidate.owner_id, parcels))
    return Mailing(pieces, refusals, relaxed)


def _recipient(candidate: Candidate, to: Addressing, parcels: int) -> Recipient:
    """Return whom a letter is written to: of an owner of several parcels among those that are reached it may say so."""
    if to is Addressing.RESIDENT:
        return Recipient.RESIDENT
    if candidate.recipient is Recipient.PERSON and parcels > 1:
        return Recipient.PERSON_SEVERAL
    return candidate.recipient
