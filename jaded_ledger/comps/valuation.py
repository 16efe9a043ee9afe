"""A property's comps, put together: the pool and its ledger, each comp with its adjustments and warnings, and the range."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

import numpy as np
from django.db.models import F

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.circumstances import Key, circumstances_of, grades_of, key_of
from jaded_ledger.comps.models import CompDecision, CompSettings
from jaded_ledger.comps.on_offer import Offers, on_offer, own_listing
from jaded_ledger.comps.pool_areas import inside_of
from jaded_ledger.comps.pools import pool_of
from jaded_ledger.comps.sales_on_record import county_sales, house_of, is_land
from jaded_ledger.comps.settings_by_hand import constants_of, grade_amounts, lines_of, settings_of, step_of
from jaded_ledger.core.comps.adjustments import NOT_GRADED, Adjusted, Graded, adjust
from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.lines import PoolLine
from jaded_ledger.core.comps.pool import Pool, Widening, candidates, effects, narrow, widen
from jaded_ledger.core.comps.ranges import Range, doubts_about, range_of
from jaded_ledger.core.comps.sales import House, Rows, Sales
from jaded_ledger.core.comps.warnings import warnings_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.records.models import Parcel, ParcelFacts, RecordedText, earliest_days
from jaded_ledger.records.trait_columns import column_of, parcels_as_of

OfSet = Literal["as-is", "repaired"]
SETS: dict[OfSet, str] = {"as-is": "as it stands", "repaired": "after repair"}


@dataclass(frozen=True)
class Comp:
    """One sale of the pool as the page shows it. ``share`` is what it counts for in the value, in percent; None where it is not in."""

    parcel_id: int
    sold_on: date
    address: str
    number: str
    house: House
    price: float
    adjusted: Adjusted
    warnings: Sequence[str]
    of_set: OfSet
    grade: str
    is_in: bool
    reason: str
    by_hand: bool
    added: bool
    share: float | None = None
    bought_for: float | None = None

    @property
    def key(self) -> str:
        return f"{self.parcel_id}-{self.sold_on.isoformat()}"

    @property
    def unit_price(self) -> float | None:
        size = self.house.value("living_area")
        return None if math.isnan(size) else self.price / size


@dataclass(frozen=True)
class Subject:
    """The property that is valued. ``asking`` is its price where it is on the market, ``days`` how long it has been."""

    parcel: Parcel
    address: str
    house: House
    is_land: bool
    grade: str
    asking: float | None
    days: int | None

    @property
    def size(self) -> float:
        """Its living area, or of land its lot, in square feet; not a number where that is unknown."""
        return self.house.value("lot_sqft" if self.is_land else "living_area")


@dataclass(frozen=True)
class Valuation:
    """All that a page of comps says. ``ranges`` has both sets, None where no comp is in one.

    ``asked`` are the lines before they were widened: by them it is told how far the range can be trusted.
    """

    subject: Subject
    of_set: OfSet
    lines: tuple[PoolLine, ...]
    asked: tuple[PoolLine, ...]
    pool: Pool
    widened: tuple[Widening, ...]
    comps: Sequence[Comp]
    ranges: Mapping[OfSet, Range | None]
    constants: Constants
    size_step: float | None
    size_step_from: str
    offers: Mapping[str, Offers]
    addresses: Mapping[int, tuple[str, str]]
    through: date | None
    left_out: int = 0
    """How many sales of those months are of another kind: without a living area where a house is valued, with one where land is."""

    @property
    def range(self) -> Range | None:
        return self.ranges[self.of_set]

    @property
    def doubts(self) -> tuple[str, ...]:
        return doubts_about(self.ranges["as-is"], self.ranges["repaired"], is_repaired=self.of_set == "repaired")

    @property
    def chosen(self) -> list[Comp]:
        """The comps that the range is of."""
        return [comp for comp in self.comps if comp.is_in and comp.of_set == self.of_set]

    @property
    def out_by_hand(self) -> int:
        return sum(not comp.is_in for comp in self.comps)


def addresses_of(ids: Sequence[int]) -> dict[int, tuple[str, str]]:
    """Return parcels' addresses, or in their place numbers, and their numbers."""
    rows = ParcelFacts.objects.filter(parcel_id__in=set(ids)).select_related("address", "parcel")
    return {row.parcel_id: (row.street_line or row.parcel.number, row.parcel.number) for row in rows}


def decisions_on(scope: Scope, parcel: Parcel) -> dict[Key, CompDecision]:
    rows = CompDecision.objects.filter(team=scope.team, subject=parcel)
    return {(row.comp_id, row.sold_on): row for row in rows}


def set_of(grade: str, *, is_resale: bool) -> OfSet:
    """Return which set a sale is of: what was graded rebuilt, or, ungraded, resold for more within two years, was sold after repair."""
    return "repaired" if grade == "rebuilt" or (not grade and is_resale) else "as-is"


def _roads(houses: Sequence[House]) -> dict[float, str]:
    codes = {house.value("road_class") for house in houses if house.knows("road_class")}
    return {float(pk): text for pk, text in RecordedText.objects.filter(pk__in=[int(one) for one in codes]).values_list("pk", "text")}


def subject_of(parcel: Parcel, scope: Scope, day: date) -> Subject:
    """Return a property as the subject of comps on a day."""
    house, listing = house_of(parcel, day), own_listing(parcel)
    grade = grades_of(scope.team.pk, [parcel.pk]).get((parcel.pk, None), "")
    address = addresses_of([parcel.pk]).get(parcel.pk, (parcel.number, ""))[0]
    asking = float(listing.list_price) if listing and listing.list_price else None
    return Subject(parcel, address, house, is_land(house), grade, asking, _days_on_market(parcel, day) if listing else None)


def _days_on_market(parcel: Parcel, day: date) -> int | None:
    """Return what the trait says, which counts the days on which the listing was active; None where it is unknown."""
    days = F(column_of(CATALOGUE["days-on-market"]))
    return parcels_as_of(day).filter(parcel=parcel).annotate(days=days).values_list("days", flat=True).first()


def _added(sales: Sales, decisions: Mapping[Key, CompDecision], pool: Rows) -> list[int]:
    """Return the rows of sales that were put in by hand and are not in the pool."""
    wanted = {key for key, decision in decisions.items() if decision.is_in}
    return [row for row in sales if key_of(sales, row) in wanted and row not in set(pool.tolist())] if wanted else []


@dataclass(frozen=True)
class Method:
    """What a valuation is made with: the lines, whether somebody chose them, the constants, and what the team set by hand."""

    lines: tuple[PoolLine, ...]
    is_chosen: bool
    constants: Constants
    settings: CompSettings | None


def method_of(subject: Subject, scope: Scope, lines: Sequence[PoolLine] | None = None) -> Method:
    """Return the method for a property: the lines that are asked, or those saved for it, or those that its county's pools begin with."""
    county, settings = subject.parcel.county, settings_of(scope.team, subject.parcel.county)
    chosen = pool_of(scope, subject.parcel) if lines is None else tuple(lines)
    asked = lines_of(settings, is_land=subject.is_land) if chosen is None else chosen
    month = subject.house.day.replace(day=1)
    constants = constants_of(county, scope.today, month, settings, is_land=subject.is_land)
    return Method(asked, chosen is not None, constants, settings)


def value(
    parcel: Parcel, scope: Scope, lines: Sequence[PoolLine] | None = None, of_set: OfSet = "as-is", *, widens: bool | None = None,
    with_offers: bool = True,
) -> Valuation:  # fmt: skip
    """Return what a property is worth by its comps. Lines that somebody chose are not widened unless that is asked.

    Without offers nothing is said of what is on the market, which takes as long again.
    """
    subject = subject_of(parcel, scope, scope.today)
    method = method_of(subject, scope, lines)
    sales, left_out = _of_its_kind(subject, scope)
    inside = inside_of(sales, subject.house, method.lines, scope)
    asked = tuple(method.lines)
    widened: tuple[Widening, ...] = ()
    if not method.is_chosen if widens is None else widens:
        asked, widened = widen(sales, subject.house, method.lines, inside)
    pool = narrow(sales, subject.house, asked, method.constants, inside)
    step, step_from = step_of(parcel.county, scope.today, subject.house.value("neighborhood"), method.settings)
    comps = _comps(subject, sales, pool, method, step, scope)
    offers = on_offer(parcel, subject.house, asked, lambda table: inside_of(table, subject.house, asked, scope)) if with_offers else {}
    ids = [offer.parcel_id for kind in offers.values() for offer in kind.offers]
    ranges: dict[OfSet, Range | None] = {name: _range(comps, name) for name in SETS}
    return Valuation(
        subject, of_set, asked, method.lines, pool, widened, _with_shares(comps, ranges[of_set], of_set), ranges, method.constants,
        step, step_from if step else "", offers, addresses_of(ids), earliest_days().get(parcel.county_id),
        left_out,
    )  # fmt: skip


def _of_its_kind(subject: Subject, scope: Scope) -> tuple[Sales, int]:
    """Return the sales that a pool is narrowed from, and how many of those months are of another kind."""
    every = candidates(county_sales(subject.parcel.county, scope.today), subject.house, subject.parcel.pk)
    sales = every.take(np.isnan(every.traits["living_area"]) == subject.is_land)
    return sales, len(every) - len(sales)


def effects_of(found: Valuation, scope: Scope, proposed: Sequence[PoolLine]) -> list[int]:
    """Return how many comps would be left with each of some lines. Raises PoolError."""
    sales, _ = _of_its_kind(found.subject, scope)
    inside = inside_of(sales, found.subject.house, (*found.lines, *proposed), scope)
    return effects(sales, found.subject.house, found.lines, proposed, inside)


def _adjusted(sales: Sales, sets: Sequence[OfSet], house: House, constants: Constants, graded: Graded) -> list[Adjusted]:
    """Return comps adjusted to a house: what was sold as is to its condition, what was sold after repair to that of a repaired house."""
    found: list[Adjusted | None] = [None] * len(sales)
    of_each: dict[OfSet, tuple[Constants, Graded]] = {"as-is": (constants, graded), "repaired": (constants.of_repaired, NOT_GRADED)}
    for name, (by, grades) in of_each.items():
        rows = [row for row, of_set in enumerate(sets) if of_set == name]
        for row, one in zip(rows, adjust(sales, rows, house, by, grades), strict=True):
            found[row] = one
    return [one for one in found if one is not None]


def _comps(subject: Subject, sales: Sales, pool: Pool, method: Method, size_step: float | None, scope: Scope) -> list[Comp]:
    """Return the comps of a pool, those put in by hand after them."""
    decisions = decisions_on(scope, subject.parcel)
    by_hand = _added(sales, decisions, pool.rows)
    rows = [*pool.rows.tolist(), *by_hand]
    chosen = sales.take(np.array(rows, dtype=np.intp))
    keys = [key_of(chosen, row) for row in chosen]
    grades = grades_of(scope.team.pk, [pk for pk, _ in keys])
    about = circumstances_of(chosen, subject.house, subject.parcel.county, grades)
    graded = Graded(subject.grade, {row: one.grade for row, one in enumerate(about)}, grade_amounts(method.settings))
    sets = [set_of(one.grade, is_resale=chosen.traits["resale"][row] == 1) for row, one in enumerate(about)]
    adjusted = _adjusted(chosen, sets, subject.house, method.constants, graded)
    houses = [chosen.house(row) for row in chosen]
    roads, addresses = _roads([subject.house, *houses]), addresses_of([pk for pk, _ in keys])
    comps = []
    for row, key in enumerate(keys):
        decision = decisions.get(key)
        warnings = warnings_of(
            subject.house, houses[row], about[row], size_step=size_step, roads=roads, subject_grade=subject.grade,
            is_repaired=sets[row] == "repaired",
        )  # fmt: skip
        address, number = addresses.get(key[0], (str(key[0]), ""))
        comp = Comp(
            key[0], key[1], address, number, houses[row], float(chosen.price[row]), adjusted[row], [str(one) for one in warnings],
            sets[row], about[row].grade,
            decision is None or decision.is_in, decision.reason if decision else "",
            decision is not None, row >= len(pool), bought_for=about[row].bought_for,
        )  # fmt: skip
        comps.append(comp)
    return comps


def _counts(comp: Comp, of_set: OfSet) -> bool:
    return comp.is_in and comp.of_set == of_set


def _range(comps: Sequence[Comp], of_set: OfSet) -> Range | None:
    """Return the range of the comps that count in a set."""
    counted = [comp.adjusted for comp in comps if _counts(comp, of_set)]
    return range_of([one.value for one in counted], [one.closeness for one in counted])


def _with_shares(comps: Sequence[Comp], found: Range | None, of_set: OfSet) -> list[Comp]:
    """Return comps with what each counts for in a set's range; None of those that do not count."""
    shares = iter(found.shares if found else ())
    return [replace(comp, share=100 * next(shares) if _counts(comp, of_set) else None) for comp in comps]


def in_set(found: Valuation, of_set: OfSet) -> Valuation:
    """Return a valuation with the range of another set of its comps."""
    return replace(found, of_set=of_set, comps=_with_shares(found.comps, found.ranges[of_set], of_set))


def miles_of(comp: Comp) -> float | None:
    return None if math.isnan(comp.adjusted.miles) else comp.adjusted.miles


def past_sales_after(day: date) -> date:
    """Return after which day past sales are told, to say how far a range on a day can be trusted: the two years before it."""
    return day - timedelta(730)
