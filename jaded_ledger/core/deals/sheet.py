"""A worksheet's figures: the cells that its exits have in common, and what an exit shows of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from jaded_ledger.core.deals.expressions import (
    Cell,
    Expression,
    FigureUnit,
    Number,
    Term,
    above,
    call,
    least,
    most,
    share,
    total,
    where,
    wrapped,
)
from jaded_ledger.core.deals.inputs import INPUTS, LOAN_LABELS, Exit
from jaded_ledger.core.deals.roll import Building
from jaded_ledger.core.deals.worksheet import Rents, RepairsBy

MONTHS = 12


class Side(StrEnum):
    """On which side of the account a line stands: money that goes out, money that comes in, or what the lines before it come to."""

    OUT = "out"
    IN = "in"
    SUM = "sum"


@dataclass(frozen=True)
class Line:
    """A line of an exit's account. ``parts`` are its words and the inputs among them, which are edited where they stand.

    An optional line is shown only where it is not 0.
    """

    cell: Cell
    side: Side
    parts: tuple[str | Cell, ...]
    is_optional: bool = False


@dataclass(frozen=True)
class Goal:
    """What is wanted of an exit. It is met where ``gap`` is 0 or more, which grows as the result gets better.

    ``result`` is the figure that is wanted to be at least, or for a "most" goal at most, ``wanted``. ``others`` are the inputs, beside the
    price, that would meet it with another value.
    """

    key: str
    words: str
    result: Cell
    wanted: Cell
    gap: Cell
    others: tuple[Cell, ...] = ()


@dataclass(frozen=True)
class ExitSheet:
    """One exit: its account line by line, the figure that counts, further results, what is wanted, and the inputs that no line shows."""

    exit: Exit
    lines: tuple[Line, ...]
    main: Cell
    results: tuple[Cell, ...]
    goals: tuple[Goal, ...]
    further: tuple[Cell, ...] = ()
    cash_in: Cell | None = None


@dataclass(frozen=True)
class Loan:
    """A loan of the worksheet: what is lent, its points, and its level payment a month, over how many months after interest only."""

    key: str
    amount: Cell
    points: Cell
    rate: Cell
    years: Cell
    free: Cell
    months: Cell
    level: Cell

    def paid(self, months: Term) -> Expression:
        """Return all that has been paid after so many months: interest alone at first, then level payments until they are all made."""
        later = self.level * least(wrapped(months) - self.free, self.months)
        return self.amount * share(self.rate) / MONTHS * least(months, self.free) + where(above(months, self.free), later, 0)

    def left(self, months: Term) -> Expression:
        """Return what is still owed after so many months."""
        later = call("balance", self.amount, self.rate, self.months, most(wrapped(months) - self.free, 0))
        return where(above(self.amount, 0), where(above(months, self.free), later, self.amount), 0)

    def interest(self, months: Term) -> Expression:
        """Return the interest among what is paid over so many months."""
        return self.paid(months) - self.amount + self.left(months)


class Sheet:
    """The cells of one worksheet, each made once. What exits have in common is made by its own function here."""

    def __init__(self, building: Building, rents: Rents, repairs_by: RepairsBy, *, has_costs: bool = False) -> None:
        self.building, self.rents, self.repairs_by = building, rents, repairs_by
        self.has_costs = has_costs
        """Whether what renting it out costs is told in one line."""
        self.cells: dict[str, Cell] = {}

    def input(self, key: str) -> Cell:
        """Return a declared input."""
        if key not in self.cells:
            self.cells[key] = INPUTS[key].cell
        return self.cells[key]

    def row_input(self, key: str, label: str, unit: FigureUnit = FigureUnit.MONEY) -> Cell:
        """Return an input that is a cell of a row: a unit's rent, what a repair costs."""
        if key not in self.cells:
            self.cells[key] = Cell(key, label, unit)
        return self.cells[key]

    def figure(self, key: str, label: str, expression: Expression, unit: FigureUnit = FigureUnit.MONEY) -> Cell:
        """Return a figure, made by its expression if it is not there yet."""
        cell = self.cells.setdefault(key, Cell(key, label, unit, expression))
        assert not cell.is_input, f"{key} is an input's key already"
        return cell

    @property
    def buying(self) -> Cell:
        return self.figure("buying", "buying costs", self.input("price") * share(self.input("buying-costs")))

    @property
    def repairs(self) -> Cell:
        """What repairs cost: items or a rate a square foot, and the systems that are replaced."""
        replaced = [one for one in self.building.systems if one.is_replaced]
        systems = [self.row_input(f"system.{one.kind}.cost", f"replacing the {one.usual.label}") for one in replaced]
        if self.repairs_by is RepairsBy.ITEMS:
            items = [
                self.row_input(f"repair.{place}.cost", row.what or f"repair {place}") for place, row in enumerate(self.building.repairs, 1)
            ]
            return self.figure("repairs", "repairs", total([*items, *systems]))
        return self.figure("repairs", "repairs", total([self.input("living-area") * self.input("repair-rate"), *systems]))

    @property
    def running(self) -> Cell:
        """What it costs a month while nobody lives in it: taxes, insurance, utilities, association."""
        yearly = total([self.input(key) for key in ("taxes", "insurance", "utilities", "association")])
        return self.figure("running", "taxes, insurance, utilities and association a month", yearly / MONTHS)

    def holding(self, exit_: Exit, months: Cell) -> Cell:
        return self.figure(f"{exit_}.holding", "holding", self.running * months)

    def selling(self, exit_: Exit, price: Cell) -> Cell:
        return self.figure(f"{exit_}.selling", "selling costs", price * share(self.input("selling-costs")))

    def loan(self, key: str) -> Loan:
        """Return a loan on the price."""
        share_, rate, years, free, points = (
            self.input(f"{key}.{name}") for name in ("share", "rate", "years", "interest-only", "points")
        )  # fmt: skip
        return self._loan(key, LOAN_LABELS[key], self.input("price") * share(share_), rate, years, free, points)

    def new_loan(self) -> Loan:
        """Return the loan on the value after repair that replaces the first."""
        amount = self.input("arv") * share(self.input("refinance.share"))
        free = self.figure("refinance.interest-only", "years of interest only", Number(0), FigureUnit.YEARS)
        rate, years, costs = (self.input(f"refinance.{name}") for name in ("rate", "years", "costs"))
        return self._loan("refinance", "new loan", amount, rate, years, free, costs)

    def _loan(self, key: str, of: str, lent: Expression, rate: Cell, years: Cell, free: Cell, points: Cell) -> Loan:
        amount = self.figure(f"{key}.amount", of, lent)
        # A loan that is interest only to its end falls due with its last interest: that is one level payment, in its last month. One over
        # no years can't be paid off at all.
        alone = self.figure(
            f"{key}.free-months",
            f"months of interest only of the {of}",
            least(MONTHS * free, most(MONTHS * years - 1, 0)),
            FigureUnit.MONTHS,
        )
        level_months = where(above(years, 0), most(MONTHS * years - alone, 1), 0)
        months = self.figure(f"{key}.level-months", f"level payments of the {of}", level_months, FigureUnit.MONTHS)
        level = where(above(amount, 0), call("payment", amount, rate, months), 0)
        cost = self.figure(f"{key}.points-paid", f"points of the {of}", amount * share(points))
        payment = self.figure(f"{key}.payment", f"level payment a month of the {of}", level)
        return Loan(key, amount, cost, rate, years, alone, months, payment)

    def yearly(self, loan: Loan) -> Cell:
        """Return what is paid on a loan in its first year."""
        return self.figure(f"{loan.key}.yearly", f"{loan.amount.label}, paid a year", loan.paid(MONTHS), FigureUnit.MONEY_A_YEAR)

    def loans(self, keys: Sequence[str]) -> list[Loan]:
        return [self.loan(key) for key in keys]
