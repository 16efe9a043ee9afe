"""Refinance and hold: repaired with one loan, then let with a new one on what it is worth by then."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import FigureUnit, percent, total
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.rental import debt_goals
from jaded_ledger.core.deals.rents import net_operating_income
from jaded_ledger.core.deals.resale import borrowed, further_loans, loan_parts, purchase_lines, repair_line
from jaded_ledger.core.deals.sheet import ExitSheet, Line, Sheet, Side


def refinance(sheet: Sheet) -> ExitSheet:
    """Return the exit's account: the cash that goes in, what the new loan gives back of it, and what is left a year on the rest."""
    months = sheet.input("refinance.months")
    lent, borrowing, owed = borrowed(sheet, Exit.REFINANCE, months)
    holding, new = sheet.holding(Exit.REFINANCE, months), sheet.new_loan()
    spent = total([sheet.input("price"), sheet.buying, sheet.repairs, holding, borrowing])
    # What is paid off is less than what was lent where something was paid back on the way.
    paid_back = sheet.figure("refinance.repaid", "paid back on the way", lent - owed)
    put_in = sheet.figure("refinance.put-in", "cash in until then", spent - lent + paid_back)
    returned = sheet.figure("refinance.returned", "cash back from the new loan", new.amount - new.points - owed)
    left_in = sheet.figure("refinance.left-in", "cash left in", put_in - returned)
    income = net_operating_income(sheet, sheet.rents)
    debt = sheet.yearly(new)
    flow = sheet.figure("refinance.flow", "cash flow a year, afterwards", income - debt, FigureUnit.MONEY_A_YEAR)
    earned = sheet.figure("refinance.return", "cash on what is left in", percent(flow, left_in), FigureUnit.PERCENT)
    cover = sheet.figure("refinance.cover", "DSCR", income / debt, FigureUnit.RATIO)
    lines = (
        *purchase_lines(sheet), repair_line(sheet), Line(holding, Side.OUT, ("held", months)),
        Line(borrowing, Side.OUT, loan_parts(sheet)),
        Line(owed, Side.OUT, ("paid off then",)),
        Line(new.points, Side.OUT, ("costs of the new loan", sheet.input("refinance.costs"))),
        Line(lent, Side.IN, ("borrowed at first",)),
        Line(new.amount, Side.IN, ("new loan", sheet.input("refinance.share"), "of", sheet.input("arv"))),
        Line(income, Side.SUM, ("net operating income",)),
        Line(debt, Side.OUT, ("new loan at", new.rate, "over", new.years)),
    )  # fmt: skip
    further = (
        "rental.wanted-return", "rental.wanted-cover", "rental.vacancy", "rental.management", "rental.maintenance", "rental.reserve",
        "rental.change", "taxes", "insurance", "utilities", "association", *further_loans(),
    )  # fmt: skip
    return ExitSheet(
        Exit.REFINANCE, lines, flow, (put_in, returned, left_in, earned, cover),
        debt_goals(sheet, "refinance", flow, left_in, income, debt, earned, cover),
        tuple(sheet.input(key) for key in further), left_in,
    )  # fmt: skip
