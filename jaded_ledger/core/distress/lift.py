"""Lift: how often properties with a sign were listed or sold within a year after it, against those without.

A case is a property's first sign of a kind in a calendar year, a year or more before the records' end. It came to something if a
sale at arm's length or a listing for sale is dated in the year that followed. Beside it stand the properties of the same
county that never had such a sign, over the same calendar years. What is said is that one went before the other in these records:
not that it is the cause, and nothing of a single owner.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from math import sqrt
from statistics import NormalDist
from typing import NamedTuple

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.distress.signals import TOLD_BY, SignalKind

LEAST_CASES = 50
"""Under so many cases, on either side, nothing is said."""
_Z = NormalDist().inv_cdf(0.975)
"""How many standard deviations hold 95 % of a normal distribution."""
_A_YEAR = Length(1, CalendarUnit.YEAR)
TRACELESS = frozenset({SignalKind.TAX_DELINQUENT})
"""Signs that the records forget: tax that was paid since, as at most sales, is no longer shown as having been due."""

OUTCOMES_IN = ("deeds", "listings")
"""The kinds of record that tell what became of it."""


class History(NamedTuple):
    """A property's signs, open and closed, as pairs of kind and day, and the days on which it was listed or sold."""

    signs: tuple[tuple[SignalKind, date], ...]
    outcomes: tuple[date, ...]


class CountyHistory(NamedTuple):
    """A county's properties. ``parcels`` is how many there are; those with neither sign nor outcome need not be among ``histories``.

    ``kinds`` are the kinds of record on file, ``through`` the day to which both deeds and listings reach.
    """

    parcels: int
    kinds: frozenset[str]
    through: date | None
    histories: Iterable[History]


@dataclass(frozen=True)
class Lift:
    """What became of properties with a sign. Shares are of 1; None where nothing can be said."""

    kind: SignalKind
    cases: int = 0
    hits: int = 0
    without: int = 0
    """How many properties never had such a sign."""
    expected: float = 0.0
    """How many of as many properties without would have been listed or sold in the same years."""

    @property
    def is_withheld(self) -> bool:
        return self.kind in TRACELESS or self.cases < LEAST_CASES or self.without < LEAST_CASES

    @property
    def share(self) -> float | None:
        return None if self.is_withheld else self.hits / self.cases

    @property
    def lift(self) -> float | None:
        """How many times as often; None where it is withheld or none without came to anything."""
        return None if self.is_withheld or not self.expected else self.hits / self.expected

    @property
    def range(self) -> tuple[float, float] | None:
        """Between which figures the lift lies 19 times of 20, those without taken as exact: they are many. None where there is none."""
        if self.lift is None:
            return None
        low, high = share_range(self.hits, self.cases)
        return low * self.cases / self.expected, high * self.cases / self.expected

    @property
    def may_be_chance(self) -> bool:
        """Whether so few cases could differ as much where the sign says nothing."""
        return self.range is not None and self.range[0] <= 1 <= self.range[1]

    @property
    def why_withheld(self) -> str:
        """In words why nothing is said; blank where something is."""
        if self.kind in TRACELESS:
            return "the records forget it: tax paid since is no longer shown as having been due"
        if self.cases < LEAST_CASES:
            return f"fewer than {LEAST_CASES} cases"
        return f"fewer than {LEAST_CASES} properties without" if self.without < LEAST_CASES else ""


def share_range(hits: int, cases: int) -> tuple[float, float]:
    """Return between which shares the true one lies 19 times of 20 (the score interval of Wilson, J. Am. Stat. Assoc. 22, 1927).

    >>> [round(end, 4) for end in share_range(15, 148)]
    [0.0624, 0.1605]
    """
    share, rest = hits / cases, _Z * _Z / cases
    middle, reach = share + rest / 2, _Z * sqrt((share * (1 - share) + rest / 4) / cases)
    return max(0.0, (middle - reach) / (1 + rest)), min(1.0, (middle + reach) / (1 + rest))


def came_to_something(on: date, outcomes: Iterable[date]) -> bool:
    """Return whether a listing or a sale is dated in the year after a day, the day itself left out."""
    end = shift(on, _A_YEAR, 1)
    return any(on < day <= end for day in outcomes)


class _County:
    """The counting of one county."""

    def __init__(self, county: CountyHistory) -> None:
        self.parcels, self.kinds = county.parcels, county.kinds
        self.outcomes: Counter[int] = Counter()
        """In each year, how many properties were listed or sold."""
        self.ever: Counter[SignalKind] = Counter()
        self.outcomes_with: dict[SignalKind, Counter[int]] = defaultdict(Counter)
        self.cases: Counter[tuple[SignalKind, int]] = Counter()
        self.hits: Counter[tuple[SignalKind, int]] = Counter()
        if county.through is not None and set(OUTCOMES_IN) <= county.kinds:
            self._count(county.histories, shift(county.through, _A_YEAR, -1))

    def _count(self, histories: Iterable[History], latest: date) -> None:
        cases: list[tuple[SignalKind, date, bool]] = []
        earliest = date.max
        for history in histories:
            years = {day.year for day in history.outcomes}
            self.outcomes.update(years)
            earliest = min([earliest, *history.outcomes])
            firsts: dict[tuple[SignalKind, int], date] = {}
            for kind, on in history.signs:
                firsts[kind, on.year] = min(on, firsts.get((kind, on.year), on))
            for kind in {kind for kind, _ in firsts}:
                self.ever[kind] += 1
                self.outcomes_with[kind].update(years)
            cases += [(kind, on, came_to_something(on, history.outcomes)) for (kind, _), on in firsts.items() if on <= latest]
        for kind, on, is_hit in cases:
            # Before the first outcome on file nothing could be told.
            if on >= earliest and TOLD_BY[kind] in self.kinds:
                self.cases[kind, on.year] += 1
                self.hits[kind, on.year] += is_hit

    def lift(self, kind: SignalKind) -> Lift:
        years = [year for of, year in self.cases if of is kind]
        if not years:
            return Lift(kind)
        without = self.parcels - self.ever[kind]
        share = {year: (self.outcomes[year] - self.outcomes_with[kind][year]) / without if without else 0.0 for year in years}
        cases = sum(self.cases[kind, year] for year in years)
        hits = sum(self.hits[kind, year] for year in years)
        return Lift(kind, cases, hits, without, sum(self.cases[kind, year] * share[year] for year in years))


def lifts(counties: Iterable[CountyHistory]) -> tuple[Lift, ...]:
    """Return the lift of every sign over some counties, each property being held against those of its own county."""
    counted = [_County(county) for county in counties]
    found = []
    for kind in SignalKind:
        parts = [one.lift(kind) for one in counted]
        found.append(
            Lift(
                kind,
                sum(part.cases for part in parts),
                sum(part.hits for part in parts),
                sum(part.without for part in parts),
                sum(part.expected for part in parts),
            )
        )
    return tuple(found)
