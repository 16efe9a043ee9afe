"""A county's sales in columns, read once for each version of the facts and held in memory, and a parcel as the house that is valued."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date, timedelta
from functools import lru_cache
from typing import Any

import numpy as np
from django.core.cache import caches
from django.db import connection
from django.db.models import Sum

from jaded_ledger.core.comps.sales import TRAITS, House, Row, Rows, Sales, sales_of
from jaded_ledger.core.market.listings import LEASES, StandardStatus
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import Building, County, Listing, Parcel, ParcelFacts, ParcelSale
from jaded_ledger.records.versions import county_version

KEPT_DAYS = 1826
"""How far back sales are read: past sales are told from two years before each."""
_COUNTIES_HELD = 4
_AT_ONCE = 5_000
_RECORDED_WITHIN = timedelta(60)
"""A deed this close to a closed listing is of the same sale; common practice."""
COLUMNS = {
    "property_class": "property_class", "living_area": "living_area", "lot_sqft": "lot_sqft", "beds": "beds", "baths": "baths",
    "garage": "garage", "stories": "stories", "year_built": "year_built", "condition": "condition_id", "waterfront": "waterfront",
    "pool": "pool", "road_class": "road_class_id", "frontage": "frontage", "zoning": "zoning_id", "neighborhood": "area_id",
}  # fmt: skip
"""By trait, the column of the facts that holds it. Basements are the buildings'."""
_READ = ("parcel_id", "longitude", "latitude", *COLUMNS.values())


def _basements(ids: Iterable[int]) -> dict[int, int]:
    """Return the square feet of basement by parcel, of those whose buildings tell."""
    rows = Building.objects.filter(superseded_at=None, basement_area__isnull=False, parcel_id__in=among_ids(ids))
    return dict(rows.order_by().values_list("parcel_id").annotate(of=Sum("basement_area")))


def houses_of(ids: Iterable[int]) -> dict[int, tuple[float | None, float | None, dict[str, float | None]]]:
    """Return the place and the traits of parcels. They are read in parts: a page's statement may take five seconds."""
    found: dict[int, tuple[float | None, float | None, dict[str, float | None]]] = {}
    wanted = sorted(set(ids))
    for first in range(0, len(wanted), _AT_ONCE):
        found |= _houses(wanted[first : first + _AT_ONCE])
    return found


def _houses(wanted: list[int]) -> dict[int, tuple[float | None, float | None, dict[str, float | None]]]:
    basements, found = _basements(wanted), {}
    for pk, longitude, latitude, *values in ParcelFacts.objects.filter(parcel_id__in=among_ids(wanted)).order_by().values_list(*_READ):
        traits: dict[str, float | None] = {
            trait: None if value is None else float(value) for trait, value in zip(COLUMNS, values, strict=True)
        }
        traits["basement_area"] = basements.get(pk)
        found[pk] = (longitude, latitude, traits)
    return found


def _closed(county: County, since: date, recorded: dict[int, list[date]]) -> Iterator[tuple[int, date, Any]]:
    """Yield what closed by its listing and is not recorded yet, or never is told: parcel, day and price."""
    sold = Listing.objects.filter(county=county, superseded_at=None, standard_status=StandardStatus.CLOSED, close_date__gt=since)
    rows = sold.filter(parcel__isnull=False, close_price__gt=0).exclude(property_type__in=LEASES)
    seen: dict[int, list[date]] = {}
    for pk, day, price in rows.order_by("close_date", "pk").values_list("parcel_id", "close_date", "close_price"):
        known = [*recorded.get(pk, ()), *seen.get(pk, ())]
        if not any(abs(day - one) <= _RECORDED_WITHIN for one in known):
            assert day is not None
            seen.setdefault(pk, []).append(day)
            yield pk, day, price


def _read(county: County, today: date) -> Sales:
    since = today - timedelta(KEPT_DAYS)
    deeds = ParcelSale.objects.filter(county=county, sold_on__gt=since, sold_on__lte=today, price__gt=0).order_by()
    sales = list(deeds.values_list("parcel_id", "sold_on", "price", "is_resale"))
    recorded: dict[int, list[date]] = {}
    for pk, day, *_ in sales:
        recorded.setdefault(pk, []).append(day)
    sales += [(*one, False) for one in _closed(county, since, recorded) if one[1] <= today]
    houses = houses_of(pk for pk, *_ in sales)
    rows: list[Row] = []
    for pk, day, price, is_resale in sales:
        if pk in houses:
            longitude, latitude, traits = houses[pk]
            rows.append((pk, day, float(price), longitude, latitude, {**traits, "resale": float(is_resale)}))
    return sales_of(rows)


@lru_cache(_COUNTIES_HELD)
def _held(county_id: int, version: str, today: date) -> Sales:
    """Return a county's sales from the machine's cache, or read them for it. A restored backup has another version of the county."""
    database = connection.settings_dict["NAME"]
    key = f"{database}-{county_id}-{version}-{today:%Y%m%d}"
    held: Sales | None = caches["sales"].get_or_set(key, lambda: _read(County.objects.get(pk=county_id), today))
    assert held is not None
    return held


def forget_sales() -> None:
    _held.cache_clear()


def county_sales(county: County, today: date) -> Sales:
    """Return what sold in a county in the last five years, as the facts stand; listings that closed without a deed among them."""
    return _held(county.pk, county_version(county.pk), today)


def house_of(parcel: Parcel, day: date) -> House:
    """Return a parcel as the house that is valued on a day."""
    longitude, latitude, traits = houses_of([parcel.pk]).get(parcel.pk, (None, None, {}))
    known = {trait: value for trait, value in traits.items() if value is not None}
    return House(day, longitude, latitude, {trait: known[trait] for trait in TRAITS if trait in known})


def is_land(house: House) -> bool:
    """Return whether a property is valued as land: no living area, and a lot, is known of it."""
    return not house.knows("living_area") and house.knows("lot_sqft")


def of_area(sales: Sales, house: House, most: int, *, after: date, is_near: bool) -> Rows:
    """Return the rows of the latest sales after a day that are of a house's kind, and where ``is_near`` of its neighborhood."""
    is_kind = np.isnan(sales.traits["living_area"]) == is_land(house)
    chosen = is_kind & (sales.day > after.toordinal()) & (sales.day < house.day.toordinal())
    if is_near:
        chosen &= sales.traits["neighborhood"] == house.value("neighborhood")
    return np.flatnonzero(chosen)[-most:]
