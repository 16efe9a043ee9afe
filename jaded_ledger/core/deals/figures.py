"""A worksheet computed: its exits with their figures, prices that meet what is wanted, and what changes with its inputs."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaded_ledger.core.deals.assignment import assignment
from jaded_ledger.core.deals.expressions import Cell, FigureUnit, Numbers, Values
from jaded_ledger.core.deals.inputs import INPUTS, Exit
from jaded_ledger.core.deals.known import Defaults, Given, Origin, Recorded, dwellings, fill, rent_at_market, rent_today
from jaded_ledger.core.deals.parts_sold import split, titles
from jaded_ledger.core.deals.projection import Projection, project
from jaded_ledger.core.deals.refinance import refinance
from jaded_ledger.core.deals.rental import rental
from jaded_ledger.core.deals.resale import resale
from jaded_ledger.core.deals.roll import Building, RentedUnit
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Sheet
from jaded_ledger.core.deals.solving import solve
from jaded_ledger.core.deals.worksheet import Worksheet

HELD = (Exit.RENTAL, Exit.REFINANCE)
"""The exits that are held over years."""


@dataclass(frozen=True)
class Figures:
    """A computed worksheet. ``given`` has every input with whose word it is; ``inputs`` those of rows as well, as numbers."""

    worksheet: Worksheet
    building: Building
    given: Mapping[str, Given]
    inputs: Mapping[str, Numbers]
    sheet: Sheet
    exits: tuple[ExitSheet, ...]
    projections: Mapping[Exit, Projection]
    values: Values

    def number(self, cell: Cell) -> float | None:
        """Return a figure; None where it is not known or not defined."""
        return self.values.number(cell)

    def solved(self, gap: Cell, key: str) -> float | None:
        """Return the value of an input at which a gap closes, of money to the cent; None where none does."""

        def at(value: float) -> float:
            return float(Values({**self.inputs, key: value})[gap])

        one = INPUTS[key]
        return solve(at, float(self.inputs.get(key, np.nan)), one.least, is_money=one.unit in (FigureUnit.MONEY, FigureUnit.MONEY_A_YEAR))

    def with_inputs(self, changed: Mapping[str, float]) -> Values:
        """Return the figures with other inputs, or figures taken as given."""
        return Values({**self.inputs, **changed})


def default_units(record: Recorded) -> tuple[RentedUnit, ...]:
    """Return a unit for each dwelling, among which the rents of all of it are shared alike."""
    count = min(int(float(dwellings(record))), 60)
    today, market = (_part(given.value, count) for given in (rent_today(record), rent_at_market(record)))
    return tuple(RentedUnit(name=f"unit {place}" if count > 1 else "", rent=today, market=market) for place in range(1, count + 1))


def _part(value: Numbers, count: int) -> float | None:
    return None if np.isnan(value) else float(value) / count


def row_inputs(building: Building) -> dict[str, float]:
    """Return the values of the rows, by the keys of their cells."""
    found: dict[str, float | None] = {}
    for place, unit in enumerate(building.units, 1):
        rows = {
            "rent": unit.rent, "market": unit.market, "subsidy": unit.subsidy, "value": unit.value,
            "standard": 0.0 if unit.standard is None and unit.subsidy is not None else unit.standard,
        }  # fmt: skip
        found.update({f"unit.{place}.{name}": value for name, value in rows.items()})
    found.update({f"repair.{place}.cost": row.cost for place, row in enumerate(building.repairs, 1)})
    found.update({f"system.{one.kind}.cost": one.usual.cost if one.cost is None else one.cost for one in building.systems})
    return {key: value for key, value in found.items() if value is not None}


def _exit(sheet: Sheet, exit_: Exit, inputs: Mapping[str, Numbers]) -> ExitSheet:
    def known(key: str) -> bool:
        return not np.isnan(inputs.get(key, np.nan))

    match exit_:
        case Exit.RESALE:
            return resale(sheet)
        case Exit.RENTAL:
            return rental(sheet)
        case Exit.ASSIGNMENT:
            return assignment(sheet, is_listed=known("list-price"))
        case Exit.REFINANCE:
            return refinance(sheet)
        case Exit.SPLIT:
            return split(sheet, knows_depth=known("split.depth"), knows_area=known("split.area"))
        case Exit.TITLES:
            return titles(sheet)


def compute(
    worksheet: Worksheet, record: Recorded, recorded: Building, defaults: Defaults, instead: Mapping[str, Given] | None = None
) -> Figures:
    """Return a worksheet's figures.

    ``recorded`` is the building as it is on record; ``instead`` are inputs to take in the place of the record's.
    """
    building = worksheet.building(recorded)
    given = fill(record, defaults, worksheet.own)
    for key, one in (instead or {}).items():
        if given[key].origin is not Origin.YOURS:
            given[key] = one
    if given["titles.value-each"].origin is not Origin.YOURS and building.units:
        value = np.round(given["arv"].value / len(building.units))
        given["titles.value-each"] = Given(value, Origin.ESTIMATED, "the value after repair, shared among the units")
    inputs: dict[str, Numbers] = {**{key: one.value for key, one in given.items()}, **row_inputs(building)}
    has_costs = not np.isnan(inputs.get("costs", np.nan))
    sheet = Sheet(building, worksheet.rents, worksheet.repairs_by, has_costs=bool(has_costs))
    exits = tuple(_exit(sheet, exit_, inputs) for exit_ in worksheet.exits)
    years = int(float(inputs["hold.years"]))
    projections = {one.exit: project(sheet, one, years) for one in exits if one.exit in HELD}
    return Figures(worksheet, building, given, inputs, sheet, exits, projections, Values(inputs))


TOLERANCE = 0.005
"""Half a cent: what is met to the cent is met."""


def is_missed(figures: Figures, goal: Goal) -> bool | None:
    """Return whether what is wanted is missed; None where that is not known."""
    gap = figures.number(goal.gap)
    return None if gap is None else gap < -TOLERANCE


def works(figures: Figures, exit_: ExitSheet) -> bool | None:
    """Return whether an exit meets all that is wanted of it; None where that is not known."""
    missed = [is_missed(figures, goal) for goal in exit_.goals]
    if True in missed:
        return False
    return None if None in missed else True


def price_needed(figures: Figures, exit_: ExitSheet) -> float | None:
    """Return the highest price at which an exit meets all that is wanted of it; None where no price does."""
    known = []
    for goal in exit_.goals:
        price = figures.solved(goal.gap, "price")
        if price is not None:
            known.append(price)
        elif is_missed(figures, goal) is not False:
            return None
    return min(known, default=None)


def axis_steps(figures: Figures, cell: Cell, step: float | None = None, count: int = 2) -> list[float] | None:
    """Return the values about a figure's own for a table of what changes with it: so many steps below and above it.

    Where it can't be so low, or so high, there are as many more on the other side. Without a step, a usual one is taken. None where the
    figure is not known.
    """
    base = figures.number(cell)
    if base is None:
        return None
    by, most_steps = step or usual_step(cell, base), 2 * count
    least, most = (INPUTS[cell.key].least, INPUTS[cell.key].most) if cell.key in INPUTS else (-math.inf, math.inf)
    # What is a whole number of steps but for the last bit of a division is that number.
    room_below, room_above = (int(min(most_steps, room / by + 1e-9)) for room in (base - least, most - base))
    above = min(most_steps - min(count, room_below), room_above)
    return [base + place * by for place in range(-min(most_steps - above, room_below), above + 1)]


def usual_step(cell: Cell, base: float) -> float:
    """Return a step that a reader would choose: a round amount near a twentieth of the figure, a point of a large percentage."""
    if cell.unit is FigureUnit.PERCENT:
        return 5.0 if abs(base) >= 30 else 1.0 if abs(base) >= 5 else 0.5
    if cell.unit in (FigureUnit.MONTHS, FigureUnit.YEARS, FigureUnit.COUNT):
        return 1.0
    if not base:
        return 1_000.0
    rough = abs(base) / 20
    size = 10.0 ** math.floor(math.log10(rough))
    return size * min((1, 2, 5, 10), key=lambda times: abs(times * size - rough))


def sensitivity(
    figures: Figures, result: Cell, down: tuple[Cell, Sequence[float]], across: tuple[Cell, Sequence[float]]
) -> list[list[float | None]]:
    """Return a result for every pair of two figures' values: a row for each value of ``down``."""
    return [
        [figures.with_inputs({down[0].key: one, across[0].key: other}).number(result) for other in across[1]] for one in down[1]
    ]  # fmt: skip
