"""The parcels that searches run on, as a team sees them on a day."""

from __future__ import annotations

from collections.abc import Callable

from django.db.models import Expression, OuterRef, QuerySet, Subquery, Value
from django.db.models.functions import NullIf, StrIndex

from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import standing

_contributed: dict[str, Callable[[Scope], Expression]] = {}


def contribute(name: str, value: Callable[[Scope], Expression]) -> None:
    """Have parcels known by one more name of a column: what an app that stands above this one keeps of them for a team."""
    _contributed[name] = value


_GRADES = "".join(AreaGrade.Grade.values)


def parcels(scope: Scope) -> QuerySet[ParcelFacts]:
    """Return all parcels, with what grows with time and what the team itself knows under the names of their columns."""
    grades = AreaGrade.objects.filter(team=scope.team, area=OuterRef("neighbourhood_id")).values("grade")
    code = NullIf(StrIndex(Value(_GRADES), Subquery(grades[:1])), Value(0))
    return standing(scope.today).alias(area_grade=code, **{name: value(scope) for name, value in _contributed.items()})
