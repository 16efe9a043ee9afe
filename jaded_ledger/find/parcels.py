"""The parcels that searches run on, as a team sees them on a day."""

from __future__ import annotations

from collections.abc import Hashable
from datetime import date
from functools import lru_cache

from django.db.models import OuterRef, QuerySet, Subquery, Value
from django.db.models.functions import NullIf, StrIndex

from jaded_ledger.accounts.models import AreaGrade, Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import parcels_as_of

_GRADES = "".join(AreaGrade.Grade.values)


@lru_cache(128)
def _known(team: Team, today: date, settings: tuple[Hashable, ...]) -> QuerySet[ParcelFacts]:
    """Return the parcels with all names of columns. Putting that together takes longer than many a search, so it is done once."""
    scope = Scope(team, None, today)
    grades = AreaGrade.objects.filter(team=team, area=OuterRef("neighborhood_id")).values("grade")
    code = NullIf(StrIndex(Value(_GRADES), Subquery(grades[:1])), Value(0))
    columns = {name: value(scope) for declared in team_traits().values() for name, value in declared.columns.items()}
    return parcels_as_of(today).alias(area_grade=code, **columns)


def parcels(scope: Scope) -> QuerySet[ParcelFacts]:
    """Return all parcels, with what grows with time and what the team itself knows under the names of their columns."""
    return _known(scope.team, scope.today, tuple(declared.settings(scope) for declared in team_traits().values())).all()
