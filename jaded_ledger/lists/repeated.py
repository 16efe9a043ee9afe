"""Owners who have several of some parcels: whoever mails them all writes to the same person more than once."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from django.db.models import Count, QuerySet

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.models import ParcelFacts

SHOWN = 25
_PARCELS_SHOWN = 6


@dataclass(frozen=True)
class Several:
    """An owner with several of some parcels: name, how many, and the first of them as pairs of id and address."""

    name: str
    count: int
    parcels: tuple[tuple[int, str], ...]


@dataclass(frozen=True)
class Repeated:
    """How many parcels some owners have: ``owners`` in all, ``several`` with more than one, those with most shown first.

    ``nameless`` are the parcels of which no owner is on record.
    """

    parcels: int
    owners: int
    several: int
    nameless: int
    most: tuple[Several, ...]


def repeated_among(parcels: QuerySet[ParcelFacts]) -> Repeated:
    """Return which owners have several of some parcels."""
    told = parcels.aggregate(parcels=Count("pk"), owners=Count("owner", distinct=True), named=Count("owner"))
    several = parcels.filter(owner__isnull=False).order_by().values("owner").annotate(count=Count("pk")).filter(count__gt=1)
    first = list(several.order_by("-count", "owner").values_list("owner", "count")[:SHOWN])
    names: dict[int, str] = {}
    held: dict[int, list[tuple[int, str]]] = defaultdict(list)
    theirs = parcels.filter(owner__in=[owner for owner, _ in first]).select_related("owner__name", "address", "parcel")
    for facts in theirs.order_by("county", "parcel_number"):
        names[facts.owner_id] = in_reading_case(facts.owner.name.text)
        if len(held[facts.owner_id]) < _PARCELS_SHOWN:
            held[facts.owner_id].append((facts.parcel_id, facts.street_line or facts.parcel.number))
    most = tuple(Several(names[owner], count, tuple(held[owner])) for owner, count in first)
    return Repeated(told["parcels"], told["owners"], several.count(), told["parcels"] - told["named"], most)
