"""How many parcels of some counties have a recorded name or place, while somebody types.

The searchable rows have no index on what they point at: they are read as a whole. The rolls, loans and listings that name it have, so
that a few names are counted by those.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from django.db.models import Count, Q, QuerySet

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.records.models import County, Listing, Loan, ParcelFacts, Project, RollEntry
from jaded_ledger.records.models.filed import Filed, OnParcel

_BY_ID: dict[str, tuple[type[Filed], str]] = {
    "owner-name": (RollEntry, "owner_name"),
    "address": (RollEntry, "situs"),
    "street": (RollEntry, "street"),
    "municipality": (RollEntry, "municipality"),
    "city": (RollEntry, "city"),
    "zip": (RollEntry, "zip"),
    "subdivision": (RollEntry, "subdivision"),
    "neighborhood": (RollEntry, "neighborhood"),
    "school-district": (RollEntry, "school_district"),
    "lender": (Loan, "lender"),
}
COUNTS_PARCELS = frozenset(_BY_ID) - {"lender"}
"""Traits of which the rows counted are parcels: of a lender they are its loans, of which only the last of a parcel is asked."""
_BY_TEXT: dict[str, tuple[type[Filed], str]] = {"listing-number": (Listing, "listing_id"), "project": (Project, "name")}
"""Traits whose recorded rows hold the text itself."""
MOST = 1_000
"""What is counted further than this is told as more."""


def counts_on_record(trait: Trait, texts: dict[int, str], counties: Sequence[County], parcels: QuerySet[ParcelFacts]) -> dict[int, int]:
    """Return by the id of a text how many parcels have it, but those with none."""
    if named := _BY_ID.get(trait.key):
        model, field = named
        return _counted(model, field, list(texts), counties)
    if named := _BY_TEXT.get(trait.key):
        model, field = named
        found = _counted(model, field, list(texts.values()), counties)
        return {pk: found[text] for pk, text in texts.items() if text in found}
    rows = parcels.filter(**{f"{trait.fact}__in": list(texts)}).values(trait.fact).annotate(parcels=Count("*")).order_by()
    return dict(rows.values_list(trait.fact, "parcels"))


def _counted(model: type[Filed], field: str, wanted: Collection[Any], counties: Sequence[County]) -> dict[Any, int]:
    if not wanted:
        return {}
    rows: QuerySet[Any] = model._default_manager.filter(county__in=counties, superseded_at=None, **{f"{field}__in": list(wanted)})
    if issubclass(model, OnParcel):
        rows = rows.filter(Q(parcel__retired_on=None))
    return dict(rows.values(field).annotate(rows=Count("*")).order_by().values_list(field, "rows"))


def so_many(rows: QuerySet[Any]) -> str:
    """Return how many rows there are in words, not counting further than need be."""
    count = rows.order_by().values("pk")[: MOST + 1].count()
    return f"{MOST:,}+" if count > MOST else f"{count:,}" if count else ""
