"""The daily feed: the demo world goes on by a day, and the day's files are taken in.

The listing service reports each day the same evening. A county's offices are as far behind as ever: on each day they
file the next of theirs. What was missed is caught up with, so that an interrupted day is simply begun again.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path
from random import Random
from typing import Any

from django.db import transaction

from jaded_ledger.demo import world
from jaded_ledger.demo.books import CsvBook
from jaded_ledger.demo.courthouse_day import CourthouseDay
from jaded_ledger.demo.market_day import MarketDay
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.services import IntakeOptions, reach, record
from jaded_ledger.records.bulk import wait_for_turn
from jaded_ledger.records.derivation import derive, derive_due
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import County, Coverage, SourceFile, World

OF_THE_SERVICE = ("listings", "listing-events")
OF_THE_OFFICES = (
    "deeds", "loans", "loan-events", "liens", "cases", "case-parties", "foreclosures", "auctions", "tax-years", "permits", "violations",
)  # fmt: skip
_DAY = timedelta(days=1)


class NoWorldError(Exception):
    """There is no demo to go on with."""


@dataclass(frozen=True)
class _Filing:
    county: County
    kind: str
    as_of: date
    rows: list[dict[str, Any]]


def _days_after(county: County, kinds: tuple[str, ...], last: date) -> Iterator[date]:
    """Yield the days that files of some kinds have not reached yet."""
    reached = Coverage.objects.filter(county=county, kind__in=kinds).order_by("recorded_through").values_list("recorded_through", flat=True)
    day = (reached.first() or last) + _DAY
    while day <= last:
        yield day
        day += _DAY


def _filings(county: County, plan: world.County, today: date) -> Iterator[_Filing]:
    """Yield what comes in, each desk's days one after another: a day builds on the one before, so it is taken in first."""
    behind = timedelta(days=plan.days_behind)
    for desk, kinds, last in ((MarketDay, OF_THE_SERVICE, today), (CourthouseDay, OF_THE_OFFICES, today - behind)):
        for day in _days_after(county, kinds, last):
            rows: dict[str, list[dict[str, Any]]] = defaultdict(list)
            for kind, cells in desk(county, day, Random(f"{world.SEED} {plan.key} {desk.__name__} {day}")).rows():
                rows[kind].append(cells)
            reached = set(Coverage.objects.filter(county=county, recorded_through__gte=day).values_list("kind", flat=True))
            for kind in kinds:
                if kind in reached:
                    # It went in before an interruption, or somebody took in a later file.
                    continue
                yield _Filing(county, kind, day, rows[kind])


def _written(folder: Path, filing: _Filing) -> Path:
    path = folder / f"{filing.kind} {filing.county.name} {filing.as_of}.csv"
    book = CsvBook(path, KINDS[filing.kind].columns)
    for cells in filing.rows:
        book.enter(cells)
    book.close()
    return path


def advance(folder: Path) -> list[SourceFile]:
    """Let one day pass, write its files into a folder, and take them in; return them as they are on record. Raises NoWorldError.

    A kind of which nothing was filed on a day has no file, but its records reach the day all the same. A day passes whole or not
    at all, and what follows from its files is derived once.
    """
    kept = World.objects.filter(is_complete=True).first()
    if kept is None:
        raise NoWorldError("There is no demo in this database. bin/manage demo loads it.")
    with transaction.atomic():
        wait_for_turn()
        kept.today += _DAY
        kept.save()
        files: list[SourceFile] = []
        for plan in world.counties():
            county = County.objects.get(fips=plan.fips)
            affected: set[int] = set()
            for filing in _filings(county, plan, kept.today):
                if filing.rows:
                    file, of_file, _ = record(_written(folder, filing), IntakeOptions(filing.kind, county, filing.as_of))
                    files.append(file)
                    affected |= of_file
                else:
                    affected |= reach(county, filing.kind, filing.as_of)
            derive(affected, [county])
        derive_due()
        for county in County.objects.all():
            measure_fill(county)
    return files
