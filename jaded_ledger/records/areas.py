"""Areas' figures: medians counted by the database over recorded sales, rentals and listings, put together by the core's rules.

An area is a parcel's neighborhood, or where none is on record its municipality. Twelve months end with the last month
through which the county's deeds (or listings) are on file, and deeds count by the day of their recording: within a month the
figures stay as they are, and so do the estimates that rest on them (docs/decisions/0016-figures-by-the-month.md).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from django.db.models import Q

from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.market import areas as rules
from jaded_ledger.core.market.areas import AreaFigures, Median, PriceLevels
from jaded_ledger.records import models
from jaded_ledger.records.area_counts import Counted, count_listings, count_rents_and_fronts, count_sales, last_of_month
from jaded_ledger.records.bulk import allot_ids, among_ids, copy_rows
from jaded_ledger.records.models import Area, AreaEntry, County, Coverage, ParcelSale

Context = dict[str, Any]


def _context(counted: Counted, name: str) -> Context:
    """Return what the facts of its parcels are computed from, as it is stored."""
    return {
        "name": name,
        "levels": {str(year): _stored(median) for year, median in sorted(counted.levels.items())},
        "now": _stored(counted.now),
        "square_foot": {
            str(key or ""): _stored(median) for key, median in sorted(counted.square_foot.items(), key=lambda item: item[0] or 0)
        },
        "rent": _stored(counted.rent),
        "rents": {key: _stored(median) for key, median in sorted(counted.rents.items())},
        "frontage": _stored(counted.frontage),
        "asked": {key: [str(price) for price in sorted(prices)] for key, prices in sorted(counted.asked.items())},
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
        rents={
            (int(kind), int(beds)): median
            for key, stored in context.get("rents", {}).items()
            for kind, _, beds in [key.partition("/")]
            if (median := _read(stored))
        },
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

    def median_text(key: str, unit: str = "") -> str:
        median = _read(counts.get(key))
        return f"${median.value:,.2f}{unit}, of {median.count:,}" if median else "not told by anything on record"

    window = f"the 12 months recorded through {day_text(row.through)}" if row.through else "the last 12 months"
    return (
        ("Area", row.area.text),
        (f"Sales of {window}", f"{counts['sold']:,}, {counts['resold']:,} of them resales for more within 24 months"),
        ("Median price a sq ft", median_text("now")),
        ("Median price a sq ft, 12 months before", median_text("before")),
        ("Median price for each dwelling sold", median_text("dwelling")),
        ("Median rent of a let dwelling", median_text("rent", " a month")),
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


def _populations(county: County) -> dict[int, int | None]:
    rows = AreaEntry.objects.filter(county=county, superseded_at=None).order_by("id")
    return dict(rows.values_list("area_id", "population"))


def _row(pk: int, name: str, counted: Counted, population: int | None, through: date | None) -> models.AreaFigures:
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
        context=_context(counted, name),
        through=through,
    )  # fmt: skip


_COLUMNS = ("price", "rental_yield", "growth", "days", "supply", "population", "resales", "counts", "context", "through")


@dataclass(frozen=True)
class Retold:
    """The areas whose figures changed, as far as facts of their parcels rest on them.

    ``areas`` are those of which anything changed, ``asked`` those of which only what is asked there did, which tells of what is
    active itself; ``is_county`` says that the county's own changed, on which all of its parcels rest. ``is_any`` says that some
    figure changed at all: searches ask for figures on which no fact rests.
    """

    areas: frozenset[int] = frozenset()
    asked: frozenset[int] = frozenset()
    is_county: bool = False
    is_any: bool = False

    def __bool__(self) -> bool:
        return bool(self.areas or self.asked or self.is_county)

    @property
    def parcels(self) -> Q:
        """The condition on facts that they rest on one of these."""
        if self.is_county:
            return Q(pk__gt=0)
        return Q(area__in=self.areas) | Q(area__in=self.asked, status=_ACTIVE)


def refresh_areas(county: County) -> Retold:
    """Count a county's areas anew; return those whose figures changed."""
    through = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
    found: dict[int, Counted] = defaultdict(Counted)
    whole = Counted()
    deeds_through = last_of_month(through.get("deeds"))
    count_sales(county, deeds_through, found, whole)
    count_rents_and_fronts(county, found)
    count_listings(county, last_of_month(through.get("listings")), found)
    populations = _populations(county)
    names = dict(Area.objects.filter(county=county).values_list("id", "text"))
    county_area = _county_area(county)
    names.setdefault(county_area, county.name)
    found[county_area] = whole
    wanted = found.keys() | populations.keys()
    before = {row.area_id: row for row in models.AreaFigures.objects.filter(area__county=county)}
    rows = {pk: _row(pk, names[pk], found.get(pk, Counted()), populations.get(pk), deeds_through) for pk in wanted}
    changed = [row for pk, row in rows.items() if pk not in before or any(getattr(row, c) != getattr(before[pk], c) for c in _COLUMNS)]
    models.AreaFigures.objects.filter(area_id__in=before.keys() - wanted).delete()
    models.AreaFigures.objects.bulk_create(changed, update_conflicts=True, unique_fields=["area"], update_fields=_COLUMNS)
    gone = before.keys() - wanted
    changed_areas = {
        row.area_id for row in changed if row.area_id not in before or _figures_of(row) != _figures_of(before[row.area_id])
    } | gone
    reasked = {
        row.area_id for row in changed if row.area_id in before and row.context.get("asked") != before[row.area_id].context.get("asked")
    } - changed_areas
    return Retold(frozenset(changed_areas), frozenset(reasked), county_area in changed_areas, bool(changed or gone))


_ACTIVE = next(choice.code for choice in STATUSES if choice.key == "active")


def _figures_of(row: models.AreaFigures) -> Context:
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
