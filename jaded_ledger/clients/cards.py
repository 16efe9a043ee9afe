"""A property as a client may see it: what its listing says, its photographs and its public remarks, and nothing else."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import Q, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.watching.news import PRICE, STATUS
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.results import cell_text, value_of, with_values
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import Listing, Parcel, ParcelFacts, Photograph

FACTS = ("list-price", "status", "class", "beds", "baths", "living-area", "lot-sqft", "year-built")
"""Of these a client is told. None tells of an owner, a debt, a tax or distress."""
SEEN = (PRICE, STATUS)
"""What, when it changes, makes a property worth seeing again."""
_PUBLIC = CATALOGUE["remarks"].fields.index("public")


@dataclass(frozen=True)
class Card:
    """A property on a client's page or in a mail to them; ``changed`` is what is other than when they saw it last."""

    parcel_id: int
    address: str
    facts: tuple[tuple[str, str], ...]
    remarks: str
    images: tuple[int, ...]
    changed: tuple[str, ...] = ()


def photographs_of(parcel_ids: Sequence[int]) -> QuerySet[Photograph]:
    """Return the photographs of some properties and of their listings."""
    listings = Listing.objects.filter(superseded_at=None, parcel__in=parcel_ids).values("listing_id")
    counties = Parcel.objects.filter(pk__in=parcel_ids).values("county")
    of = Q(parcel__in=parcel_ids) | Q(listing_id__in=listings, county__in=counties)
    return Photograph.objects.filter(of, superseded_at=None).order_by("listing_id", "order")


def _images(parcel_ids: Sequence[int]) -> Mapping[int, list[int]]:
    by_listing = dict(Listing.objects.filter(superseded_at=None, parcel__in=parcel_ids).values_list("listing_id", "parcel_id"))
    found: dict[int, list[int]] = {}
    for one in photographs_of(parcel_ids):
        parcel = one.parcel_id or by_listing.get(one.listing_id)
        if parcel is not None:
            found.setdefault(parcel, []).append(one.image_id)
    return found


def _shown_facts(facts: ParcelFacts) -> tuple[tuple[str, str], ...]:
    found = []
    for key in FACTS:
        trait = CATALOGUE[key]
        value = value_of(facts, trait)
        if value is not None and value != "none":
            unit = f" {trait.unit}" if trait.unit and trait.unit not in trait.label else ""
            found.append((trait.label, f"{cell_text(facts, trait, value)}{unit}"))
    return tuple(found)


def changed_since(before: Mapping[str, Any], now: Mapping[str, Any]) -> tuple[str, ...]:
    """Return in words what a client would see otherwise than before."""
    pairs = [(CATALOGUE[key], before.get(key), now.get(key)) for key in SEEN]
    return tuple(f"{trait.label} {shown(trait, was)} → {shown(trait, is_now)}" for trait, was, is_now in pairs if was != is_now)


def cards_of(parcel_ids: Sequence[int], scope: Scope, changed: Mapping[int, tuple[str, ...]] | None = None) -> list[Card]:
    """Return the cards of some properties, in their order; one that is retired has none."""
    rows = with_values(parcels(scope).filter(pk__in=among_ids(parcel_ids)), [CATALOGUE[key] for key in FACTS])
    found = {row.pk: row for row in rows.select_related("address", "city", "remarks", "parcel")}
    images = _images(list(found))
    cards = []
    for pk in parcel_ids:
        if (row := found.get(pk)) is None:
            continue
        street, city = row.street_line or "an address on request", row.city.text if row.city else ""
        remarks = row.remarks.fields[_PUBLIC] if row.remarks and len(row.remarks.fields) > _PUBLIC else ""
        address = ", ".join(filter(None, (street, city)))
        cards.append(Card(pk, address, _shown_facts(row), remarks, tuple(images.get(pk, ())), (changed or {}).get(pk, ())))
    return cards
