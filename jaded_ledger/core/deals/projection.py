"""A property over the years: rents that step up and go to market as tenants leave, expenses, loans paid down, and a sale at the end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.core.deals.expressions import Cell, Expression, FigureUnit, Number, Term, call, share, total
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.rental import LOANS
from jaded_ledger.core.deals.rents import FIXED, OF_COLLECTED, unit_rent
from jaded_ledger.core.deals.sheet import MONTHS, ExitSheet, Loan, Sheet
from jaded_ledger.core.deals.worksheet import Rents


@dataclass(frozen=True)
class Projection:
    """An exit over the years. Each row is a figure year by year, the first column today; ``rate`` is the IRR, ``worth`` the NPV."""

    exit: Exit
    years: int
    rows: tuple[tuple[str, tuple[Cell | None, ...]], ...]
    rate: Cell
    worth: Cell

    def row(self, label: str) -> tuple[Cell | None, ...]:
        return dict(self.rows)[label]


RENT, EXPENSE, TURNOVER, INCOME, DEBT, FLOW = (
    "rent", "expense", "repairs between tenants", "net operating income", "loans", "cash flow",
)  # fmt: skip
VALUE, OWED, SALE, ALL, TOTAL = "value", "still owed", "sale less what is owed", "all cash", "all cash until then"


def _grown(start: Term, percent: Cell, years: int) -> Expression:
    growth = call("power", 1 + share(percent), years)
    return start * growth if isinstance(start, Expression) else Number(start) * growth


def _unit_rent(sheet: Sheet, place: int, year: int) -> Expression:
    """Return a unit's rent a month in a year: it steps up at each renewal, and is at market from the year after the tenant has left."""
    unit, growth = sheet.building.units[place - 1], sheet.input("hold.rent-growth")
    at_market = _grown(unit_rent(sheet, place, Rents.MARKET), growth, year - 1)
    if sheet.rents is Rents.MARKET:
        return at_market
    if sheet.rents is Rents.SUBSIDY:
        return _grown(unit_rent(sheet, place, Rents.SUBSIDY), growth, year - 1)
    if unit.leaves is not None and year > unit.leaves:
        return at_market
    return _grown(unit_rent(sheet, place, Rents.TODAY), sheet.input("hold.renewal"), year - 1)


def project(sheet: Sheet, of: ExitSheet, years: int) -> Projection:
    """Return an exit that is held over the years. ``years`` goes from 1 to 30."""
    exit_, loans = of.exit, [sheet.new_loan()] if of.exit is Exit.REFINANCE else sheet.loans(LOANS)
    assert of.cash_in is not None
    start = sheet.input("arv") if exit_ is Exit.REFINANCE else sheet.input("price") + sheet.input("rental.repairs")
    rows: dict[str, list[Cell | None]] = {
        name: [None] for name in (RENT, EXPENSE, TURNOVER, INCOME, DEBT, FLOW, VALUE, OWED, SALE, ALL, TOTAL)
    }
    out = sheet.figure(f"{exit_}.0.all", "all cash, at the start", Number(0) - of.cash_in)
    rows[VALUE] = [sheet.figure(f"{exit_}.0.value", "value, at the start", start)]
    rows[OWED] = [sheet.figure(f"{exit_}.0.owed", "still owed, at the start", total([loan.amount for loan in loans]))]
    rows[ALL] = [out]
    rows[TOTAL] = [sheet.figure(f"{exit_}.0.until-then", "all cash until then, at the start", out)]
    for year in range(1, years + 1):
        for name, cell in _year(sheet, exit_, loans, start, year, is_last=year == years, before=rows[TOTAL][-1]).items():
            rows[name].append(cell)
    flows, totals = [[cell for cell in rows[name] if cell] for name in (ALL, TOTAL)]
    rate = sheet.figure(f"{exit_}.irr", "IRR", call("irr", *flows, *totals), FigureUnit.PERCENT)
    worth = sheet.figure(f"{exit_}.npv", "NPV", call("npv", sheet.input("hold.discount"), *flows))
    return Projection(exit_, years, tuple((name, tuple(cells)) for name, cells in rows.items()), rate, worth)


def _year(
    sheet: Sheet, exit_: Exit, loans: Sequence[Loan], start: Term, year: int, *, is_last: bool, before: Cell | None
) -> dict[str, Cell]:
    def figure(name: str, expression: Expression) -> Cell:
        return sheet.figure(f"{exit_}.{year}.{name}", f"{name}, year {year}", expression)

    units = range(1, len(sheet.building.units) + 1)
    changed = 1 + share(sheet.input("rental.change"))
    rent = figure(RENT, MONTHS * total([_unit_rent(sheet, place, year) for place in units]) * changed)
    growth = sheet.input("hold.expense-growth")
    collected: Expression
    if sheet.has_costs:
        collected, expense = rent, figure(EXPENSE, _grown(sheet.input("costs"), growth, year - 1))
    else:
        collected = rent * (1 - share(sheet.input("rental.vacancy")))
        shares = total([share(sheet.input(f"rental.{name}")) for name in OF_COLLECTED])
        fixed = _grown(total([sheet.input(name) for name in FIXED]), growth, year - 1)
        expense = figure(EXPENSE, collected * shares + fixed)
    leaving = sum(unit.leaves == year for unit in sheet.building.units) if sheet.rents is Rents.TODAY else 0
    turnover = figure(TURNOVER, leaving * sheet.input("hold.turnover"))
    income = figure(INCOME, collected - expense)
    debt = figure(DEBT, total([loan.paid(MONTHS * year) - loan.paid(MONTHS * (year - 1)) for loan in loans]))
    flow = figure(FLOW, income - debt - turnover)
    value = figure(VALUE, _grown(start, sheet.input("hold.value-growth"), year))
    owed = figure(OWED, total([loan.left(MONTHS * year) for loan in loans]))
    sold = value * (1 - share(sheet.input("selling-costs"))) - owed if is_last else Number(0)
    sale = figure(SALE, sold)
    every = figure(ALL, flow + sale)
    assert before is not None
    so_far = figure(TOTAL, before + every)
    return {
        RENT: rent, EXPENSE: expense, TURNOVER: turnover, INCOME: income, DEBT: debt, FLOW: flow, VALUE: value, OWED: owed, SALE: sale,
        ALL: every, TOTAL: so_far,
    }  # fmt: skip
