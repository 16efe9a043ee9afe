"""The rent roll: what the units bring today, at market, and by a subsidy's schedule; and what letting costs.

Every function puts cells on a sheet and returns them; ``which`` is the way in which rents are told. Figures are dollars a year unless they
say otherwise, inputs of rents dollars a month, and shares percentage points.
"""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, Number, above, percent, share, total, where
from jaded_ledger.core.deals.sheet import MONTHS, Line, Sheet, Side
from jaded_ledger.core.deals.worksheet import Rents

RENT_WORDS = {Rents.TODAY: "today", Rents.MARKET: "at market", Rents.SUBSIDY: "by the schedule"}


def unit_rent(sheet: Sheet, place: int, which: Rents) -> Cell:
    """Return a unit's rent a month; ``place`` counts from 1."""
    unit = sheet.building.units[place - 1]
    name = unit.name or f"unit {place}"
    key = {Rents.TODAY: "rent", Rents.MARKET: "market", Rents.SUBSIDY: "subsidy"}[which]
    return sheet.row_input(f"unit.{place}.{key}", f"{name}, {RENT_WORDS[which]}")


def gross(sheet: Sheet, which: Rents) -> Cell:
    """Return a year's rent with everything let, by one of the ways to tell rents."""
    every = total([unit_rent(sheet, place, which) for place in range(1, len(sheet.building.units) + 1)])
    changed = 1 + share(sheet.input("rental.change"))
    return sheet.figure(f"gross.{which}", f"rent a year, {RENT_WORDS[which]}", MONTHS * every * changed, FigureUnit.MONEY_A_YEAR)


def collected(sheet: Sheet, which: Rents) -> Cell:
    """Return a year's rent less vacancy: the effective gross income of appraisers."""
    rent = gross(sheet, which)
    return sheet.figure(f"collected.{which}", f"collected, {RENT_WORDS[which]}", rent - vacancy(sheet, which), FigureUnit.MONEY_A_YEAR)


def vacancy(sheet: Sheet, which: Rents) -> Cell:
    """Return what a year's rent loses to vacancy, a share of the rent with everything let."""
    return sheet.figure(f"vacancy.{which}", "vacancy", gross(sheet, which) * share(sheet.input("rental.vacancy")), FigureUnit.MONEY_A_YEAR)


def of_collected(sheet: Sheet, which: Rents, name: str) -> Cell:
    """Return an expense that is told in percent of what is collected."""
    rate = sheet.input(f"rental.{name}")
    return sheet.figure(f"{name}.{which}", rate.label, collected(sheet, which) * share(rate), FigureUnit.MONEY_A_YEAR)


OF_COLLECTED = ("management", "maintenance", "reserve")
FIXED = ("taxes", "insurance", "utilities", "association")


def operating(sheet: Sheet, which: Rents) -> Cell:
    """Return a year's operating expense: all that letting costs but vacancy and loans; where it is told in one line, that."""
    if sheet.has_costs:
        return sheet.input("costs")
    parts = [*(of_collected(sheet, which, name) for name in OF_COLLECTED), *(sheet.input(name) for name in FIXED)]
    return sheet.figure(f"operating.{which}", f"operating expense, {RENT_WORDS[which]}", total(parts), FigureUnit.MONEY_A_YEAR)


def net_operating_income(sheet: Sheet, which: Rents) -> Cell:
    """Return what letting leaves a year before loans: rent less vacancy less operating expense (common practice of appraisers)."""
    before = gross(sheet, which) if sheet.has_costs else collected(sheet, which)
    left = before - operating(sheet, which)
    return sheet.figure(f"noi.{which}", f"net operating income, {RENT_WORDS[which]}", left, FigureUnit.MONEY_A_YEAR)


def rent_lines(sheet: Sheet, which: Rents) -> list[Line]:
    """Return the account from the rent down to what is left before loans."""
    count = len(sheet.building.units)
    of = "one unit" if count == 1 else f"{count} units"
    rent, left = (
        Line(gross(sheet, which), Side.IN, (f"rent, {of} {RENT_WORDS[which]}",)),
        Line(net_operating_income(sheet, which), Side.SUM, ("net operating income",)),
    )  # fmt: skip
    if sheet.has_costs:
        return [rent, Line(sheet.input("costs"), Side.OUT, ("all costs",)), left]
    lines = [
        rent,
        Line(vacancy(sheet, which), Side.OUT, ("vacancy", sheet.input("rental.vacancy"))),
    ]
    for name in OF_COLLECTED:
        rate = sheet.input(f"rental.{name}")
        lines.append(Line(of_collected(sheet, which, name), Side.OUT, (rate.label, rate)))
    for name in FIXED:
        lines.append(
            Line(sheet.input(name), Side.OUT, (sheet.input(name).label.removesuffix(" a year"),), is_optional=name == "association")
        )
    return [*lines, left]


def gain_waiting(sheet: Sheet) -> tuple[Cell, Cell, Cell]:
    """Return what market rents would bring more a year, what getting there costs, and the months until that is earned back."""
    more = sheet.figure("gain", "gain waiting, a year", gross(sheet, Rents.MARKET) - gross(sheet, Rents.TODAY), FigureUnit.MONEY_A_YEAR)
    below = [
        where(above(unit_rent(sheet, place, Rents.MARKET), unit_rent(sheet, place, Rents.TODAY)), sheet.input("hold.turnover"), 0)
        for place in range(1, len(sheet.building.units) + 1)
    ]
    cost = sheet.figure("gain.cost", "repairs to get there", total(below))
    return (
        more,
        cost,
        sheet.figure(
            "gain.months", "months until it is earned back", where(above(more, 0), MONTHS * cost / more, Number(0)), FigureUnit.MONTHS
        ),
    )


def standard_cost(sheet: Sheet) -> Cell:
    """Return what meeting a subsidy's standard costs in all units."""
    parts = [
        sheet.row_input(f"unit.{place}.standard", f"{unit.name or f'unit {place}'}, to meet the standard")
        for place, unit in enumerate(sheet.building.units, 1)
    ]
    return sheet.figure("standard", "meeting the standard", total(parts))


def break_even_share(sheet: Sheet, which: Rents, debt: Cell) -> Cell:
    """Return the break-even occupancy: operating expense and ``debt`` (dollars a year) in percentage points of the rent with all let."""
    needed = operating(sheet, which) + debt
    return sheet.figure(
        f"rental.break-even.{which}", "breaks even with so much let", percent(needed, gross(sheet, which)), FigureUnit.PERCENT
    )
