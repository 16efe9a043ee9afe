"""An export of 100,000 owners, streamed, against ``COPY TO`` of the same columns; and how much more memory ten times the rows take."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from django.db import connection
from django.db.models import QuerySet

from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.contacts.contact_file import FileLayout, Per, lines
from jaded_ledger.records.models import ParcelFacts
from tests.benchmarks.measure import Row, compare

OWNERS = 100_000
COLUMNS = ("parcel-number", "envelope-name", "mail-street", "mail-city", "mail-state", "mail-zip", "estimated-value")
_COPY = """
    COPY (
        SELECT p.number, n.mailing_name, trim(a.street || ' ' || a.unit), a.city, a.state, a.zip5, f.estimated_value
          FROM (SELECT DISTINCT ON (owner_id) * FROM records_parcelfacts WHERE owner_id IS NOT NULL ORDER BY owner_id, parcel_id LIMIT %s) f
          JOIN records_parcel p ON p.id = f.parcel_id
          LEFT JOIN records_recordedname n ON n.id = f.owner_name_id
          LEFT JOIN records_recordedaddress a ON a.id = f.mailing_address_id
    ) TO STDOUT CSV HEADER
"""


def _parcels(count: int) -> QuerySet[ParcelFacts]:
    owned = ParcelFacts.objects.filter(owner__isnull=False)
    first = owned.order_by("owner", "pk").distinct("owner").values("pk")[:count]
    return ParcelFacts.objects.filter(pk__in=first).order_by("pk")


def _ours(count: int) -> int:
    return sum(map(len, lines(_parcels(count), FileLayout(COLUMNS, Per.OWNER), scope_of_command())))


def _by_copy() -> int:
    size = 0
    with connection.cursor() as cursor, cursor.copy(_COPY % OWNERS) as copy:
        for block in copy:
            size += len(bytes(block))
    return size


def _peak(count: int) -> float:
    """Return the most memory that the process had while it wrote so many rows, in MB, as the kernel kept it (proc(5), clear_refs 5)."""
    Path("/proc/self/clear_refs").write_text("5")
    _ours(count)
    status = Path("/proc/self/status").read_text()
    return int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1]) / 1024


def rows() -> Iterator[Row]:
    yield compare(f"{OWNERS:,} owners as CSV, streamed, against COPY TO", 3.0, lambda: _ours(OWNERS), _by_copy, times=3)
    few, many = _peak(OWNERS // 10), _peak(OWNERS)
    yield Row(f"MB at most while {OWNERS:,} owners are written, against a tenth of them", many, few, 1.1)
