"""What is like the subject and on the market: for sale, under contract, and to let."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.contrib.gis.geos import Polygon
from django.db.models import F, Q, QuerySet
from django.db.models.functions import Coalesce

from jaded_ledger.comps.sales_on_record import houses_of
from jaded_ledger.core.comps.lines import LineKind, PoolLine, holds
from jaded_ledger.core.comps.pool import Inside
from jaded_ledger.core.comps.sales import House, Sales, sales_of
from jaded_ledger.core.ground import box_around
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.core.market.listings import LEASES, StandardStatus
from jaded_ledger.records.models import Listing, Parcel

_LET_WITHIN = timedelta(365)
_ON_SALE = Q(standard_status=StandardStatus.ACTIVE) & ~Q(property_type__in=LEASES)
_UNDER_CONTRACT = Q(standard_status__in=(StandardStatus.PENDING, StandardStatus.ACTIVE_UNDER_CONTRACT)) & ~Q(property_type__in=LEASES)


@dataclass(frozen=True)
class Offer:
    """A listing that is like the subject: its price is asked, or a month's rent."""

    parcel_id: int
    listing_id: str
    price: float
    listed_on: date | None
    status: str


@dataclass(frozen=True)
class Offers:
    """Offers of one kind with what is offered, in the same order, the nearest first."""

    offers: Sequence[Offer]
    houses: Sales
    miles: Sequence[float]


def _listings(kind: Q, price: Any, county_id: int, house: House, miles: float | None) -> QuerySet[Listing]:
    rows = Listing.objects.filter(kind, county_id=county_id, superseded_at=None, parcel__isnull=False).annotate(price=price)
    if miles is not None and house.longitude is not None and house.latitude is not None:
        box = Polygon.from_bbox(box_around(house.longitude, house.latitude, miles * METERS_PER_MILE))
        box.srid = 4326
        rows = rows.filter(parcel__facts__place__within=box)
    return rows.filter(price__gt=0)


def _offers(rows: QuerySet[Listing], house: House, lines: Sequence[PoolLine], subject: int, areas: Any) -> Offers:
    """Return what of some listings the lines of a pool hold of, but how long ago they closed."""
    # A price is annotated by ``_for_sale`` and its like.
    found: dict[int, Any] = {
        row.parcel_id: row for row in rows.exclude(parcel_id=subject).order_by("listing_contract_date", "pk") if row.parcel_id is not None
    }
    houses = houses_of(found)
    table = sales_of([(pk, house.day, float(row.price), *houses[pk]) for pk, row in found.items() if pk in houses])
    inside: Inside = areas(table)
    for line in lines:
        if line.kind not in (LineKind.CLOSED, LineKind.LIKEST):
            mask = holds(line, table, house, inside.get(line.name))
            inside = {name: of_area[mask] for name, of_area in inside.items()}
            table = table.take(mask)
    miles = table.meters_from(house) / METERS_PER_MILE
    order = miles.argsort(kind="stable")
    table = table.take(order)
    listings = [(pk, found[pk]) for pk in map(int, table.parcel)]
    offers = [Offer(pk, row.listing_id, float(row.price), row.listing_contract_date, row.standard_status.lower()) for pk, row in listings]
    return Offers(offers, table, [float(one) for one in miles[order]])


def on_offer(parcel: Parcel, house: House, lines: Sequence[PoolLine], areas: Any) -> dict[str, Offers]:
    """Return what is like a property and for sale, pending, or to let, each apart.

    ``areas`` gives, for a table of houses, which lie in the areas that the lines name.
    """
    reach = next((line.amount for line in lines if line.kind is LineKind.WITHIN), None)
    let = Q(property_type__in=LEASES) & (
        Q(standard_status=StandardStatus.ACTIVE) | Q(standard_status=StandardStatus.CLOSED, close_date__gt=house.day - _LET_WITHIN)
    )
    kinds = {
        "active": (_ON_SALE, F("list_price")),
        "pending": (_UNDER_CONTRACT, F("list_price")),
        "rented": (let, Coalesce("lease_amount", "list_price")),
    }
    return {
        # What is paid a month is no price.
        name: _offers(
            _listings(kind, price, parcel.county_id, house, reach),
            house,
            [line for line in lines if name != "rented" or line.kind is not LineKind.PRICE],
            parcel.pk,
            areas,
        )
        for name, (kind, price) in kinds.items()
    }


def own_listing(parcel: Parcel) -> Listing | None:
    """Return the listing by which a property itself is for sale or under contract."""
    rows = Listing.objects.filter(_ON_SALE | _UNDER_CONTRACT, parcel=parcel, superseded_at=None, list_price__gt=0)
    return rows.order_by("-listing_contract_date", "-pk").first()
