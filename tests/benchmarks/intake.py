"""Taking in 100,000 rows: a roll against COPY into a bare table and the same derivation, tax bills against hand-written SQL.

Bills touch few parcels, so that there is hardly anything to derive; they are compared with the statements that somebody
who knows the tables would write to bring them to the same place, checked and keyed.
"""

from __future__ import annotations

import csv
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from django.db import connection, transaction

from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import County, Parcel, RollEntry, SourceFile, TaxYear
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
    # The numbers of copies fit no county's mask.
    standing = Parcel.objects.filter(county=county, retired_on=None).exclude(number_key__contains="~").order_by("number_key")
    parcels = list(standing.values_list("id", "number")[:ROWS])
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
    standing = RollEntry.objects.filter(county=county, superseded_at=None).exclude(natural_key__contains="~")
    entries = standing.select_related("parcel", "owner_name", "mailing_address", "street", "city")
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


def _bare(path: Path) -> None:
    """COPY a file into a bare table of text."""
    with path.open() as handle:
        header = next(csv.reader(handle))
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TEMPORARY TABLE bare ({', '.join(f'{name} text' for name in header)}) ON COMMIT DROP")
        with path.open("rb") as handle, cursor.copy("COPY bare FROM STDIN (FORMAT csv, HEADER)") as copy:
            while block := handle.read(1 << 18):
                copy.write(block)


_BILLS = """
    INSERT INTO records_taxyear (county_id, natural_key, parcel_id, year, land_value, improvement_value, market_value, billed, paid, due,
                                 source_file_id, source_line, valid_from, recorded_at, digest, further)
    SELECT %(county)s, p.number_key || '|' || b.year, p.id, b.year::smallint, b.land_value::numeric, b.improvement_value::numeric,
           b.market_value::numeric, b.billed::numeric, b.paid::numeric, b.due::numeric, %(file)s, row_number() OVER () + 1, %(day)s, now(),
           md5(b::text), '{}'
      FROM bare b JOIN records_parcel p ON p.county_id = %(county)s AND p.number_key = replace(b.parcel_number, '-', '')
     WHERE NOT EXISTS (SELECT 1 FROM records_taxyear t WHERE t.county_id = %(county)s AND t.superseded_at IS NULL
                          AND t.natural_key = p.number_key || '|' || b.year)"""


def _bills_by_hand(path: Path, parcels: list[int], county: County) -> int:
    _bare(path)
    file = SourceFile.objects.create(
        county=county, kind="tax-years", name=path.name, sha256="", as_of=today(), is_complete=False, taken_in_at=now()
    )
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE bare")
        cursor.execute(_BILLS, {"county": county.pk, "file": file.pk, "day": today()})
        written = cursor.rowcount
    derive(parcels)
    measure_fill(county)
    return written


def _roll_by_hand(path: Path, parcels: list[int], county: County) -> int:
    _bare(path)
    derive(parcels, [county])
    measure_fill(county)
    return len(parcels)


def _row(work: str, kind: str, write: Callable[[Path, County], list[int]], by_hand: Callable[[Path, list[int], County], int]) -> Row:
    county = County.objects.get(name="Tamarack")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"{kind}.csv"
        parcels = write(path, county)
        with path.open() as handle:
            rows = sum(1 for _ in handle) - 1
        taken: list[int] = []

        def ours() -> None:
            with _undone():
                file = take_in(path, IntakeOptions(kind, county, today()))
                taken.append(file.new + file.changed)

        def theirs() -> None:
            with _undone():
                taken.append(by_hand(path, parcels, county))

        found = compare(f"{work}, {rows:,} rows", 4.0, ours, theirs, times=3)
        assert set(taken) == {rows}, (taken, rows)
        return found


def rows() -> Iterator[Row]:
    assert not TaxYear.objects.filter(year__lt=1900).exists()
    yield _row("take in tax bills of new years, against SQL", "tax-years", _tax_years, _bills_by_hand)
    yield _row("take in a changed roll, against COPY", "roll", _roll, _roll_by_hand)
