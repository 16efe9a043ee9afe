"""What a trait is in the searchable row: its column, its type, and the condition that it is unknown."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import cast

from django.db.models import DateField, Expression, F, Field, Func, IntegerField, Model, Q, QuerySet, Value
from django.db.models.functions import Coalesce

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.records.models import ParcelFacts


class _YearsSince(Func):
    """Whole years from a column's day to another."""

    template = "EXTRACT(YEAR FROM AGE(%(expressions)s))::integer"
    output_field = IntegerField()


class DaysSince(Func):
    """Days from a column's day to another, 0 for a day that is yet to come."""

    template = "GREATEST(%(expressions)s, 0)"
    arg_joiner = " - "
    output_field = IntegerField()


def _grown(trait: Trait, today: date) -> Expression:
    """Return what a trait that grows with time is on a day."""
    day = Value(today, output_field=DateField())
    if trait.since == trait.fact:
        return _YearsSince(day, F(trait.since))
    return F(trait.fact) + Coalesce(DaysSince(day, F(trait.since)), 0)


def column_of(trait: Trait) -> str:
    """Return the name by which queries from ``standing`` know a trait's values."""
    return f"grown_{trait.key.replace('-', '_')}" if trait.since else trait.fact


def parcels_as_of(today: date) -> QuerySet[ParcelFacts]:
    """Return all parcels' facts as of a day: what grows with time is known by its column's name."""
    grown = {column_of(trait): _grown(trait, today) for trait in CATALOGUE if trait.since}
    return ParcelFacts.objects.alias(**grown)


def field_of(trait: Trait) -> Field | None:
    """Return the field that holds a trait's values; None for what is kept among a county's own, or computed when asked."""
    if trait.is_own or trait.since or trait.of_team:
        return None
    model: type[Model] = ParcelFacts
    *steps, name = trait.fact.split("__")
    for step in steps:
        model = cast("type[Model]", model._meta.get_field(step).related_model)
    return cast("Field", model._meta.get_field(name))


def table_of(trait: Trait) -> type[Model]:
    """Return the table of texts or places that a trait's column points at."""
    return cast("type[Model]", ParcelFacts._meta.get_field(trait.fact).related_model)


def is_unknown(trait: Trait) -> Q:
    """Return the condition that a trait is unknown. It is true or false, never unknown itself."""
    blank = Q(**{f"{trait.fact}__isnull": True})
    if not trait.event:
        return blank
    # Where there was no such event, its figures are none, not unknown.
    return Q(**{f"{trait.event}__isnull": True}) | (Q(**{trait.event: True}) & blank)


def with_computed(parcels: QuerySet[ParcelFacts], traits: Iterable[Trait]) -> QuerySet[ParcelFacts]:
    """Return the parcels with the values of those traits that are computed when asked for, or stand in a row that they point at."""
    needed = {value_name(trait): F(column_of(trait)) for trait in traits if is_computed(trait)}
    return parcels.annotate(**needed) if needed else parcels


def is_computed(trait: Trait) -> bool:
    """Return whether a trait's value is no column of the row itself."""
    return bool(trait.since) or trait.of_team or (not trait.is_own and "__" in trait.fact)


def value_name(trait: Trait) -> str:
    """Return the attribute of a row that holds a trait's value."""
    return f"value_{trait.key.replace('-', '_')}" if is_computed(trait) else trait.fact


FEW = (Kind.CHOICE, Kind.FLAG, Kind.PLACE, Kind.SET)
"""Kinds of traits whose values are few."""
