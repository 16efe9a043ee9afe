"""What is remembered of where files come from: the next one with the same columns is read the same way."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Iterable

from django.db.models import Q

from jaded_ledger.intake.guessing import plain
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.mapping import ColumnMap, column_map_from
from jaded_ledger.intake.models import Source
from jaded_ledger.intake.readers import REFUSED_AS, REFUSED_BECAUSE
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import County


def columns_of_file(header: Iterable[str]) -> list[str]:
    """Return a file's own columns: without those that we write before refused rows."""
    return [name for name in header if name not in (REFUSED_AS, REFUSED_BECAUSE)]


def key_of(header: Iterable[str]) -> str:
    """Return what a source's files are recognized by: their columns, in whatever order."""
    return hashlib.md5("|".join(sorted(map(plain, columns_of_file(header)))).encode(), usedforsecurity=False).hexdigest()


def recall(header: Iterable[str], kind: str = "", county: County | None = None) -> Source | None:
    """Return the source whose files have these columns, of a kind and a county where those are known; the latest used first."""
    found = Source.objects.filter(header_key=key_of(header), kind__in=[kind] if kind else KINDS).select_related("county")
    if county:
        found = found.filter(Q(county=county) | Q(county=None))
    return found.order_by("-used_at").first()


def column_map_of(source: Source) -> ColumnMap:
    """Return how a source's columns are mapped. Raises MappingError where a kind has lost a column since."""
    return column_map_from(source.columns, KINDS[source.kind])


def remember(
    header: Collection[str], kind: str, county: County | None, column_map: ColumnMap, *, layout: dict[str, object], is_complete: bool
) -> None:
    """Keep how a source's file was read, unless it was one of refused rows, which is laid out by us."""
    if REFUSED_AS in header:
        return
    names = columns_of_file(header)
    Source.objects.update_or_create(
        kind=kind,
        county=county,
        header_key=key_of(names),
        defaults={"header": names, "layout": layout, "columns": column_map.as_json(), "is_complete": is_complete, "used_at": now()},
    )
