"""Deriving facts, against the budget of 5,000 parcels a second."""

from __future__ import annotations

import time
from collections.abc import Iterator

from django.db import transaction

from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import Parcel, ParcelFacts
from tests.benchmarks.measure import Row

PARCELS, A_SECOND = 10_000, 5_000


class _UndoneError(Exception):
    """What was derived for the measurement is taken back."""


def _derived(ids: list[int], *, anew: bool) -> float:
    started = time.perf_counter()
    try:
        with transaction.atomic():
            if anew:
                ParcelFacts.objects.filter(parcel__in=ids).delete()
                started = time.perf_counter()
            derive(ids)
            spent = 1000 * (time.perf_counter() - started)
            raise _UndoneError
    except _UndoneError:
        return spent


def rows() -> Iterator[Row]:
    ids = list(
        Parcel.objects.filter(county__name="Tamarack", retired_on=None).order_by("number_key").values_list("id", flat=True)[:PARCELS]
    )
    budget = 1000 * len(ids) / A_SECOND
    for how, anew in (("anew", True), ("of which nothing changed", False)):
        yield Row(f"derive {len(ids):,} parcels {how}, against {A_SECOND:,} a second", _derived(ids, anew=anew), budget, 1.0)
