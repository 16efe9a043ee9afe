"""Counting a county's areas: medians over recorded sales, rentals, lots and listings.

An area is a parcel's neighborhood, or where none is on record its municipality. Twelve months end with the last month
through which the county's deeds (or listings) are on file, and deeds count by the day of their recording: within a month the
figures stay as they are, and so do the estimates that rest on them (docs/decisions/0016-figures-by-the-month.md).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Aggregate, Count, DecimalField, ExpressionWrapper, F, OuterRef, Q, QuerySet, Subquery
from django.db.models.functions import Cast, Coalesce, ExtractYear

from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.market import areas as rules
from jaded_ledger.core.market.areas import Median
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.market.on_market import Listing, active_periods, days_on_market, latest_of
from jaded_ledger.core.property import class_by_use
from jaded_ledger.records import models
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.listing_changes import LISTED, changes_of
from jaded_ledger.records.models import County, ParcelSale, Rental, RollEntry

_YEAR = Length(12, CalendarUnit.MONTH)


class _Median(Aggregate):
    """The median of a column, halfway between the middle two of an even number."""

    function = "PERCENTILE_CONT"
    template = "%(function)s(0.5) WITHIN GROUP (ORDER BY %(expressions)s)"
    output_field = DecimalField(max_digits=30, decimal_places=6)


_PRICE = Cast("price", DecimalField(max_digits=30, decimal_places=6))
_SQUARE_FOOT = ExpressionWrapper(_PRICE / F("living_area"), output_field=DecimalField(max_digits=30, decimal_places=6))
_DWELLING = ExpressionWrapper(_PRICE / F("dwellings"), output_field=DecimalField(max_digits=30, decimal_places=6))


def _medians(rows: QuerySet, of: Any, *by: str) -> dict[Any, Median]:
    """Return the median of an expression by some columns, with how many rows it is of."""
    grouped = rows.annotate(of=of).filter(of__isnull=False).values(*by).annotate(middle=_Median("of"), rows=Count("of")).order_by()
    medians = {}
    for *key, middle, count in grouped.values_list(*by, "middle", "rows"):
        medians[tuple(key) if len(key) > 1 else key[0]] = Median(Decimal(middle).quantize(Decimal("0.000001")), count)
    return medians


def last_of_month(day: date | None) -> date | None:
    """Return the last day of the last month that is over by a day."""
    if day is None:
        return None
    following = date.fromordinal(day.toordinal() + 1)
    return date.fromordinal(following.replace(day=1).toordinal() - 1)


def _ending(day: date | None, years_before: int = 0) -> tuple[date, date] | None:
    """Return the first and the last day of the twelve months that end with a day, or some years before."""
    if day is None:
        return None
    last = shift(day, Length(12 * years_before, CalendarUnit.MONTH), -1) if years_before else day
    first = shift(last, _YEAR, -1)
    return date.fromordinal(first.toordinal() + 1), last


@dataclass
class Counted:
    """One area's figures on their way to the table."""

    levels: dict[int, Median] = field(default_factory=dict)
    now: Median | None = None
    before: Median | None = None
    price: Median | None = None
    dwelling: Median | None = None
    square_foot: dict[int | None, Median] = field(default_factory=dict)
    rent: Median | None = None
    rents: dict[str, Median] = field(default_factory=dict)
    frontage: Median | None = None
    sold: int = 0
    resold: int = 0
    active: int = 0
    days: list[Decimal] = field(default_factory=list)
    asked: dict[str, list[Decimal]] = field(default_factory=lambda: defaultdict(list))


def count_sales(county: County, through: date | None, found: dict[int, Counted], whole: Counted) -> None:
    if through is None:
        return
    sales = ParcelSale.objects.filter(county=county, recorded_on__lte=through)
    residences = sales.filter(living_area__gt=0)
    for (area, year), median in _medians(
        residences.filter(area__isnull=False).annotate(year=ExtractYear("sold_on")), _SQUARE_FOOT, "area", "year"
    ).items():
        found[area].levels[year] = median
    whole.levels = _medians(residences.annotate(year=ExtractYear("sold_on")), _SQUARE_FOOT, "year")
    window, before = _ending(through), _ending(through, 1)
    if window is None or before is None:
        return
    recent = sales.filter(recorded_on__range=window, area__isnull=False)
    of_residences = recent.filter(living_area__gt=0)
    whole.now = _medians(residences.filter(recorded_on__range=window), _SQUARE_FOOT, "county").get(county.pk)
    for area, median in _medians(of_residences, _SQUARE_FOOT, "area").items():
        found[area].now = found[area].square_foot[None] = median
    for area, median in _medians(residences.filter(recorded_on__range=before, area__isnull=False), _SQUARE_FOOT, "area").items():
        found[area].before = median
    for (area, kind), median in _medians(
        of_residences.filter(property_class__isnull=False), _SQUARE_FOOT, "area", "property_class"
    ).items():
        found[area].square_foot[kind] = median
    for area, median in _medians(recent, _PRICE, "area").items():
        found[area].price = median
    for area, median in _medians(of_residences.filter(dwellings__gt=0), _DWELLING, "area").items():
        found[area].dwelling = median
    counted = recent.values("area").annotate(sold=Count("id"), resold=Count("id", filter=Q(is_resale=True))).order_by()
    for area, sold, resold in counted.values_list("area", "sold", "resold"):
        found[area].sold, found[area].resold = sold, resold


_CLASS_CODES = {choice.key: choice.code for choice in CLASSES}
_UNITS = models.Unit.objects.filter(parcel=OuterRef("parcel"), superseded_at=None).order_by().values("parcel")
_DWELLINGS = Coalesce("units", Subquery(_UNITS.annotate(units=Count("id")).values("units")))
_AREA_OF_ROLL = Coalesce("neighborhood_id", "municipality_id")


def areas_of(county: County) -> QuerySet[RollEntry]:
    return RollEntry.objects.filter(county=county, superseded_at=None).annotate(where=_AREA_OF_ROLL).filter(where__isnull=False)


def _classed(county: County, parcels: Any) -> Iterator[tuple[int, int, int | None, int | None]]:
    """Yield for each of some parcels its area, its class, told by its use where the roll has none, and its bedrooms."""
    rows = areas_of(county).filter(parcel__in=parcels)
    columns = ("parcel_id", "where", "property_class", "beds", "land_use", "tenure", _DWELLINGS, "improvement_value")
    for parcel, area, kind, rooms, *used in rows.values_list(*columns):
        yield parcel, area, _CLASS_CODES.get(class_by_use(*used) or "") if kind is None else kind, rooms


def count_rents_and_fronts(county: County, found: dict[int, Counted]) -> None:
    entries = areas_of(county)
    for area, median in _medians(entries, F("frontage"), "where").items():
        found[area].frontage = median
    let = (
        Rental.objects.filter(county=county, superseded_at=None, until=None, rent__gt=0, parcel__rollentry_rows__superseded_at=None)
        .annotate(where=Coalesce("parcel__rollentry_rows__neighborhood_id", "parcel__rollentry_rows__municipality_id"))
        .filter(where__isnull=False)
    )
    for area, median in _medians(let, F("rent"), "where").items():
        found[area].rent = median
    alike: dict[tuple[int, int, int], list[Decimal]] = defaultdict(list)
    classes = {parcel: kind for parcel, _, kind, _ in _classed(county, let.values("parcel"))}
    for area, parcel, beds, rent in let.values_list("where", "parcel_id", "beds", "rent"):
        if (kind := classes.get(parcel)) is not None and beds is not None and rent is not None:
            alike[area, kind, beds].append(rent)
    for (area, kind, beds), rents in alike.items():
        if (usual := rules.median_of(rents)) and usual.is_enough:
            found[area].rents[f"{kind}/{beds}"] = usual


def count_listings(county: County, through: date | None, found: dict[int, Counted]) -> None:
    window = _ending(through)
    current = models.Listing.objects.filter(county=county, superseded_at=None, parcel__retired_on=None, parcel__isnull=False)
    wanted = Q(standard_status=StandardStatus.ACTIVE)
    if window:
        wanted |= Q(standard_status=StandardStatus.CLOSED, close_date__range=window)
    listed: dict[int, list[Listing]] = defaultdict(list)
    # A parcel's latest listing may be another than the active one.
    of_interest = current.filter(parcel__in=current.filter(wanted).values("parcel"))
    beds: dict[int, int | None] = {}
    for parcel, bedrooms, *values in of_interest.values_list("parcel_id", "bedrooms_total", *LISTED):
        listing = Listing(*values)
        listed[parcel].append(listing)
        beds[listing.key] = bedrooms
    where = {parcel: of_parcel for parcel, *of_parcel in _classed(county, among_ids(listed))}
    numbers = [listing.listing_id for listings in listed.values() for listing in listings if listing.status == StandardStatus.CLOSED]
    changes = changes_of(county.pk, numbers)
    for parcel, listings in listed.items():
        area, kind, rooms = where.get(parcel, (None, None, None))
        if area is None:
            continue
        for listing in _sold_in(window, listings):
            periods = active_periods(listing, changes.get(listing.listing_id, ()))
            found[area].days.append(Decimal(days_on_market(periods).days))
        latest = latest_of(listings, lease=False)
        if latest is None or latest.status != StandardStatus.ACTIVE:
            continue
        found[area].active += 1
        rooms = beds[latest.key] if rooms is None else rooms
        if kind is not None and rooms is not None and latest.list_price is not None:
            found[area].asked[f"{kind}/{rooms}"].append(latest.list_price)


def _sold_in(window: tuple[date, date] | None, listings: Iterable[Listing]) -> Iterator[Listing]:
    """Yield the listings by which something was sold within a span of days, both ends included."""
    for listing in listings:
        is_sale = listing.status == StandardStatus.CLOSED and not listing.is_lease
        if window and is_sale and listing.close_date and window[0] <= listing.close_date <= window[1]:
            yield listing
