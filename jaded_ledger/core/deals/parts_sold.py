"""What is sold in parts: land split into lots, and a building's units under separate titles."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import Cell, Expression, FigureUnit, Number, above, call, least, most, percent, total, where
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.resale import borrowed, further_loans, loan_parts, purchase_lines, repair_line
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Sheet, Side


def lots(sheet: Sheet, *, knows_depth: bool, knows_area: bool) -> Cell:
    """Return how many lots the ground makes: frontage ÷ least width, as far as depth and area allow.

    A depth or an area that is not known is left out of the question.
    """
    found: Expression = call("floor", sheet.input("split.frontage") / sheet.input("split.least-width"))
    if knows_area:
        found = least(found, call("floor", sheet.input("split.area") / sheet.input("split.least-area")))
    if knows_depth:
        found = where(above(sheet.input("split.least-depth"), sheet.input("split.depth")), least(found, 1), found)
    return sheet.figure("split.lots", "lots", most(found, 1), FigureUnit.COUNT)


def _in_parts(
    sheet: Sheet, exit_: Exit, sold: Cell, costs: tuple[Line, ...], words: str, results: tuple[Cell, ...], value: Cell,
    further: tuple[str, ...],
) -> ExitSheet:  # fmt: skip
    months = sheet.input(f"{exit_}.months")
    lent, borrowing, _ = borrowed(sheet, exit_, months)
    holding, selling = sheet.holding(exit_, months), sheet.selling(exit_, sold)
    bought = total([sheet.input("price"), sheet.buying])
    before = sheet.figure(f"{exit_}.cost", "cost before selling", bought + total([line.cell for line in costs]) + holding + borrowing)
    profit = sheet.figure(f"{exit_}.profit", "profit", sold - before - selling)
    cash = sheet.figure(f"{exit_}.cash-in", "cash in", before - lent)
    wanted = sheet.input(f"{exit_}.wanted-profit")
    gap = sheet.figure(f"{exit_}.gap", "profit over what is wanted", profit - wanted)
    lines = (
        *purchase_lines(sheet), *costs, Line(holding, Side.OUT, ("held", months)), Line(borrowing, Side.OUT, loan_parts(sheet)),
        Line(selling, Side.OUT, ("selling", sheet.input("selling-costs"))), Line(sold, Side.IN, (words, value)),
    )  # fmt: skip
    earned = sheet.figure(f"{exit_}.return", "return on cash", percent(profit, cash), FigureUnit.PERCENT)
    every = tuple(sheet.input(key) for key in (f"{exit_}.wanted-profit", *further, *further_loans()))
    return ExitSheet(
        exit_, lines, profit, (cash, earned, *results), (Goal(f"{exit_}.profit", "profit", profit, wanted, gap, (value,)),), every, cash
    )


def split(sheet: Sheet, *, knows_depth: bool, knows_area: bool) -> ExitSheet:
    """Return the account of land that is sold lot by lot."""
    count = lots(sheet, knows_depth=knows_depth, knows_area=knows_area)
    value, each = sheet.input("split.value-each"), sheet.input("split.cost-each")
    sold = sheet.figure("split.sold", "lots sold", count * value)
    cost = sheet.figure("split.splitting", "splitting", count * each)
    costs = (Line(cost, Side.OUT, ("splitting, a lot", each)), Line(sheet.input("split.clearing"), Side.OUT, ("clearing",)))
    of_one = sheet.figure("split.each", "a lot's value less its cost", value - each)
    further = ("split.frontage", "split.depth", "split.area", "split.least-width", "split.least-depth", "split.least-area")
    return _in_parts(sheet, Exit.SPLIT, sold, costs, "lots, each", (count, of_one), value, further)


def titles(sheet: Sheet) -> ExitSheet:
    """Return the account of a building whose units are sold one by one under titles of their own."""
    each, fixed, value = sheet.input("titles.cost-each"), sheet.input("titles.fixed"), sheet.input("titles.value-each")
    units = sheet.building.units
    count = sheet.figure("titles.units", "units", Number(len(units)), FigureUnit.COUNT)
    values = [
        value if unit.value is None else sheet.row_input(f"unit.{place}.value", f"{unit.name or f'unit {place}'}, sold by itself")
        for place, unit in enumerate(units, 1)
    ]
    sold = sheet.figure("titles.sold", "units sold", total(values))
    cost = sheet.figure("titles.separating", "separating the units", count * each + fixed)
    costs = (repair_line(sheet), Line(cost, Side.OUT, ("separating, a unit", each, "and", fixed)))
    return _in_parts(sheet, Exit.TITLES, sold, costs, "units, each", (count,), value, ())
