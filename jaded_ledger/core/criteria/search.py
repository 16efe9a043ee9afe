"""A search: the chosen counties and the criteria that must all hold."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from decimal import Decimal
from enum import StrEnum

from jaded_ledger.core.dates import Span
from jaded_ledger.core.lengths import METERS_PER_FOOT, METERS_PER_MILE


@dataclass(frozen=True)
class Exactly:
    """A figure exactly, a choice by its key, yes or no, or a place by its name."""

    value: Decimal | str | bool


@dataclass(frozen=True)
class Presence:
    """That there is such an event at all, or none: ``any``, ``none``."""

    is_there: bool


@dataclass(frozen=True)
class FigureRange:
    """Figures from one to another, both included; None leaves an end open."""

    low: Decimal | None
    high: Decimal | None


class Match(StrEnum):
    """How a name as recorded is compared."""

    WORDS = "words"
    BEGINNING = "beginning"
    EXACT = "exact"


@dataclass(frozen=True)
class Named:
    """A name as recorded: holding these words anywhere, beginning so, or exactly so."""

    text: str
    match: Match = Match.WORDS


@dataclass(frozen=True)
class Numbers:
    """Parcel numbers by a pattern (see ``parcel_numbers``); ``county`` where a number occurs in several."""

    pattern: str
    county: str = ""


class Quantity(StrEnum):
    """How many of several must be there."""

    ANY = "any of"
    ALL = "all of"


@dataclass(frozen=True)
class Members:
    """Phrases in a text, or members of a set. ``within`` names the fields of the text that are looked at; none: all of them."""

    quantity: Quantity
    items: tuple[str, ...]
    within: tuple[str, ...] = ()


class DistanceUnit(StrEnum):
    """In what a distance is said."""

    MILES = "mi"
    KILOMETERS = "km"
    METERS = "m"
    FEET = "ft"

    @property
    def meters(self) -> float:
        return {
            DistanceUnit.MILES: METERS_PER_MILE,
            DistanceUnit.KILOMETERS: 1000.0,
            DistanceUnit.METERS: 1.0,
            DistanceUnit.FEET: METERS_PER_FOOT,
        }[self]


class Center(StrEnum):
    """What a ring may lie around."""

    PARCEL = "parcel"
    LISTING = "listing"
    ZIP = "zip"
    AREA = "area"
    POINT = "point"
    ADDRESS = "address"


@dataclass(frozen=True)
class Ring:
    """Places from one distance to another from a center, both included; None leaves an end open.

    ``at`` names the center: a parcel number with or without its county, a listing's number, a ZIP Code, an area of the team's, latitude
    and longitude in degrees (WGS 84), or a street address.
    """

    low: Decimal | None
    high: Decimal | None
    unit: DistanceUnit
    center: Center
    at: str

    @property
    def meters(self) -> tuple[float | None, float | None]:
        """Its ends."""
        low, high = (None if end is None else float(end) * self.unit.meters for end in (self.low, self.high))
        return low, high


Value = Exactly | Presence | FigureRange | Named | Numbers | Members | Ring | Span


@dataclass(frozen=True)
class Criterion:
    """One trait with what it must be.

    ``unknown`` keeps parcels whose value is unknown (with nothing accepted or refused it asks for just those);
    ``struck`` keeps the line without applying it; ``ask`` has the value asked for whenever the search is opened.
    """

    trait: str
    accepts: tuple[Value, ...] = ()
    refuses: tuple[Value, ...] = ()
    unknown: bool = False
    struck: bool = False
    ask: bool = False

    @property
    def is_applied(self) -> bool:
        """Whether it takes part in the search: not struck, and not still waiting for its value."""
        return not self.struck and bool(self.accepts or self.refuses or self.unknown)

    def members(self) -> tuple[Criterion, ...]:
        return (self,)


@dataclass(frozen=True)
class AnyOf:
    """A group of which one must hold; one line of the ledger."""

    criteria: tuple[Criterion, ...]
    struck: bool = False

    @property
    def is_applied(self) -> bool:
        return not self.struck and any(criterion.is_applied for criterion in self.criteria)

    def members(self) -> tuple[Criterion, ...]:
        return self.criteria


Line = Criterion | AnyOf


@dataclass(frozen=True)
class Search:
    """An opening (no counties: all on record) and lines that must all hold."""

    counties: tuple[str, ...] = ()
    lines: tuple[Line, ...] = field(default=())

    def traits(self) -> tuple[str, ...]:
        """Return the keys of the traits asked about, each once, in order."""
        return tuple(dict.fromkeys(criterion.trait for criterion in self))

    def __iter__(self) -> Iterator[Criterion]:
        for line in self.lines:
            yield from line.members()

    def with_line(self, line: Line) -> Search:
        return replace(self, lines=(*self.lines, line))

    def with_line_at(self, place: int, line: Line) -> Search:
        """Return the search with another line in a place. Raises IndexError."""
        lines = list(self.lines)
        lines[place] = line
        return replace(self, lines=tuple(lines))

    def without_line(self, place: int) -> Search:
        """Return the search without a line. Raises IndexError."""
        lines = list(self.lines)
        del lines[place]
        return replace(self, lines=tuple(lines))
