"""How a trait's figures or days are spread over some parcels, as bars that can be brushed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from math import sqrt
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db.models import Aggregate, Count, DateField, DecimalField, Expression, F, Field, Func, IntegerField, Max, Min, QuerySet, Value
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast

from jaded_ledger.core import dates
from jaded_ledger.core.criteria.bins import Edge, edges_between, range_text
from jaded_ledger.core.criteria.display import day_text, figure_shown
from jaded_ledger.core.criteria.search import Criterion, Exactly, FigureRange
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import column_of

_FIGURE = DecimalField(max_digits=30, decimal_places=6)
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


class _Ends(Aggregate):
    """The least and the largest value, and those that leave two in a hundred outside."""

    function = "PERCENTILE_DISC"
    template = "%(function)s(ARRAY[0, 0.02, 0.98, 1]) WITHIN GROUP (ORDER BY %(expressions)s)"


class _Bucket(Func):
    function = "WIDTH_BUCKET"
    output_field = IntegerField()


def _field(trait: Trait) -> Field:
    return DateField() if trait.kind is Kind.DATE else _FIGURE


def _value(trait: Trait) -> Expression:
    """Return a trait's value as the database compares it."""
    held = KeyTextTransform(trait.fact.removeprefix("further__"), "further") if trait.is_own else F(column_of(trait))
    return Cast(held, _field(trait))


def ends_of(parcels: QuerySet[ParcelFacts], trait: Trait) -> tuple[Any, Any, int] | None:
    """Return the least and the largest value of a range trait among some parcels, and of how many one is known."""
    known = parcels.annotate(of=_value(trait)).filter(of__isnull=False)
    found = known.aggregate(least=Min("of"), most=Max("of"), known=Count("pk"))
    if not found["known"]:
        return None
    ends = (found["least"], found["most"])
    least, most = ends if trait.kind is Kind.DATE else map(_plain, ends)
    return least, most, found["known"]


def histogram(parcels: QuerySet[ParcelFacts], trait: Trait, criterion: Criterion | None, today: date) -> Histogram | None:
    """Return the histogram of a range trait over some parcels, what a criterion takes in marked; None where no value is known."""
    known = parcels.annotate(of=_value(trait)).filter(of__isnull=False)
    spread = known.aggregate(ends=_Ends("of", output_field=ArrayField(_field(trait))), known=Count("pk"))
    if not spread["ends"]:
        return None
    least, low, high, most = spread["ends"]
    edges = edges_between(low, high, trait)
    inner = edges[1:-1]
    thresholds = Value(inner, output_field=ArrayField(_field(trait)))
    counted = known.annotate(bar=_Bucket("of", thresholds) if inner else Value(0)).values("bar").annotate(parcels=Count("pk")).order_by()
    counts = dict(counted.values_list("bar", "parcels"))
    return Histogram(
        trait, tuple(_bars(trait, edges, counts, _taken_in(criterion, today))), spread["known"], _shown(trait, least), _shown(trait, most)
    )


def _shown(trait: Trait, value: Any) -> str:
    return day_text(value) if isinstance(value, date) else figure_shown(trait, _plain(value))


def _plain(value: Decimal) -> int | float:
    return int(value) if value == int(value) else float(value)


def _bars(trait: Trait, edges: Sequence[Edge], counts: dict[int, int], taken_in: Sequence[tuple[Any, Any]]) -> list[Bar]:
    last = len(edges) - 2
    width, tallest = WIDTH / (last + 1), max(counts.values(), default=1)
    bars = []
    for place in range(last + 1):
        low = edges[place] if place else None
        before = edges[place + 1] if place < last else None
        count = counts.get(place, 0)
        # By the square root, so that the few beside a very common value can be seen and brushed.
        height = max(2.0, HEIGHT * sqrt(count / tallest)) if count else 0
        is_in = any(
            (first is None or before is None or first < before) and (end is None or low is None or end >= low) for first, end in taken_in
        )
        bars.append(
            Bar(
                *_ends(low, before, trait), _reads(low, before, trait), count, is_in,
                round(place * width, 2), round(HEIGHT - height, 2), round(width - _GAP, 2), round(height, 2),
            )
        )  # fmt: skip
    return bars


def _ends(low: Edge | None, before: Edge | None, trait: Trait) -> tuple[str, str]:
    """Return a bar's ends as they are typed."""
    first = "" if low is None else str(low) if isinstance(low, date) else range_text(low, None, trait).removesuffix("..")
    if before is None:
        return first, ""
    if trait.kind is Kind.DATE:
        return first, range_text(date.min, before, trait).rpartition(" ")[2]
    return first, range_text(None, before, trait).removeprefix("..")


def _reads(low: Edge | None, before: Edge | None, trait: Trait) -> str:
    if low is None:
        return f"before {_shown(trait, before)}" if before is not None else "all"
    return f"from {_shown(trait, low)}" if before is None else f"from {_shown(trait, low)} to before {_shown(trait, before)}"


def _taken_in(criterion: Criterion | None, today: date) -> list[tuple[Any, Any]]:
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
