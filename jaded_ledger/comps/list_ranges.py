"""The ranges of a list's properties, kept so that searches can ask for them: computed when somebody asks, or each night."""

from __future__ import annotations

from collections.abc import Iterator

from django.db import transaction

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.models import CompedList, CompRange
from jaded_ledger.comps.screening import Screened, screen
from jaded_ledger.lists.counts import current
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.plugins import hooks
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import ParcelFacts

COMPUTE = "deals.compute_ranges"
"""The kind of job that computes a list's ranges."""
_BATCH = 500
_FIELDS = ("count", "value", "low", "median", "high", "spread", "repaired_count", "repaired_value", "price", "price_to", "computed_on")


def _row(one: Screened, scope: Scope) -> CompRange:
    found = one.range
    price_to = round(100 * one.price / found.value, 2) if found and one.price else None
    figures = {name: round(getattr(found, name)) for name in ("value", "low", "median", "high")} if found else {}
    return CompRange(
        team=scope.team, parcel_id=one.parcel_id, count=found.count if found else 0, spread=round(found.spread, 2) if found else None,
        repaired_count=one.repaired.count if one.repaired else 0, repaired_value=round(one.repaired.value) if one.repaired else None,
        price=round(one.price) if one.price else None, price_to=price_to, computed_on=scope.today, **figures,
    )  # fmt: skip


def _batches(which: ParcelList) -> Iterator[list[ParcelFacts]]:
    ids = sorted(current([which]).values_list("parcel_id", flat=True))
    for first in range(0, len(ids), _BATCH):
        yield list(ParcelFacts.objects.filter(parcel_id__in=ids[first : first + _BATCH]).order_by("parcel_id"))


def compute(list_id: int) -> int:
    """Compute the ranges of a list's properties; return of how many. A list that is gone has none."""
    comped = CompedList.objects.select_related("list", "list__team").filter(pk=list_id, list__deleted=None).first()
    if comped is None:
        CompedList.objects.filter(pk=list_id).update(is_waiting=False)
        return 0
    team = comped.list.team
    scope, count = Scope(team, None, today(team.time_zone)), 0
    for batch in _batches(comped.list):
        rows = [_row(one, scope) for one in screen(batch, scope)]
        CompRange.objects.bulk_create(rows, update_conflicts=True, unique_fields=["team", "parcel"], update_fields=_FIELDS)
        count += len(rows)
    CompedList.objects.filter(pk=list_id).update(is_waiting=False, computed_on=scope.today)
    team.put_up_version()
    hooks.values_calculated(scope=scope)
    return count


@transaction.atomic
def ask_for(scope: Scope, which: ParcelList, *, is_nightly: bool | None = None) -> CompedList:
    """Have the worker compute a list's ranges; ``is_nightly`` says whether each night anew, None that it stays. Raises PermissionDenied."""
    require(scope, COMPS)
    comped, _ = CompedList.objects.get_or_create(list=which)
    comped.is_waiting = True
    if is_nightly is not None:
        comped.is_nightly = is_nightly
    comped.save(update_fields=["is_waiting", "is_nightly"])
    return comped


def stop_nightly(scope: Scope, which: ParcelList) -> None:
    """Have a list's ranges no longer be computed by night; those that were stay. Raises PermissionDenied."""
    require(scope, COMPS)
    CompedList.objects.filter(list=which).update(is_nightly=False)


def ask_for_nightly() -> int:
    """Have the ranges of lists that are marked so be computed, where a day has passed since; return how many lists."""
    asked = 0
    for team in Team.objects.filter(lists__comped__is_nightly=True).distinct():
        day = today(team.time_zone)
        due = CompedList.objects.filter(list__team=team, list__deleted=None, is_nightly=True, is_waiting=False).exclude(computed_on=day)
        asked += due.update(is_waiting=True)
    return asked


def waiting() -> set[int]:
    """Return the ids of the lists whose ranges wait for the worker."""
    return set(CompedList.objects.filter(is_waiting=True).values_list("pk", flat=True))
