"""What is on the market, and on lists that are marked so, by what a team assumes: computed by the worker, and kept for searches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from django.db import transaction
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.screening import ASKED_NOW
from jaded_ledger.core.deals.expressions import Numbers
from jaded_ledger.core.deals.screening import screen
from jaded_ledger.lists.counts import current
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.rounds import go_round
from jaded_ledger.records.versions import facts_version
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.comp_values import with_calculated_comps
from jaded_ledger.worksheets.defaults import defaults_of_many
from jaded_ledger.worksheets.models import ScreenedList, ScreenedParcel, Screening
from jaded_ledger.worksheets.recorded import RecordedParcels, recorded_parcels

SCREEN = "deals.screen"
"""The kind of job that screens for a team."""
_BATCH = 20_000
_DOLLARS = ("highest_offer", "value_needed", "net_to_seller")
_MOST_DOLLARS = 2_000_000_000


def to_screen(scope: Scope) -> QuerySet[ParcelFacts]:
    """Return the properties that are screened for a team."""
    marked = list(ParcelList.objects.filter(team=scope.team, deleted=None, screened__isnull=False))
    asked = Q(status__in=ASKED_NOW, list_price__gt=0)
    if marked:
        asked |= Q(pk__in=current(marked).values("parcel"))
    return ParcelFacts.objects.filter(asked)


def screened(many: RecordedParcels, scope: Scope) -> list[ScreenedParcel]:
    """Return the figures of some properties as they are kept: dollars whole, percent to the hundredth."""
    record = with_calculated_comps(many.record, many.ids, scope)
    found = screen(record, defaults_of_many(scope, many.places), [many.owed])
    columns = {name: _stored(name, values, len(many.ids)) for name, values in found.items()}
    return [
        ScreenedParcel(
            team=scope.team, parcel_id=parcel_id, screened_on=scope.today, **{name: column[row] for name, column in columns.items()}
        )
        for row, parcel_id in enumerate(many.ids)
    ]  # fmt: skip


def _stored(name: str, values: Numbers, count: int) -> Sequence[float | int | None]:
    numbers = np.broadcast_to(np.asarray(values, dtype=np.float64), (count,))
    if name in _DOLLARS:
        return [None if np.isnan(one) or abs(one) > _MOST_DOLLARS else round(one) for one in numbers.tolist()]
    return [None if np.isnan(one) else round(one, 2) for one in numbers.tolist()]


def screen_team(team_id: int) -> int:
    """Screen for a team; return how many properties. What was screened before and no longer is goes."""
    team = Team.objects.get(pk=team_id)
    scope, version = Scope(team, None, today(team.time_zone)), facts_version()
    Screening.objects.filter(team=team).update(is_waiting=False)
    ids = sorted(to_screen(scope).values_list("pk", flat=True))
    with transaction.atomic():
        ScreenedParcel.objects.filter(team=team).delete()
        for first in range(0, len(ids), _BATCH):
            rows = ParcelFacts.objects.filter(pk__in=ids[first : first + _BATCH])
            ScreenedParcel.objects.bulk_create(screened(recorded_parcels(rows), scope), batch_size=4_000)
        values = {"facts_version": version, "screened_on": scope.today, "count": len(ids)}
        # Asked anew while it ran, it still waits.
        Screening.objects.update_or_create(team=team, defaults=values, create_defaults=values | {"is_waiting": False})
        team.put_up_version()
    return len(ids)


def ask_to_screen(scope: Scope) -> None:
    """Have the worker screen for a team anew."""
    Screening.objects.update_or_create(team=scope.team, defaults={"is_waiting": True})


def mark_list(scope: Scope, which: ParcelList, *, is_marked: bool) -> None:
    """Have a list's properties be screened whether or not they are on the market, or no longer. Raises PermissionDenied."""
    require(scope, WORKSHEETS)
    if is_marked:
        ScreenedList.objects.get_or_create(list=which)
    else:
        ScreenedList.objects.filter(list=which).delete()
    ask_to_screen(scope)


def ask_where_due() -> int:
    """Have the worker screen for every team whose facts or day are newer than its screening; return for how many."""
    version = facts_version()
    known: Mapping[int, Screening] = Screening.objects.in_bulk()

    def is_due(team: Team) -> bool:
        state = known.get(team.pk)
        return state is None or (not state.is_waiting and (state.facts_version, state.screened_on) != (version, today(team.time_zone)))

    due = [team for team in Team.objects.order_by("pk") if is_due(team)]
    return len(go_round("teams to screen for", due, lambda team: ask_to_screen(Scope(team, None, today(team.time_zone)))))


def waiting() -> set[int]:
    """Return the ids of the teams that wait to be screened for."""
    return set(Screening.objects.filter(is_waiting=True).values_list("pk", flat=True))
