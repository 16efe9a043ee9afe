"""When only areas' figures change, the facts that rest on them follow: by the core's rule, from what was kept of each parcel.

Nothing else of a parcel is read. See docs/decisions/0052-what-an-intake-derives.md.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import islice
from typing import Any

from django.db import connection, transaction

from jaded_ledger.core.facts.by_area import AreaBasis, columns_by_area
from jaded_ledger.core.facts.record import CountyRules
from jaded_ledger.core.market.areas import AreaFigures
from jaded_ledger.records.areas import Retold
from jaded_ledger.records.models import County, ParcelFacts

_AT_ONCE = 20_000
_NOTHING = AreaFigures()
COLUMNS = tuple(columns_by_area(AreaBasis(), _NOTHING, CountyRules()))
"""The columns that rest on a parcel's area."""
_TABLE = ParcelFacts._meta.db_table
_SET = ", ".join(f"{column} = computed.{column}" for column in COLUMNS)


def parcels_without_basis(county: County, retold: Retold) -> set[int]:
    """Return the parcels that rest on areas' figures and of which what these are put to was not kept yet."""
    return set(ParcelFacts.objects.filter(retold.parcels, county=county, area_basis__isnull=True).values_list("pk", flat=True))


@transaction.atomic
def follow_areas(county: County, retold: Retold, rules: CountyRules, areas: Mapping[int, AreaFigures]) -> set[int]:
    """Have the facts follow the figures of areas; return the parcels of which rows were written."""
    rows = ParcelFacts.objects.filter(retold.parcels, county=county, area_basis__isnull=False)
    asked = rows.values_list("pk", "area_id", "area_basis", *COLUMNS).iterator(chunk_size=_AT_ONCE)
    written: set[int] = set()
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE TEMPORARY TABLE computed ON COMMIT DROP AS SELECT parcel_id, {', '.join(COLUMNS)} FROM {_TABLE} LIMIT 0")  # noqa: S608
        while batch := list(islice(asked, _AT_ONCE)):
            with cursor.copy(f"COPY computed (parcel_id, {', '.join(COLUMNS)}) FROM STDIN") as copy:
                for row in _changed(batch, rules, areas):
                    written.add(row[0])
                    copy.write_row(row)
        cursor.execute("ANALYZE computed")
        cursor.execute(f"UPDATE {_TABLE} facts SET {_SET} FROM computed WHERE facts.parcel_id = computed.parcel_id")  # noqa: S608
        cursor.execute("DROP TABLE computed")
    return written


def _changed(batch: Sequence[Any], rules: CountyRules, areas: Mapping[int, AreaFigures]) -> Iterator[tuple[Any, ...]]:
    for pk, area, basis, *before in batch:
        now = columns_by_area(AreaBasis.read(basis), areas.get(area or 0, _NOTHING), rules)
        if list(now.values()) != before:
            yield (pk, *now.values())
