"""Flip: bought, repaired, held some months, sold."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, call, percent, share, total
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Sheet, Side

LOANS = ("bridge", "bridge-second", "seller")


def borrowed(sheet: Sheet, exit_: Exit, months: Cell) -> tuple[Cell, Cell, Cell]:
    """Return what is lent until an exit, its points and interest over the months, and what is still owed then."""
    loans = sheet.loans(LOANS)
    lent = sheet.figure("borrowed", "borrowed", total([loan.amount for loan in loans]))
    cost = total([loan.points for loan in loans]) + total([loan.interest(months) for loan in loans])
    owed = total([loan.left(months) for loan in loans])
    return (
        lent, sheet.figure(f"{exit_}.borrowing", "loan points and interest", cost), sheet.figure(f"{exit_}.owed", "still owed then", owed),
    )  # fmt: skip


def highest_offer(sheet: Sheet) -> Cell:
    """Return the offer by the rule of a share of the value after repair (70 %, common practice)."""
    fee, rule = sheet.input("offer.fee"), share(sheet.input("offer.share"))
    return sheet.figure("highest-offer", "highest offer by the share", sheet.input("arv") * rule - sheet.repairs - fee)


def value_needed(sheet: Sheet) -> Cell:
    """Return the value that comps must reach for the price to be the highest offer."""
    fee, rule = sheet.input("offer.fee"), share(sheet.input("offer.share"))
    return sheet.figure("value-needed", "value the comps must reach", (sheet.input("price") + sheet.repairs + fee) / rule)


def further_loans() -> tuple[str, ...]:
    """Return the keys of what is further to say of the loans."""
    first = ("bridge.years", "bridge.interest-only")
    others = tuple(f"{key}.{name}" for key in LOANS[1:] for name in ("share", "rate", "points", "years", "interest-only"))
    return (*first, *others)


def loan_parts(sheet: Sheet) -> tuple[str | Cell, ...]:
    """Return the words of the first loan, with its inputs among them."""
    return ("loan", sheet.input("bridge.share"), "at", sheet.input("bridge.rate"), "points", sheet.input("bridge.points"))


def purchase_lines(sheet: Sheet) -> list[Line]:
    """Return the lines of what buying costs, in dollars."""
    return [
        Line(sheet.input("price"), Side.OUT, ("purchase",)),
        Line(sheet.buying, Side.OUT, ("closing", sheet.input("buying-costs"))),
    ]


def repair_line(sheet: Sheet) -> Line:
    """Return the line of repairs, in dollars: by the square foot, or the sum of its items."""
    if sheet.repairs_by == "rate":
        return Line(sheet.repairs, Side.OUT, ("repairs", sheet.input("living-area"), "×", sheet.input("repair-rate")))
    return Line(sheet.repairs, Side.OUT, ("repairs, item by item",))


def resale(sheet: Sheet) -> ExitSheet:
    """Return the exit's account: what it costs, against the value after repair."""
    months, value = sheet.input("resale.months"), sheet.input("arv")
    lent, borrowing, _ = borrowed(sheet, Exit.RESALE, months)
    holding, selling = sheet.holding(Exit.RESALE, months), sheet.selling(Exit.RESALE, value)
    before = sheet.figure(
        "resale.cost", "cost before selling", total([sheet.input("price"), sheet.buying, sheet.repairs, holding, borrowing])
    )
    profit = sheet.figure("resale.profit", "profit", value - before - selling)
    cash_in = sheet.figure("resale.cash-in", "cash in", before - lent)
    margin = sheet.figure("resale.margin", "margin", percent(profit, value), FigureUnit.PERCENT)
    earned = sheet.figure("resale.return", "return on cash", percent(profit, cash_in), FigureUnit.PERCENT)
    yearly = 100 * (call("power", 1 + earned / 100, 12 / months) - 1)
    results = (
        cash_in, earned,
        sheet.figure("resale.yearly", "return on cash, a year", yearly, FigureUnit.PERCENT),
        margin,
        sheet.figure("resale.break-even", "breaks even at a sale of", before / (1 - share(sheet.input("selling-costs")))),
        highest_offer(sheet), value_needed(sheet),
    )  # fmt: skip
    wanted, wanted_margin = sheet.input("resale.wanted-profit"), sheet.input("resale.wanted-margin")
    goals = (
        Goal(
            "resale.profit", "profit", profit, wanted,
            sheet.figure("resale.gap", "profit over what is wanted", profit - wanted), (value,),
        ),
        Goal(
            "resale.margin", "margin", margin, wanted_margin,
            sheet.figure("resale.margin-gap", "profit over the margin wanted", profit - value * share(wanted_margin)), (value,),
        ),
    )  # fmt: skip
    lines = (
        *purchase_lines(sheet), repair_line(sheet), Line(holding, Side.OUT, ("held", months)),
        Line(borrowing, Side.OUT, loan_parts(sheet)), Line(selling, Side.OUT, ("selling", sheet.input("selling-costs"))),
        Line(value, Side.IN, ("sale after repair",)),
    )  # fmt: skip
    further = ("resale.wanted-profit", "resale.wanted-margin", "offer.share", "offer.fee", "taxes", "insurance", "utilities", "association")
    return ExitSheet(Exit.RESALE, lines, profit, results, goals, tuple(sheet.input(key) for key in (*further, *further_loans())), cash_in)
