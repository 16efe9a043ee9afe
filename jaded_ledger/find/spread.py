"""How a trait's figures or days are spread over some parcels: counted between round ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db.models import Aggregate, Count, Expression, Func, IntegerField, QuerySet, Value

from jaded_ledger.core.criteria.bins import Edge, edges_between, range_text
from jaded_ledger.core.criteria.display import day_text, figure_shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.figures import field_for, known_of, plain
from jaded_ledger.records.models import ParcelFacts


class _Ends(Aggregate):
    """The least and the largest value, and those that leave two in a hundred outside."""

    function = "PERCENTILE_DISC"
    template = "%(function)s(ARRAY[0, 0.02, 0.98, 1]) WITHIN GROUP (ORDER BY %(expressions)s)"


class _Bucket(Func):
    """How many of some ends, in order, lie at or below a value."""

    function = "WIDTH_BUCKET"
    output_field = IntegerField()

    def as_sql(self, compiler: Any, connection: Any, **options: Any) -> tuple[str, Any]:  # type: ignore[override]
        if getattr(connection.features, "has_width_bucket", True):
            return super().as_sql(compiler, connection, **options)
        value, ends = self.source_expressions
        of, params = compiler.compile(value)
        whens = " ".join(f"WHEN {of} < %s THEN {place}" for place in range(len(ends.value)))  # type: ignore[attr-defined]
        return f"CASE {whens} ELSE {len(ends.value)} END", [part for end in ends.value for part in (*params, end)]  # type: ignore[attr-defined]


def value_text(trait: Trait, value: Any) -> str:
    """Return a figure or a day as a page shows it."""
    return day_text(value) if isinstance(value, date) else figure_shown(trait, plain(value))


@dataclass(frozen=True)
class Spread:
    """Counts between ``edges``; what lies before the first and after the last is with the first and the last count."""

    trait: Trait
    edges: tuple[Edge, ...]
    counts: tuple[int, ...]
    known: int
    least: Any
    most: Any

    def from_to(self, place: int) -> tuple[Edge | None, Edge | None]:
        """Return from where to before where a count goes; None for an open end."""
        last = len(self.counts) - 1
        return self.edges[place] if place else None, self.edges[place + 1] if place < last else None

    def typed(self, place: int) -> tuple[str, str]:
        """Return the first and the last value of a count as they are typed; blank for an open end."""
        low, before = self.from_to(place)
        first = "" if low is None else str(low) if isinstance(low, date) else range_text(low, None, self.trait).removesuffix("..")
        if before is None:
            return first, ""
        if self.trait.kind is Kind.DATE:
            return first, range_text(date.min, before, self.trait).rpartition(" ")[2]
        return first, range_text(None, before, self.trait).removeprefix("..")

    @property
    def is_by_value(self) -> bool:
        """Whether each bar stands for one whole number, apart from the open ends."""
        steps = zip(self.edges, self.edges[1:], strict=False)
        return self._is_whole and all(before - low == 1 for low, before in steps)  # type: ignore[operator]

    @property
    def _is_whole(self) -> bool:
        return self.trait.kind is not Kind.DATE and not self.trait.decimals

    def mark(self, place: int) -> str:
        """Return the label of a bar for one whole number; an open end says so: ``≤ 1``, ``8+``."""
        text = value_text(self.trait, self.edges[place])
        if not place and self.least < self.edges[0]:
            return f"≤ {text}"
        return f"{text}+" if place == len(self.counts) - 1 and self.most > self.edges[place] else text

    def reads(self, place: int) -> str:
        """Return from where to where a count goes, in words."""
        if self.trait.kind is not Kind.DATE:
            return self._figures(place)
        low, before = self.from_to(place)
        if low is None:
            return f"before {value_text(self.trait, before)}" if before is not None else "all"
        first = value_text(self.trait, low)
        return f"from {first}" if before is None else f"from {first} to before {value_text(self.trait, before)}"

    def _figures(self, place: int) -> str:
        """Return the range of a bar in words."""
        low, before = self.from_to(place)
        end = "" if before is None else value_text(self.trait, before - 1 if self._is_whole else before)  # type: ignore[operator]
        if low is None:
            return f"{'up to' if self._is_whole else 'under'} {end}" if end else "all"
        first = value_text(self.trait, low)
        if before is None:
            return f"{first} or more"
        if first == end:
            return first
        return f"{first} to {end}" if self._is_whole else f"{first} to under {end}"


def bar_of(trait: Trait, edges: Sequence[Edge]) -> Expression:
    """Return, for parcels with a trait's figure as ``of``, between which of some ends it lies, from 0."""
    inner = list(edges[1:-1])
    return _Bucket("of", Value(inner, output_field=ArrayField(field_for(trait)))) if inner else Value(0)


def spread_of(parcels: QuerySet[ParcelFacts], trait: Trait, edges: Sequence[Edge] = ()) -> Spread | None:
    """Return how a range trait is spread over some parcels, between round ends unless those of another spread are given.

    None where no value is known.
    """
    known = known_of(parcels, trait)
    found = known.aggregate(ends=_Ends("of", output_field=ArrayField(field_for(trait))), known=Count("pk"))
    if not found["ends"]:
        return None
    least, low, high, most = found["ends"]
    edges = edges or edges_between(low, high, trait)
    counted = known.annotate(bar=bar_of(trait, edges)).values("bar").annotate(parcels=Count("pk")).order_by()
    counts = dict(counted.values_list("bar", "parcels"))
    return Spread(trait, tuple(edges), tuple(counts.get(place, 0) for place in range(len(edges) - 1)), found["known"], least, most)
