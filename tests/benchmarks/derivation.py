"""Deriving facts, against the budgets: from nothing in two processes, what an intake derives itself, and what follows areas' figures.

What is measured is taken back. Other processes see what has been committed, so that they read the same records again.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from decimal import Decimal

from django.db import transaction

from jaded_ledger.records.area_columns import follow_areas
from jaded_ledger.records.areas import Retold, figures_of
from jaded_ledger.records.clock import today
from jaded_ledger.records.derivation import Derivation
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import AreaFigures, County, Parcel, ParcelFacts
from jaded_ledger.records.other_processes import other_processes
from jaded_ledger.records.reading import rules_of
from jaded_ledger.records.reading_copy.files import file_of, versions
from jaded_ledger.records.reading_copy.writing import write_copy
from tests.benchmarks.measure import Row

PARCELS = 20_000
ANEW, ITSELF = 1_100, 700
"""Parcels a second: from nothing, and by an intake, whose rows no other process can see."""
LARGE = 576_000
"""The county of the budgets; of another the same a parcel."""
FOLLOWED, COPIED, FILLED = 90, 30, 10
"""Seconds for such a county."""


class _UndoneError(Exception):
    """What was done for the measurement is taken back."""


def _spent(work: Callable[[], object], before: Callable[[], object] = lambda: None) -> float:
    """Return how many milliseconds a work takes, undone."""
    spent = 0.0
    try:
        with transaction.atomic():
            before()
            started = time.perf_counter()
            work()
            spent = 1000 * (time.perf_counter() - started)
            raise _UndoneError
    except _UndoneError:
        return spent


def _dearer(county: County) -> None:
    """Have everything in a county's areas cost a seventh more, as no month ever has it."""
    for row in AreaFigures.objects.filter(area__county=county):
        for key in ("square_foot", "rents"):
            row.context[key] = {name: [str(Decimal(value) * 8 / 7), count] for name, (value, count) in row.context[key].items()}
        row.save()


def rows() -> Iterator[Row]:
    county = County.objects.get(name="Tamarack")
    ids = list(Parcel.objects.filter(county=county, retired_on=None).order_by("number_key").values_list("id", flat=True)[:PARCELS])

    def derive(processes: ProcessPoolExecutor | None = None) -> None:
        Derivation(county, today()).run(ids, recount=False, processes=processes)

    def away() -> None:
        ParcelFacts.objects.filter(parcel__in=ids).delete()

    # The first derivation keeps what the map says of these outlines, which later ones find.
    derive()
    with ExitStack() as stack:
        processes = stack.enter_context(other_processes(2))
        list(processes.map(abs, range(2)))
        anew = _spent(lambda: derive(processes), away)
    yield Row(f"derive {len(ids):,} parcels from nothing in two processes, against {ANEW:,} a second", anew, 1000 * len(ids) / ANEW, 1.0)
    yield Row(f"derive {len(ids):,} parcels in an intake, against {ITSELF:,} a second", _spent(derive, away), 1000 * len(ids) / ITSELF, 1.0)
    there = ParcelFacts.objects.filter(county=county).count()
    share = 1000 * there / LARGE
    every = Retold(is_county=True)
    followed = _spent(lambda: follow_areas(county, every, rules_of(county), figures_of(county)), lambda: _dearer(county))
    yield Row(f"facts of {there:,} parcels follow new figures, against {FOLLOWED} s for {LARGE:,}", followed, FOLLOWED * share, 1.0)
    filled = _spent(lambda: measure_fill(county))
    yield Row(f"measure how full the traits of {there:,} parcels are, against {FILLED} s", filled, FILLED * share, 1.0)
    file_of(county.pk, versions([county.pk])[county.pk]).unlink(missing_ok=True)
    started = time.perf_counter()
    write_copy(county)
    copied = 1000 * (time.perf_counter() - started)
    yield Row(f"write the reading copy of {there:,} parcels, against {COPIED} s", copied, COPIED * share, 1.0)
