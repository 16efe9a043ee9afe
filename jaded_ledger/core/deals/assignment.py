"""Assignment: somebody else buys in your place and pays a fee; whether they would, and whether they would do better to wait."""

from __future__ import annotations

from jaded_ledger.core.deals.expressions import FigureUnit, percent, share, total
from jaded_ledger.core.deals.inputs import Exit
from jaded_ledger.core.deals.resale import highest_offer, repair_line
from jaded_ledger.core.deals.sheet import ExitSheet, Goal, Line, Sheet, Side


def assignment(sheet: Sheet, *, is_listed: bool) -> ExitSheet:
    """Return the exit's account from the buyer's side; what is wanted is that they come out well, and gain by not waiting."""
    price, fee, value = sheet.input("price"), sheet.input("assignment.fee"), sheet.input("arv")
    costs = sheet.input("assignment.costs")
    own = sheet.figure("assignment.profit", "fee less own costs", fee - costs)
    closing = sheet.figure("assignment.closing", "the buyer's closing", (price + fee) * share(sheet.input("buying-costs")))
    all_in = sheet.figure("assignment.all-in", "the buyer's all-in", total([price, fee, closing, sheet.repairs]))
    selling = sheet.selling(Exit.ASSIGNMENT, value)
    left = sheet.figure("assignment.left", "left for the buyer", value - selling - all_in)
    margin = sheet.figure("assignment.margin", "the buyer's margin", percent(left, value), FigureUnit.PERCENT)
    wanted = sheet.input("assignment.buyer-margin")
    goals = [
        Goal("assignment.margin", "margin for the buyer", margin, wanted,
             sheet.figure("assignment.gap", "left over the margin wanted", left - value * share(wanted)), (value, fee)),
    ]  # fmt: skip
    results = [all_in, left, margin, highest_offer(sheet)]
    if is_listed:
        discount = sheet.figure("assignment.discount", "discount to the asking price", sheet.input("list-price") - price)
        needed = sheet.figure("assignment.needed", "fee and what waiting costs", fee + sheet.input("assignment.waiting"))
        gap = sheet.figure("assignment.waiting-gap", "what the buyer gains by not waiting", discount - needed)
        goals.append(Goal("assignment.waiting", "off the asking price", discount, needed, gap, (fee,)))
        results.append(discount)
    lines = (
        Line(price, Side.OUT, ("contract price",)), Line(fee, Side.OUT, ("assignment fee",)),
        Line(closing, Side.OUT, ("the buyer's closing", sheet.input("buying-costs"))), repair_line(sheet),
        Line(selling, Side.OUT, ("selling", sheet.input("selling-costs"))), Line(value, Side.IN, ("sale after repair",)),
        Line(left, Side.SUM, ("left for the buyer",)),
    )  # fmt: skip
    further = ["assignment.costs", "assignment.buyer-margin", "assignment.waiting", "offer.share", "offer.fee"]
    return ExitSheet(Exit.ASSIGNMENT, lines, own, tuple(results), tuple(goals), tuple(sheet.input(key) for key in further), costs)
