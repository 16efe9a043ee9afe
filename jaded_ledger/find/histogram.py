"""How a trait's figures or days are spread over some parcels, as bars that can be brushed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from math import sqrt
from typing import Any

from django.db.models import Count, Max, Min, QuerySet

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.figures import known_of, plain
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.spread import Spread, spread_of, value_text
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import column_of

WIDTH, HEIGHT = 340, 56
_GAP = 1


@dataclass(frozen=True)
class Bar:
    """One bar: the ends as they are typed (blank: open), how it reads, and where it is drawn."""

    low: str
    high: str
    reads: str
    count: int
    is_in: bool
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Histogram:
    """Bars over the values of some parcels, and how many of them have a value."""

    trait: Trait
    bars: tuple[Bar, ...]
    known: int
    least: str
    most: str

    @property
    def size(self) -> tuple[int, int]:
        return WIDTH, HEIGHT


def ends_of(parcels: QuerySet[ParcelFacts], trait: Trait) -> tuple[Any, Any, int] | None:
    """Return the least and the largest value of a range trait among some parcels, and of how many one is known."""
    known = known_of(parcels, trait)
    found = known.aggregate(least=Min("of"), most=Max("of"), known=Count("pk"))
    if not found["known"]:
        return None
    ends = (found["least"], found["most"])
    least, most = ends if trait.kind is Kind.DATE else map(plain, ends)
    return least, most, found["known"]


def histogram(compiled: Compiled, trait: Trait, criterion: Criterion | None) -> Histogram | None:
    """Return the histogram of a range trait over a search's matches, what a criterion takes in marked; None where no value is known."""
    spread = answered(compiled, lambda asked: spread_of(asked.matches, trait), [column_of(trait)])
    if spread is None:
        return None
    taken_in = ranges_of(criterion, compiled.scope.today)
    return Histogram(trait, tuple(_bars(spread, taken_in)), spread.known, value_text(trait, spread.least), value_text(trait, spread.most))


def _bars(spread: Spread, taken_in: Sequence[tuple[Any, Any]]) -> list[Bar]:
    width, tallest = WIDTH / len(spread.counts), max(spread.counts)
    bars = []
    for place, count in enumerate(spread.counts):
        low, before = spread.from_to(place)
        # By the square root, so that the few beside a very common value can be seen and brushed.
        height = max(2.0, HEIGHT * sqrt(count / tallest)) if count else 0
        is_in = any(
            (first is None or before is None or first < before) and (end is None or low is None or end >= low) for first, end in taken_in
        )
        bars.append(
            Bar(
                *spread.typed(place), spread.reads(place), count, is_in,
                round(place * width, 2), round(HEIGHT - height, 2), round(width - _GAP, 2), round(height, 2),
            )
        )  # fmt: skip
    return bars


def ranges_of(criterion: Criterion | None, today: date) -> list[tuple[Any, Any]]:
    """Return from where to where the values go that a criterion takes in; None for an open end."""
    found: list[tuple[Any, Any]] = []
    for value in (criterion.accepts or criterion.refuses) if criterion else ():
        match value:
            case Exactly(Decimal() as figure):
                found.append((figure, figure))
            case FigureRange(low, high):
                found.append((low, high))
            case (
                dates.On()
                | dates.Before()
                | dates.Since()
                | dates.BetweenDays()
                | dates.InTheLast()
                | dates.InTheNext()
                | dates.MoreThanAgo()
            ):
                days = value.resolve(today)
                found.append((days.low, days.high))
    return found
