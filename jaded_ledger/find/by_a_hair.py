"""What a line alone takes off, nearest to its limit first: equity 58 % where 60 % was asked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import reduce
from typing import Any

from django.db.models import DecimalField, Expression, F, Func, QuerySet, Value
from django.db.models.functions import Greatest, Least

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import value_phrase
from jaded_ledger.core.criteria.search import Criterion, Line, Search
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.figures import field_for, figure_of
from jaded_ledger.find.histogram import ranges_of
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import cell_text, value_of, with_values
from jaded_ledger.find.rows_by_hand import KEYS, Way
from jaded_ledger.records.models import ParcelFacts

SHOWN = 50
_FIGURE = DecimalField(max_digits=30, decimal_places=6)
_RANGES = (Kind.NUMBER, Kind.MONEY, Kind.PERCENT, Kind.DATE)
_YEAR = Decimal(365)


class _Beyond(Func):
    """By how much the first of two values lies above the second: a figure, or days."""

    arg_joiner = " - "
    template = "(%(expressions)s)::numeric"
    output_field = _FIGURE


@dataclass(frozen=True)
class NearMiss:
    """A parcel that one line alone takes off, and what it has of what that line asks."""

    parcel_id: int
    address: str
    number: str
    line: int
    why: str
    distance: Decimal | None
    """How far it is from the limit, as a share of it, or of a year; None where that can't be told."""


def _distance(criterion: Criterion, today: date) -> Expression | None:
    """Return how far a value lies from the nearest end of what a criterion takes in, as a share of that end."""
    trait = CATALOGUE[criterion.trait]
    if trait.kind not in _RANGES or not criterion.accepts:
        return None
    value, field = figure_of(trait), field_for(trait)
    found: list[Expression] = []
    for low, high in ranges_of(criterion, today):
        apart: list[Expression] = [
            _Beyond(*(pair if end is low else reversed(pair))) / Value(_scale(end), output_field=_FIGURE)
            for end in (low, high)
            if end is not None
            for pair in [(Value(end, output_field=field), value)]
        ]
        found.append(reduce(_greatest, apart))
    return reduce(_least, found) if found else None


def _greatest(one: Expression, other: Expression) -> Expression:
    return Greatest(one, other)


def _least(one: Expression, other: Expression) -> Expression:
    return Least(one, other)


def _scale(end: Any) -> Decimal:
    return _YEAR if isinstance(end, date) else max(abs(Decimal(str(end))), Decimal(1))


def _missed(search: Search, place: int, scope: Scope) -> QuerySet[ParcelFacts]:
    """Return the parcels that every other line leaves and this one takes off."""
    others = Search(search.counties, (*search.lines[:place], *search.lines[place + 1 :]))
    return compile(others, scope).matches.exclude(pk__in=compile(search, scope).matches.order_by().values("pk"))


def _members(line: Line) -> list[Criterion]:
    return [one for one in line.members() if one.trait != KEYS[Way.KEPT]]


def near_misses(search: Search, place: int, scope: Scope) -> list[NearMiss]:
    """Return what a line alone takes off, at most fifty parcels, nearest first; those whose value isn't known come last.

    Raises CriteriaError.
    """
    line = search.lines[place]
    if not line.is_applied:
        return []
    members = _members(line)
    apart = [distance for one in members if (distance := _distance(one, scope.today)) is not None]
    missed = _missed(search, place, scope)
    missed = missed.annotate(apart=reduce(_least, apart) if apart else Value(None, output_field=_FIGURE))
    ordered = missed.order_by(F("apart").asc(nulls_last=True), "pk").select_related("parcel", "address")
    traits = [CATALOGUE[one.trait] for one in members]
    return [
        NearMiss(facts.parcel_id, facts.street_line, facts.parcel.number, place, _why(facts, members), facts.apart)  # type: ignore[attr-defined]
        for facts in with_values(ordered, traits)[:SHOWN]
    ]


def _why(facts: ParcelFacts, members: Sequence[Criterion]) -> str:
    """Return in words what a parcel has and what was asked."""
    found = []
    for one in members:
        trait = CATALOGUE[one.trait]
        value = value_of(facts, trait)
        has = "not known" if value is None else cell_text(facts, trait, value)
        found.append(f"{trait.label} {has} where {value_phrase(one)} is asked")
    return "; ".join(found)


def missed_by(search: Search, place: int, parcel: int, scope: Scope) -> str:
    """Return in words what a parcel has of what a line asks, and what that line asks; blank for one that is retired."""
    members = _members(search.lines[place])
    traits = [CATALOGUE[one.trait] for one in members]
    facts = with_values(parcels(scope).filter(pk=parcel), traits).first()
    return _why(facts, members) if facts else ""


def near_misses_of_all(search: Search, scope: Scope) -> list[NearMiss]:
    """Return what each line alone takes off by a hair, at most fifty parcels of all lines, nearest first. Raises CriteriaError."""
    every = [miss for place in range(len(search.lines)) for miss in near_misses(search, place, scope) if miss.distance is not None]
    return sorted(every, key=lambda miss: (miss.distance, miss.line, miss.parcel_id))[:SHOWN]
