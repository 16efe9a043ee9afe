"""Many properties at once: each one's range by its comps beside its price, by the same steps as its own page."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.comps.adjustments import Graded, adjusted_values
from jaded_ledger.core.comps.pool import candidates, narrow, widen
from jaded_ledger.core.comps.ranges import Range, range_of
from jaded_ledger.core.comps.sales import House, Sales
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.deals.circumstances import Key, key_of
from jaded_ledger.deals.models import CompDecision, CompSettings, ConditionGrade
from jaded_ledger.deals.sales_on_record import county_sales, houses_of, is_land
from jaded_ledger.deals.settings_by_hand import constants_of, grade_amounts, lines_of, settings_of
from jaded_ledger.deals.valuation import set_of
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import County, ParcelFacts

ON_MARKET = {choice.code for choice in STATUSES if choice.key in ("active", "active-under-contract", "pending", "coming-soon")}
"""The codes of the statuses at which a price is asked."""
Grades = Mapping[Key | tuple[int, None], str]


@dataclass(frozen=True)
class Screened:
    """A property with its range, None where no comp is in it, and its price: what is asked, or else its estimated value."""

    parcel_id: int
    range: Range | None
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
    today: date

    def range(self, parcel_id: int, house: House, decisions: Mapping[Key, bool]) -> Range | None:
        land = is_land(house)
        constants = constants_of(self.county, self.today, house.day.replace(day=1), self.settings, is_land=land)
        sales = candidates(self.sales, house, parcel_id)
        sales = sales.take(np.isnan(sales.traits["living_area"]) == land)
        lines, _ = widen(sales, house, lines_of(self.settings, is_land=land))
        rows = narrow(sales, house, lines, constants).rows
        if any(decisions.values()):
            known = set(rows.tolist())
            added = [row for row in sales if decisions.get(key_of(sales, row)) and row not in known]
            rows = np.array([*rows, *added], dtype=np.intp)
        kept = [row for row in rows.tolist() if self._counts(sales, row, decisions)]
        comps = sales.take(np.array(kept, dtype=np.intp))
        grades = {row: self.grades.get(key_of(comps, row), "") for row in comps}
        graded = Graded(self.grades.get((parcel_id, None), ""), grades, grade_amounts(self.settings))
        values, closeness = adjusted_values(comps, house, constants)
        values = values * np.array([math.exp(graded.difference(row)) for row in comps])
        return range_of(values, closeness, constants.noise)

    def _counts(self, sales: Sales, row: int, decisions: Mapping[Key, bool]) -> bool:
        key = key_of(sales, row)
        of_set = set_of(self.grades.get(key, ""), is_resale=sales.traits["resale"][row] == 1)
        return decisions.get(key, True) and of_set == "as-is"


def screen(rows: Sequence[ParcelFacts], scope: Scope) -> Iterator[Screened]:
    """Yield each property with its range as it stands, by the lines that its county's pools begin with, in their order."""
    ids = [row.parcel_id for row in rows]
    houses, decisions, grades = houses_of(ids), _decisions(scope, ids), _grades(scope)
    counties = County.objects.in_bulk({row.county_id for row in rows})
    screens = {
        pk: _Screen(county, county_sales(county, scope.today), settings_of(scope.team, county), grades, scope.today)
        for pk, county in counties.items()
    }
    for row in rows:
        longitude, latitude, traits = houses[row.parcel_id]
        house = House(scope.today, longitude, latitude, {trait: value for trait, value in traits.items() if value is not None})
        found = screens[row.county_id].range(row.parcel_id, house, decisions.get(row.parcel_id, {}))
        is_asked = row.status in ON_MARKET and bool(row.list_price)
        price = row.list_price if is_asked else row.estimated_value
        yield Screened(row.parcel_id, found, float(price) if price else None, is_asked)
