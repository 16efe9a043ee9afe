"""How many parcels of some counties have a recorded name or place, while somebody types.

The searchable rows have no index on what they point at: they are read as a whole. The rolls, loans and listings that name it have, so
that a few names are counted by those.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from django.contrib.postgres.expressions import ArraySubquery
from django.db.models import Count, Func, IntegerField, Model, OuterRef, Q, QuerySet

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.records.models import County, Listing, Loan, ParcelFacts, Project, RollEntry
from jaded_ledger.records.models.filed import Filed, OnParcel
from jaded_ledger.records.trait_columns import table_of

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
_RARE, _COMMON = 10, 12
"""Names with so few parcels are told apart first; of the others, so many are counted further."""


def counts_on_record(trait: Trait, texts: dict[int, str], counties: Sequence[County], parcels: QuerySet[ParcelFacts]) -> dict[int, int]:
    """Return by the id of a text how many parcels have it, at most one more than MOST, but those with none."""
    if named := _BY_ID.get(trait.key):
        return _counted_by_id(table_of(trait), *named, list(texts), counties)
    if named := _BY_TEXT.get(trait.key):
        model, field = named
        rows = _current(model, counties).filter(**{f"{field}__in": list(texts.values())}).values(field).annotate(rows=Count("*"))
        found = dict(rows.order_by().values_list(field, "rows"))
        return {pk: found[text] for pk, text in texts.items() if text in found}
    rows = parcels.filter(**{f"{trait.fact}__in": list(texts)}).values(trait.fact).annotate(parcels=Count("*")).order_by()
    return dict(rows.values_list(trait.fact, "parcels"))


def _current(model: type[Filed], counties: Sequence[County]) -> QuerySet[Any]:
    rows: QuerySet[Any] = model._default_manager.filter(county__in=counties, superseded_at=None)
    return rows.filter(Q(parcel__retired_on=None)) if issubclass(model, OnParcel) else rows


def _counted_by_id(table: type[Model], model: type[Filed], field: str, wanted: list[int], counties: Sequence[County]) -> dict[int, int]:
    def counted(ids: Collection[int], most: int) -> dict[int, int]:
        those = _current(model, counties).filter(**{field: OuterRef("pk")}).order_by().values("pk")[:most]
        rows = Func(ArraySubquery(those), function="CARDINALITY", output_field=IntegerField())
        return dict(table._default_manager.filter(pk__in=ids).annotate(rows=rows).values_list("pk", "rows"))

    # However many names there are, and however common, some sixteen thousand rows are read.
    counts = counted(wanted, _RARE)
    common = [pk for pk in wanted if counts.get(pk) == _RARE]
    counts |= counted(common[:_COMMON], MOST + 1)
    return {pk: count for pk, count in counts.items() if count}


def so_many_said(count: int) -> str:
    """Return a count that was not taken further than need be, as it is said."""
    return f"{MOST:,}+" if count > MOST else f"{count:,}"


def so_many(rows: QuerySet[Any]) -> str:
    """Return how many rows there are in words, not counting further than need be."""
    count = rows.order_by().values("pk")[: MOST + 1].count()
    return so_many_said(count) if count else ""
