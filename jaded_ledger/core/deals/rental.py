"""Rental: what it brings a year, what the loans leave of it, and what that is on the cash that went in."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, most, percent, share, total
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.rents import break_even_share, gain_waiting, gross, net_operating_income, rent_lines, standard_cost
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Loan, Sheet, Side
from jaded_ledger.core.deals.worksheet import Rents

LOANS = ("mortgage", "mortgage-second", "seller")


def loan_line(sheet: Sheet, loan: Loan) -> Line:
    """Return what is paid on a loan in a year, with what it is paid on."""
    parts = (loan.amount.label, sheet.input(f"{loan.key}.share"), "at", loan.rate, "over", loan.years)
    return Line(sheet.yearly(loan), Side.OUT, parts, is_optional=loan.key != LOANS[0])


def debt_goals(sheet: Sheet, of: str, flow: Cell, cash: Cell, income: Cell, debt: Cell, earned: Cell, cover: Cell) -> tuple[Goal, ...]:
    """Return what is wanted of something that is let and paid off: cash on cash, and income that covers the payments."""
    wanted, wanted_cover, rents = sheet.input("rental.wanted-return"), sheet.input("rental.wanted-cover"), sheet.input("rental.change")
    return (
        Goal(f"{of}.return", "cash on cash", earned, wanted,
             sheet.figure(f"{of}.gap", "cash flow over what is wanted", flow - most(cash, 0) * share(wanted)), (rents,)),
        Goal(f"{of}.cover", "DSCR", cover, wanted_cover,
             sheet.figure(f"{of}.cover-gap", "income over the cover wanted", income - wanted_cover * debt), (rents,)),
    )  # fmt: skip


def rental(sheet: Sheet) -> ExitSheet:
    """Return the exit's account, by the rents that are chosen."""
    rents, price = sheet.rents, sheet.input("price")
    income, loans = net_operating_income(sheet, rents), sheet.loans(LOANS)
    debt = sheet.figure("debt", "paid on loans a year", total([sheet.yearly(loan) for loan in loans]), FigureUnit.MONEY_A_YEAR)
    flow = sheet.figure("rental.flow", "cash flow a year", income - debt, FigureUnit.MONEY_A_YEAR)
    at_first = [price, sheet.buying, sheet.input("rental.repairs"), *(loan.points for loan in loans)]
    if rents is Rents.SUBSIDY:
        at_first.append(standard_cost(sheet))
    lent = total([loan.amount for loan in loans])
    cash = sheet.figure("rental.cash-in", "cash in", total(at_first) - lent)
    earned = sheet.figure("rental.return", "cash on cash", percent(flow, cash), FigureUnit.PERCENT)
    cap = sheet.figure("rental.cap", "cap rate", percent(income, price), FigureUnit.PERCENT)
    cover = sheet.figure("rental.cover", "DSCR", income / debt, FigureUnit.RATIO)
    at_market = net_operating_income(sheet, Rents.MARKET)
    results = (
        cash, cap, earned, cover,
        sheet.figure("rental.multiplier", "GRM", price / gross(sheet, rents), FigureUnit.RATIO),
        break_even_share(sheet, rents, debt),
        sheet.figure("rental.market-cap", "cap rate at market rents", percent(at_market, price), FigureUnit.PERCENT),
        *gain_waiting(sheet),
    )  # fmt: skip
    wanted_cap = sheet.input("rental.wanted-cap")
    cap_gap = sheet.figure("rental.cap-gap", "income over the cap rate wanted", income - price * share(wanted_cap))
    goals = (
        *debt_goals(sheet, "rental", flow, cash, income, debt, earned, cover),
        Goal("rental.cap", "cap rate", cap, wanted_cap, cap_gap, (sheet.input("rental.change"),)),
    )
    lines = (*rent_lines(sheet, rents), *(loan_line(sheet, loan) for loan in loans))
    loan_terms = tuple(f"{key}.{name}" for key in LOANS for name in ("points", "interest-only"))
    further = (
        "price", "buying-costs", "rental.repairs", "rental.change", "rental.wanted-return", "rental.wanted-cover", "rental.wanted-cap",
        "hold.turnover", *loan_terms,
    )  # fmt: skip
    return ExitSheet(Exit.RENTAL, lines, flow, results, goals, tuple(sheet.input(key) for key in further), cash)
