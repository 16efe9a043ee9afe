"""Figures that are kept by team and parcel, as traits ask for them: the parcels that have one within a range are looked up once, as ids."""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce
from operator import or_
from typing import Any

from django.db.models import BooleanField, Case, Field, Model, OuterRef, Q, QuerySet, Subquery, When
from django.db.models import Value as Constant
from django.db.models.expressions import BaseExpression

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Exactly, FigureRange, Value

Kept = type[Model]
"""A model whose rows have a team and a parcel, one row for both."""


def value_of(model: Kept, column: str, field: type[Field]) -> Callable[[Scope], BaseExpression]:
    """Return what gives a parcel's figure, for columns, sorting and files."""

    def value(scope: Scope) -> BaseExpression:
        return Subquery(model._default_manager.filter(team=scope.team, parcel=OuterRef("pk")).values(column), output_field=field())

    return value


def _known(model: Kept, column: str, scope: Scope) -> QuerySet[Any]:
    return model._default_manager.filter(team=scope.team, **{f"{column}__isnull": False})


def asked_of(model: Kept, column: str) -> Callable[[tuple[Value, ...], Scope], Q]:
    """Return what makes values a condition: true within them, false where the figure is another, unknown where there is none."""

    def condition(values: tuple[Value, ...], scope: Scope) -> Q:
        known = _known(model, column, scope).values("parcel")
        return reduce(or_, (_one(value, known, column) for value in values))

    return condition


def among(model: Kept, column: str) -> Callable[[tuple[Value, ...], Scope], QuerySet[Any]]:
    """Return what looks the parcels up that have a figure within one of some values."""

    def ids(values: tuple[Value, ...], scope: Scope) -> QuerySet[Any]:
        return _known(model, column, scope).filter(reduce(or_, (_within(value, column) for value in values))).values("parcel")

    return ids


def _one(value: Value, known: QuerySet[Any], column: str) -> Q:
    # Of most parcels no figure is kept: they are told by one look.
    return Q(
        Case(
            When(~Q(pk__in=known), then=Constant(None)),
            When(pk__in=known.filter(_within(value, column)), then=Constant(True)),
            default=Constant(False),
            output_field=BooleanField(null=True),
        )
    )


def _within(value: Value, column: str) -> Q:
    if isinstance(value, Exactly):
        return Q(**{column: float(str(value.value))})
    assert isinstance(value, FigureRange)
    low = Q() if value.low is None else Q(**{f"{column}__gte": float(value.low)})
    return low if value.high is None else low & Q(**{f"{column}__lte": float(value.high)})


def not_computed(model: Kept) -> Callable[[Scope], Q]:
    """Return the condition that a parcel's figures have not been computed."""
    return lambda scope: ~Q(pk__in=model._default_manager.filter(team=scope.team).values("parcel"))
