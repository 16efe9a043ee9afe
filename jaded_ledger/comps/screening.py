"""Many properties at once: each one's range by its comps beside its price, by the same steps as its own page."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.circumstances import Key, key_of
from jaded_ledger.comps.models import CompDecision, CompSettings, ConditionGrade
from jaded_ledger.comps.pool_areas import inside_of
from jaded_ledger.comps.pools import Lines, pools_of
from jaded_ledger.comps.sales_on_record import county_sales, houses_of, is_land
from jaded_ledger.comps.settings_by_hand import constants_of, grade_amounts, lines_of, settings_of
from jaded_ledger.comps.valuation import OfSet, set_of
from jaded_ledger.core.comps.adjustments import Graded, adjusted_values
from jaded_ledger.core.comps.pool import candidates, narrow, widen
from jaded_ledger.core.comps.ranges import Range, range_of
from jaded_ledger.core.comps.sales import House, Sales
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import County, ParcelFacts

ASKED_NOW = {choice.code for choice in STATUSES if choice.key in ("active", "active-under-contract", "pending", "coming-soon")}
"""The codes of the statuses at which a price is asked."""
Grades = Mapping[Key | tuple[int, None], str]


@dataclass(frozen=True)
class Screened:
    """A property with its ranges as is and after repair, None where no comp is in one, and its price: asked, else its estimated value."""

    parcel_id: int
    range: Range | None
    repaired: Range | None
    price: float | None
    is_asked: bool

    @property
    def difference(self) -> float | None:
        """How far the price lies over the value, in percent."""
        return None if self.range is None or not self.price else self.range.difference(self.price)


def _grades(scope: Scope) -> Grades:
    rows = ConditionGrade.objects.filter(team=scope.team)
    return {(pk, day): grade for pk, day, grade in rows.values_list("parcel_id", "sold_on", "grade")}  # type: ignore[misc]


def _decisions(scope: Scope, ids: Sequence[int]) -> dict[int, dict[Key, bool]]:
    found: dict[int, dict[Key, bool]] = defaultdict(dict)
    rows = CompDecision.objects.filter(team=scope.team, subject_id__in=among_ids(ids))
    for subject, comp, day, is_in in rows.values_list("subject_id", "comp_id", "sold_on", "is_in"):
        found[subject][comp, day] = is_in
    return found


@dataclass(frozen=True)
class _Screen:
    """What the ranges of a county's properties are told with."""

    county: County
    sales: Sales
    settings: CompSettings | None
    grades: Grades
    scope: Scope

    def ranges(self, parcel_id: int, house: House, decisions: Mapping[Key, bool], chosen: Lines | None) -> dict[OfSet, Range | None]:
        land = is_land(house)
        constants = constants_of(self.county, self.scope.today, house.day.replace(day=1), self.settings, is_land=land)
        sales = candidates(self.sales, house, parcel_id)
        sales = sales.take(np.isnan(sales.traits["living_area"]) == land)
        lines = widen(sales, house, lines_of(self.settings, is_land=land))[0] if chosen is None else chosen
        rows = narrow(sales, house, lines, constants, inside_of(sales, house, lines, self.scope)).rows
        if any(decisions.values()):
            known = set(rows.tolist())
            added = [row for row in sales if decisions.get(key_of(sales, row)) and row not in known]
            rows = np.array([*rows, *added], dtype=np.intp)
        by_set: dict[OfSet, list[int]] = {"as-is": [], "repaired": []}
        for row in rows.tolist():
            key = key_of(sales, row)
            if decisions.get(key, True):
                by_set[set_of(self.grades.get(key, ""), is_resale=sales.traits["resale"][row] == 1)].append(row)
        as_is, repaired = (sales.take(np.array(one, dtype=np.intp)) for one in by_set.values())
        grades = {row: self.grades.get(key_of(as_is, row), "") for row in as_is}
        graded = Graded(self.grades.get((parcel_id, None), ""), grades, grade_amounts(self.settings))
        values, closeness = adjusted_values(as_is, house, constants)
        values = values * np.array([math.exp(graded.difference(row)) for row in as_is])
        return {
            "as-is": range_of(values, closeness),
            "repaired": range_of(*adjusted_values(repaired, house, constants.of_repaired)),
        }


def screen(rows: Sequence[ParcelFacts], scope: Scope) -> Iterator[Screened]:
    """Yield each property with its ranges, by the lines that the team chose for it, else those that its county's pools begin with."""
    ids = [row.parcel_id for row in rows]
    houses, decisions, grades, pools = houses_of(ids), _decisions(scope, ids), _grades(scope), pools_of(scope, ids)
    counties = County.objects.in_bulk({row.county_id for row in rows})
    screens = {
        pk: _Screen(county, county_sales(county, scope.today), settings_of(scope.team, county), grades, scope)
        for pk, county in counties.items()
    }
    for row in rows:
        longitude, latitude, traits = houses[row.parcel_id]
        house = House(scope.today, longitude, latitude, {trait: value for trait, value in traits.items() if value is not None})
        found = screens[row.county_id].ranges(row.parcel_id, house, decisions.get(row.parcel_id, {}), pools.get(row.parcel_id))
        is_asked = row.status in ASKED_NOW and bool(row.list_price)
        price = row.list_price if is_asked else row.estimated_value
        yield Screened(row.parcel_id, found["as-is"], found["repaired"], float(price) if price else None, is_asked)
