"""Taking in 100,000 rows, against COPY into a bare table and the same derivation."""

from __future__ import annotations

import csv
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from django.db import connection, transaction

from jaded_ledger.intake.services import Wanted, take_in
from jaded_ledger.records.clock import today
from jaded_ledger.records.derivation import derive, measure_fill
from jaded_ledger.records.models import County, Parcel, RollEntry, TaxYear
from tests.benchmarks.measure import Row, compare

ROWS = 100_000


class _UndoneError(Exception):
    """Raised to roll back."""


@contextmanager
def _undone() -> Iterator[None]:
    """Undo what the block did to the database."""
    try:
        with transaction.atomic():
            yield
            raise _UndoneError
    except _UndoneError:
        pass


def _tax_years(path: Path, county: County) -> list[int]:
    """Write bills of years that are not on record; return the parcels."""
    parcels = list(Parcel.objects.filter(county=county, retired_on=None).order_by("number_key").values_list("id", "number")[:ROWS])
    with path.open("w", newline="") as handle:
        rows = csv.writer(handle)
        rows.writerow(["parcel_number", "year", "land_value", "improvement_value", "market_value", "billed", "paid", "due"])
        for number in range(ROWS):
            _, parcel = parcels[number % len(parcels)]
            rows.writerow(
                [parcel, 1880 + number // len(parcels), 20_000 + number, 90_000, 110_000, f"{1500 + number % 900}.50", "1500.00", 0]
            )
    return [pk for pk, _ in parcels]


def _roll(path: Path, county: County) -> list[int]:
    """Write the roll as it is, but with a dollar more on the land of each; return the parcels."""
    entries = RollEntry.objects.filter(county=county, superseded_at=None).select_related(
        "parcel", "owner_name", "mailing_address", "street", "city"
    )
    found = []
    with path.open("w", newline="") as handle:
        rows = csv.writer(handle)
        rows.writerow(["parcel_number", "house_number", "street", "city", "land_value", "improvement_value", "beds", "living_area", "owner",
                       "mailing_address"])  # fmt: skip
        for entry in entries.order_by("natural_key")[:ROWS].iterator(chunk_size=5_000):
            found.append(entry.parcel_id)
            rows.writerow([
                entry.parcel.number, entry.house_number, entry.street and entry.street.text, entry.city and entry.city.text,
                (entry.land_value or 0) + 1,
                entry.improvement_value, entry.beds, entry.living_area, entry.owner_name and entry.owner_name.text,
                entry.mailing_address and entry.mailing_address.street,
            ])  # fmt: skip
    return found


def _by_hand(path: Path, parcels: list[int], county: County) -> None:
    """COPY into a bare table of text, then derive the same parcels."""
    with path.open() as handle:
        header = next(csv.reader(handle))
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TEMPORARY TABLE bare ({', '.join(f'{name} text' for name in header)}) ON COMMIT DROP")
        with path.open("rb") as handle, cursor.copy("COPY bare FROM STDIN (FORMAT csv, HEADER)") as copy:
            while block := handle.read(1 << 18):
                copy.write(block)
    derive(parcels)
    measure_fill(county)


def _row(work: str, kind: str, write: Callable[[Path, County], list[int]]) -> Row:
    county = County.objects.get(name="Tamarack")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"{kind}.csv"
        parcels = write(path, county)
        with path.open() as handle:
            rows = sum(1 for _ in handle) - 1
        taken: list[int] = []

        def ours() -> None:
            with _undone():
                file = take_in(path, Wanted(kind, county, today()))
                taken.append(file.new + file.changed)

        def theirs() -> None:
            with _undone():
                _by_hand(path, parcels, county)

        found = compare(f"{work}, {rows:,} rows", 4.0, ours, theirs, times=3)
        assert set(taken) == {rows}, (taken, rows)
        return found


def rows() -> list[Row]:
    assert not TaxYear.objects.filter(year__lt=1900).exists()
    return [_row("take in tax bills of new years", "tax-years", _tax_years), _row("take in a changed roll", "roll", _roll)]
