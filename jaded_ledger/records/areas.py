"""Areas' figures: medians counted by the database over recorded sales, rentals and listings, put together by the core's rules.

An area is a parcel's neighborhood, or where none is on record its municipality. Twelve months end with the last month
through which the county's deeds (or listings) are on file, and deeds count by the day of their recording: within a month the
figures stay as they are, and so do the estimates that rest on them (docs/decisions/0016-figures-by-the-month.md).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Aggregate, Count, DecimalField, ExpressionWrapper, F, Q, QuerySet
from django.db.models.functions import Cast, Coalesce, ExtractYear

from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.dates import Length, Unit, shift
from jaded_ledger.core.market import areas as rules
from jaded_ledger.core.market.areas import AreaFigures, Median, PriceLevels
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.market.on_market import Listing, active_periods, days_on_market, latest_of
from jaded_ledger.records import models
from jaded_ledger.records.bulk import allot_ids, among_ids, copy_rows
from jaded_ledger.records.listing_changes import LISTED, changes_of
from jaded_ledger.records.models import Area, AreaEntry, County, Coverage, ParcelFacts, ParcelSale, Rental, RollEntry

_YEAR = Length(12, Unit.MONTH)
Context = dict[str, Any]


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
    last = shift(day, Length(12 * years_before, Unit.MONTH), -1) if years_before else day
    first = shift(last, _YEAR, -1)
    return date.fromordinal(first.toordinal() + 1), last


@dataclass
class _Area:
    """One area's figures on their way to the table."""

    levels: dict[int, Median] = field(default_factory=dict)
    now: Median | None = None
    before: Median | None = None
    price: Median | None = None
    dwelling: Median | None = None
    square_foot: dict[int | None, Median] = field(default_factory=dict)
    rent: Median | None = None
    frontage: Median | None = None
    sold: int = 0
    resold: int = 0
    active: int = 0
    days: list[Decimal] = field(default_factory=list)
    asked: dict[str, list[Decimal]] = field(default_factory=lambda: defaultdict(list))

    def context(self, name: str) -> Context:
        """Return what the facts of its parcels are computed from, as it is stored."""
        return {
            "name": name,
            "levels": {str(year): _stored(median) for year, median in sorted(self.levels.items())},
            "now": _stored(self.now),
            "square_foot": {
                str(key or ""): _stored(median) for key, median in sorted(self.square_foot.items(), key=lambda item: item[0] or 0)
            },
            "rent": _stored(self.rent),
            "frontage": _stored(self.frontage),
            "asked": {key: [str(price) for price in sorted(prices)] for key, prices in sorted(self.asked.items())},
        }


def _stored(median: Median | None) -> list[Any] | None:
    return None if median is None else [str(median.value.normalize()), median.count]


def _read(stored: list[Any] | None) -> Median | None:
    return Median(Decimal(stored[0]), stored[1]) if stored else None


def _levels(context: Context) -> PriceLevels:
    by_year = {int(year): median for year, stored in context.get("levels", {}).items() if (median := _read(stored))}
    return PriceLevels(by_year, _read(context.get("now")))


def read_figures(context: Context) -> AreaFigures:
    """Return an area's figures from how they are stored."""
    return AreaFigures(
        name=context.get("name", ""),
        levels=_levels(context),
        square_foot={
            int(key) if key else None: median for key, stored in context.get("square_foot", {}).items() if (median := _read(stored))
        },
        rent=_read(context.get("rent")),
        frontage=_read(context.get("frontage")),
        asked={
            (int(kind), int(beds)): [Decimal(price) for price in prices]
            for key, prices in context.get("asked", {}).items()
            for kind, _, beds in [key.partition("/")]
        },
    )


def figures_of(county: County) -> dict[int, AreaFigures]:
    """Return the figures of a county's areas."""
    stored = models.AreaFigures.objects.filter(area__county=county).values_list("area_id", "context")
    return {pk: read_figures(context) for pk, context in stored}


def stated(row: models.AreaFigures) -> tuple[tuple[str, str], ...]:
    """Return what an area's figures stand on, in words."""
    counts = row.counts

    def told(key: str, unit: str = "") -> str:
        median = _read(counts.get(key))
        return f"${median.value:,.2f}{unit}, of {median.count:,}" if median else "not told by anything on record"

    window = f"the 12 months recorded through {day_text(row.through)}" if row.through else "the last 12 months"
    return (
        ("Area", row.area.text),
        (f"Sales of {window}", f"{counts['sold']:,}, {counts['resold']:,} of them resales for more within 24 months"),
        ("Median price a sq ft", told("now")),
        ("Median price a sq ft, 12 months before", told("before")),
        ("Median price for each dwelling sold", told("dwelling")),
        ("Median rent of a let dwelling", told("rent", " a month")),
        ("Active listings", f"{counts['active']:,}"),
        ("Listings closed in 12 months", f"{counts['closed']:,}"),
        ("Population", "not on record" if row.population is None else f"{row.population:,}"),
    )


def county_levels(county: County) -> PriceLevels:
    """Return the price levels of a county as a whole."""
    stored = models.AreaFigures.objects.filter(area__county=county, area__kind="county").values_list("context", flat=True).first()
    return _levels(stored or {})


def _county_area(county: County) -> int:
    forms = Area.search_forms(county.name)
    area, _ = Area.objects.get_or_create(kind="county", county=county, folded=forms["folded"], defaults=forms)
    return area.pk


def _count_sales(county: County, through: date | None, found: dict[int, _Area], whole: _Area) -> None:
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


_AREA_OF_ROLL = Coalesce("neighborhood_id", "municipality_id")


def _areas_of(county: County, parcels: Iterable[int] | None = None) -> QuerySet[RollEntry]:
    rows = RollEntry.objects.filter(county=county, superseded_at=None).annotate(where=_AREA_OF_ROLL).filter(where__isnull=False)
    return rows if parcels is None else rows.filter(parcel_id__in=among_ids(parcels))


def _count_rents_and_fronts(county: County, found: dict[int, _Area]) -> None:
    entries = _areas_of(county)
    for area, median in _medians(entries, F("frontage"), "where").items():
        found[area].frontage = median
    let = (
        Rental.objects.filter(county=county, superseded_at=None, until=None, rent__gt=0, parcel__rollentry_rows__superseded_at=None)
        .annotate(where=Coalesce("parcel__rollentry_rows__neighborhood_id", "parcel__rollentry_rows__municipality_id"))
        .filter(where__isnull=False)
    )
    for area, median in _medians(let, F("rent"), "where").items():
        found[area].rent = median


def _count_listings(county: County, through: date | None, found: dict[int, _Area]) -> None:
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
    where = {
        parcel: (area, kind, rooms)
        for parcel, area, kind, rooms in _areas_of(county, listed).values_list("parcel_id", "where", "property_class", "beds")  # type: ignore[misc]
    }
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


def _populations(county: County) -> dict[int, int | None]:
    rows = AreaEntry.objects.filter(county=county, superseded_at=None).order_by("id")
    return dict(rows.values_list("area_id", "population"))


def _row(pk: int, name: str, counted: _Area, population: int | None, through: date | None) -> models.AreaFigures:
    growth = rules.growth(counted.now, counted.before)
    rental_yield = rules.rental_yield(counted.rent, counted.dwelling)
    supply = rules.months_of_supply(counted.active, counted.sold)
    days = rules.median_of(counted.days)
    is_sold_enough = counted.sold >= rules.ENOUGH_SALES
    return models.AreaFigures(
        area_id=pk,
        price=round(counted.price.value) if counted.price and counted.price.is_enough else None,
        rental_yield=None if rental_yield is None else round(float(rental_yield), 2),
        growth=None if growth is None else round(float(growth), 2),
        days=round(days.value) if days and days.is_enough else None,
        supply=None if supply is None else round(float(supply), 1),
        population=population,
        resales=round(100 * counted.resold / counted.sold, 2) if is_sold_enough else None,
        counts={
            "sold": counted.sold, "resold": counted.resold, "active": counted.active, "closed": len(counted.days),
            "let": counted.rent.count if counted.rent else 0, "dwellings": counted.dwelling.count if counted.dwelling else 0,
            "now": _stored(counted.now), "before": _stored(counted.before), "rent": _stored(counted.rent),
            "dwelling": _stored(counted.dwelling),
        },
        context=counted.context(name),
        through=through,
    )  # fmt: skip


_COLUMNS = ("price", "rental_yield", "growth", "days", "supply", "population", "resales", "counts", "context", "through")


def refresh_areas(county: County) -> set[int]:
    """Count a county's areas anew; return the parcels whose facts are computed from figures that changed."""
    through = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
    found: dict[int, _Area] = defaultdict(_Area)
    whole = _Area()
    deeds_through = last_of_month(through.get("deeds"))
    _count_sales(county, deeds_through, found, whole)
    _count_rents_and_fronts(county, found)
    _count_listings(county, last_of_month(through.get("listings")), found)
    populations = _populations(county)
    names = dict(Area.objects.filter(county=county).values_list("id", "text"))
    county_area = _county_area(county)
    names.setdefault(county_area, county.name)
    found[county_area] = whole
    wanted = found.keys() | populations.keys()
    before = {row.area_id: row for row in models.AreaFigures.objects.filter(area__county=county)}
    rows = {pk: _row(pk, names[pk], found.get(pk, _Area()), populations.get(pk), deeds_through) for pk in wanted}
    changed = [row for pk, row in rows.items() if pk not in before or any(getattr(row, c) != getattr(before[pk], c) for c in _COLUMNS)]
    models.AreaFigures.objects.filter(area_id__in=before.keys() - wanted).delete()
    models.AreaFigures.objects.bulk_create(changed, update_conflicts=True, unique_fields=["area"], update_fields=_COLUMNS)
    gone = before.keys() - wanted
    retold = {row.area_id for row in changed if row.area_id not in before or _told(row) != _told(before[row.area_id])} | gone
    if county_area in retold:
        return set(RollEntry.objects.filter(county=county, superseded_at=None).values_list("parcel_id", flat=True))
    reasked = {
        row.area_id for row in changed if row.area_id in before and row.context.get("asked") != before[row.area_id].context.get("asked")
    } - retold
    # Only what is active itself is compared with what is asked for its like.
    active = ParcelFacts.objects.filter(area__in=reasked, status=_ACTIVE).values_list("parcel_id", flat=True)
    told = _areas_of(county).filter(where__in=retold)  # type: ignore[misc]
    return set(told.values_list("parcel_id", flat=True)) | set(active)


_ACTIVE = next(choice.code for choice in STATUSES if choice.key == "active")


def _told(row: models.AreaFigures) -> Context:
    """Return what the facts of all its parcels are computed from."""
    return {key: value for key, value in row.context.items() if key != "asked"}


def set_sales(rows: Mapping[int, list[dict[str, Any]]], of: Iterable[int]) -> None:
    """Have the sales of some parcels be those given, by parcel; only what changed is written."""
    columns = (
        "parcel_id",
        "county_id",
        "area_id",
        "sold_on",
        "recorded_on",
        "price",
        "property_class",
        "living_area",
        "dwellings",
        "is_resale",
    )
    before: dict[int, list[tuple[Any, ...]]] = defaultdict(list)
    for row in ParcelSale.objects.filter(parcel_id__in=among_ids(of)).order_by("sold_on", "id").values_list(*columns):
        before[row[0]].append(row)
    changed = {pk: found for pk, found in rows.items() if [tuple(sale[c] for c in columns) for sale in found] != before.get(pk, [])}
    outdated = [pk for pk in before if pk in changed or pk not in rows]
    ParcelSale.objects.filter(parcel_id__in=among_ids(outdated)).delete()
    flat = [sale for found in changed.values() for sale in found]
    for sale, pk in zip(flat, allot_ids(ParcelSale, len(flat)) if flat else (), strict=True):
        sale["id"] = pk
    copy_rows(ParcelSale, flat)
