"""Lift from the installation's own records, remembered until facts are derived anew."""

from __future__ import annotations

from collections.abc import Iterator

from django.core.cache import caches
from django.db.models import Q

from jaded_ledger.core.criteria.catalogue.choices import SIGNALS
from jaded_ledger.core.distress.lift import OUTCOMES_IN, CountyHistory, History, Lift, lifts
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.records.models import County, Coverage, ParcelFacts
from jaded_ledger.records.versions import facts_version

_KINDS = dict(zip((choice.code for choice in SIGNALS), SignalKind, strict=True))
_AT_ONCE = 5_000


def _histories(county: County) -> Iterator[History]:
    """Yield the histories of a county's parcels that have any."""
    rows = ParcelFacts.objects.filter(county=county).filter(Q(signs_ever__isnull=False) | Q(outcome_days__isnull=False))
    columns = rows.values_list("signs_ever", "signs_ever_days", "outcome_days")
    for codes, days, outcomes in columns.iterator(_AT_ONCE):
        signs = tuple((_KINDS[code], day) for code, day in zip(codes or (), days or (), strict=True))
        yield History(signs, tuple(outcomes or ()))


def county_histories() -> Iterator[CountyHistory]:
    """Yield what the records tell of every county's signs and of what came of them."""
    for county in County.objects.order_by("pk"):
        through = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
        reach = [through[kind] for kind in OUTCOMES_IN if kind in through]
        parcels = ParcelFacts.objects.filter(county=county).count()
        yield CountyHistory(parcels, frozenset(through), min(reach, default=None), _histories(county))


def lifts_on_record() -> tuple[Lift, ...]:
    """Return the lift of every sign of distress."""
    key, memory = f"lift:{facts_version()}", caches["tallies"]
    found: tuple[Lift, ...] | None = memory.get(key)
    if found is None:
        found = lifts(county_histories())
        memory.set(key, found)
    return found
