"""Adjustments: what a comp would have sold for, had it been the subject, today. Each step in dollars, in a fixed order."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.likeness import differing
from jaded_ledger.core.comps.sales import House, Numbers, Rows, Sales
from jaded_ledger.core.lengths import METERS_PER_MILE

TIME = "time"
CONDITION = "graded condition"


@dataclass(frozen=True)
class Adjustment:
    """One step: what differs, of the comp and of the subject in the trait's own units, and the dollars that it makes.

    ``factor`` is what the price so far is multiplied by. For time, ``of_comp`` holds the months since the sale.
    """

    key: str
    label: str
    of_comp: float
    of_subject: float
    factor: float
    dollars: float
    reason: str


@dataclass(frozen=True)
class Adjusted:
    """A comp's price on its way to the subject. ``unknown`` names what could not be compared;
    ``closeness`` is the logarithm of how much it counts."""

    row: int
    price: float
    steps: tuple[Adjustment, ...]
    unknown: tuple[str, ...]
    miles: float
    months: float
    closeness: float

    @property
    def value(self) -> float:
        return self.price + self.dollars

    @property
    def dollars(self) -> float:
        """All that was adjusted, together."""
        return math.fsum(step.dollars for step in self.steps)

    @property
    def gross(self) -> float:
        """All that was adjusted, up or down, as a share of the price."""
        return math.fsum(abs(step.dollars) for step in self.steps) / self.price


@dataclass(frozen=True)
class Graded:
    """Conditions as a person graded them, and by how much they change a price (in logs); a grade that is not set changes nothing."""

    subject: str = ""
    comps: Mapping[int, str] = field(default_factory=dict)
    """By the comp's row."""
    amounts: Mapping[str, float] = field(default_factory=dict)

    def difference(self, row: int) -> float:
        """Return the change of the log price from the comp's grade to the subject's; 0 where one of the two is not graded."""
        comp = self.comps.get(row, "")
        return self.amounts.get(self.subject, 0.0) - self.amounts.get(comp, 0.0) if comp and self.subject else 0.0


NOT_GRADED = Graded()


def parts_of(sales: Sales, house: House, constants: Constants) -> tuple[Numbers, Numbers]:
    """Return what each term makes of the log prices of sales, and of a house's had it sold on the same days.

    Both have a row for each sale and a column for each term; unknown is not a number.
    """
    if not constants.coefficients:
        return np.zeros((len(sales), 0)), np.zeros((len(sales), 0))
    of_sales = np.column_stack([one.term.of_sales(sales) * one.value for one in constants.coefficients])
    return of_sales, np.column_stack([one.term.of_house(house, sales) * one.value for one in constants.coefficients])


def closeness_of(sales: Sales, house: House, constants: Constants, parts: tuple[Numbers, Numbers] | None = None) -> Numbers:
    """Return the logarithm of how much each sale counts as a comp of a house."""
    of_sales, of_house = parts or parts_of(sales, house, constants)
    typical = np.array([abs(one.value) * one.typical for one in constants.coefficients])
    infinite = (np.nan_to_num(of_sales, nan=np.inf), np.nan_to_num(of_house, nan=np.inf))
    apart = np.sqrt((differing(*infinite, typical) ** 2).sum(axis=1))
    miles = sales.meters_from(house) / METERS_PER_MILE
    return constants.likeness.closeness(miles, apart, sales.months_before(house.day))


def adjusted_values(sales: Sales, house: House, constants: Constants) -> tuple[Numbers, Numbers]:
    """Return what each sale would have brought as the house, on its day, and the logarithm of how much it counts.

    This is what ``adjust`` tells step by step.
    """
    parts = parts_of(sales, house, constants)
    logs = np.nan_to_num(parts[1] - parts[0]).sum(axis=1) + constants.monthly * sales.months_before(house.day)
    return sales.price * np.exp(logs), closeness_of(sales, house, constants, parts)


def adjust(sales: Sales, rows: Rows | Sequence[int], house: House, constants: Constants, graded: Graded = NOT_GRADED) -> list[Adjusted]:
    """Return comps with their prices adjusted to a house: first for time, then term by term, last for the condition as it was graded."""
    chosen = sales.take(np.asarray(rows, dtype=np.intp))
    of_sales, of_house = parts_of(chosen, house, constants)
    closeness = closeness_of(chosen, house, constants, (of_sales, of_house))
    miles, months = chosen.meters_from(house) / METERS_PER_MILE, chosen.months_before(house.day)
    found = []
    for place, row in enumerate(rows):
        price, steps, unknown = float(chosen.price[place]), [], []
        so_far = price

        def step(key: str, label: str, values: tuple[float, float], log: float, reason: str) -> None:
            nonlocal so_far
            if not log:
                return
            factor = math.exp(log)
            steps.append(Adjustment(key, label, *values, factor, so_far * (factor - 1), reason))  # noqa: B023
            so_far *= factor

        age = float(months[place])
        step(TIME, "time", (age, 0.0), constants.monthly * age, f"{100 * math.expm1(constants.monthly):+.2f} % a month")
        for number, one in enumerate(constants.coefficients):
            values = float(chosen.traits[one.term.trait][place]), house.value(one.term.trait)
            log = float(of_house[place, number] - of_sales[place, number])
            if math.isnan(log):
                unknown.append(one.term.label)
            else:
                step(one.term.key, one.term.label, values, log, one.text)
        step(CONDITION, CONDITION, (math.nan, math.nan), graded.difference(int(row)), "as set")
        found.append(Adjusted(int(row), price, tuple(steps), tuple(unknown), float(miles[place]), age, float(closeness[place])))
    return found
