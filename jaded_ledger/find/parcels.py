"""The parcels that searches run on, as a team sees them on a day."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from datetime import date
from functools import lru_cache

from django.db.models import Expression, OuterRef, QuerySet, Subquery, Value
from django.db.models.functions import NullIf, StrIndex

from jaded_ledger.accounts.models import AreaGrade, Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import parcels_as_of

_contributed: dict[str, Callable[[Scope], Expression]] = {}
_settings: dict[str, Callable[[Scope], Hashable]] = {}
_GRADES = "".join(AreaGrade.Grade.values)


def register_column(name: str, value: Callable[[Scope], Expression], settings: Callable[[Scope], Hashable] | None = None) -> None:
    """Have parcels known by one more name of a column: what an app that stands above this one keeps of them for a team.

    ``settings`` gives what the expression itself depends on, beside the team and the day.
    """
    _contributed[name] = value
    if settings is not None:
        _settings[name] = settings


@lru_cache(128)
def _known(team: Team, today: date, settings: tuple[Hashable, ...]) -> QuerySet[ParcelFacts]:
    """Return the parcels with all names of columns. Putting that together takes longer than many a search, so it is done once."""
    scope = Scope(team, None, today)
    grades = AreaGrade.objects.filter(team=team, area=OuterRef("neighbourhood_id")).values("grade")
    code = NullIf(StrIndex(Value(_GRADES), Subquery(grades[:1])), Value(0))
    return parcels_as_of(today).alias(area_grade=code, **{name: value(scope) for name, value in _contributed.items()})


def parcels(scope: Scope) -> QuerySet[ParcelFacts]:
    """Return all parcels, with what grows with time and what the team itself knows under the names of their columns."""
    return _known(scope.team, scope.today, tuple(settings(scope) for settings in _settings.values())).all()
