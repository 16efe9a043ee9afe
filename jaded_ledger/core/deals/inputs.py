"""The inputs of a worksheet, each declared once: what it is called and counts, its bounds, and its value until somebody says otherwise.

The shipped values are common practice, and every one of them can be set by a team, for an area or a grade of neighborhood, and on a
worksheet. Percentages are in points.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from jaded_ledger.core.arithmetic import result_of
from jaded_ledger.core.deals.expressions import Cell, FigureUnit

_MOST_MONEY = 1e11


class Exit(StrEnum):
    """A way out of a deal."""

    RESALE = "resale"
    RENTAL = "rental"
    ASSIGNMENT = "assignment"
    REFINANCE = "refinance"
    SPLIT = "split"
    TITLES = "titles"

    @property
    def label(self) -> str:
        return EXIT_LABELS[self]


EXIT_LABELS: Mapping[str, str] = {
    Exit.RESALE: "Flip",
    Exit.RENTAL: "Rental",
    Exit.ASSIGNMENT: "Assignment",
    Exit.REFINANCE: "Refinance and hold",
    Exit.SPLIT: "Lot split",
    Exit.TITLES: "Sell units separately",
}


@dataclass(frozen=True)
class Input:
    """One input. ``usual`` is the shipped value; None where only the record or the user can tell it.

    ``can_default`` says that a team may assume another.
    """

    key: str
    label: str
    unit: FigureUnit
    usual: float | None = None
    least: float = 0.0
    most: float = _MOST_MONEY
    meaning: str = ""
    can_default: bool = False

    @property
    def cell(self) -> Cell:
        return Cell(self.key, self.label, self.unit)


class InputError(ValueError):
    """A value that an input can't have; the message says which, and what it could be."""


def _money(key: str, label: str, usual: float | None = None, *, meaning: str = "", can_default: bool = False) -> Input:
    return Input(key, label, FigureUnit.MONEY, usual, meaning=meaning, can_default=can_default)


def _yearly(key: str, label: str, usual: float | None = None, *, meaning: str = "", can_default: bool = False) -> Input:
    return Input(key, label, FigureUnit.MONEY_A_YEAR, usual, meaning=meaning, can_default=can_default)


def _percent(key: str, label: str, usual: float, *, least: float = 0, most: float = 100, meaning: str = "") -> Input:
    return Input(key, label, FigureUnit.PERCENT, usual, least, most, meaning, can_default=True)


def _months(key: str, label: str, usual: float, meaning: str = "") -> Input:
    return Input(key, label, FigureUnit.MONTHS, usual, 0, 600, meaning, can_default=True)


LOANS = ("bridge", "bridge-second", "mortgage", "mortgage-second", "seller")
"""The loans of a worksheet: what pays until it is sold or refinanced, what pays while it is held, a second of each, and the seller's."""
LOAN_LABELS = {
    "bridge": "loan while it is repaired", "bridge-second": "second loan while it is repaired", "mortgage": "loan",
    "mortgage-second": "second loan", "seller": "loan by the seller",
}  # fmt: skip


def _loan(key: str, percent_of_price: float, rate: float, years: float, points: float, interest_only: float) -> tuple[Input, ...]:
    of = LOAN_LABELS[key]
    return (
        _percent(f"{key}.share", f"{of}, % of the price", percent_of_price, most=200),
        _percent(f"{key}.rate", f"{of}, yearly rate", rate, most=100),
        Input(f"{key}.years", f"{of}, years to pay", FigureUnit.YEARS, years, 0, 50, can_default=True),
        _percent(f"{key}.points", f"{of}, points", points, most=50, meaning="paid at closing, in percent of the loan"),
        Input(
            f"{key}.interest-only", f"{of}, years of interest only", FigureUnit.YEARS, interest_only, 0, 50, can_default=True,
            meaning="after them it is paid off by level payments over the years that are left",
        ),
    )  # fmt: skip


INPUTS: Mapping[str, Input] = {
    one.key: one
    for one in (
        _money("price", "price"),
        _money("list-price", "asking price"),
        Input("discount", "discount from asking", FigureUnit.MONEY, least=-_MOST_MONEY, meaning="tells the price from what is asked"),
        Input("discount-rate", "discount from asking, %", FigureUnit.PERCENT, least=-1_000, most=100),
        _money("arv", "value after repair", meaning="what it would sell for once it is repaired"),
        Input("living-area", "living area", FigureUnit.SQUARE_FEET, most=1e7),
        _percent("buying-costs", "buying costs", 2.5, meaning="title, recording and lender's fees, in percent of the price"),
        _money("repair-rate", "repairs a sq ft", 20, can_default=True),
        _yearly("taxes", "taxes a year"),
        _yearly("insurance", "insurance a year"),
        _percent("insurance-rate", "insurance, % of the value a year", 0.6, most=20, meaning="tells insurance until you know it"),
        _yearly("utilities", "utilities a year", 1_200, meaning="what the owner pays", can_default=True),
        _yearly("association", "association fees a year"),
        _yearly("costs", "all costs a year", meaning="of renting it out, in one line in the place of vacancy and each expense"),
        _percent("selling-costs", "selling costs", 7, meaning="commission, title and transfer tax, in percent of what it sells for"),
        # Flip
        _months("resale.months", "months held", 6),
        _money("resale.wanted-profit", "profit wanted", 30_000, can_default=True),
        _percent("resale.wanted-margin", "margin wanted", 10, meaning="profit in percent of the sale"),
        _percent("offer.share", "share of the value after repair", 70, meaning="the highest offer is so much of it, less repairs and fee"),
        _money("offer.fee", "fee within the highest offer", 0, can_default=True),
        *_loan("bridge", 75, 10.5, 30, 2, 30),
        *_loan("bridge-second", 0, 13, 30, 3, 30),
        # Rental
        _percent("rental.vacancy", "vacancy", 7),
        _percent("rental.management", "management", 9, meaning="in percent of what is collected"),
        _percent("rental.maintenance", "repairs", 7, meaning="in percent of what is collected"),
        _percent("rental.reserve", "reserve", 5, meaning="for what wears out, in percent of what is collected"),
        _percent("rental.change", "all rents changed by", 0, least=-100, most=1_000, meaning="to try other rents; 10 is a tenth more"),
        _money("rental.repairs", "repairs before letting", 0),
        _percent("rental.wanted-return", "cash on cash wanted", 8, most=1_000),
        _percent("rental.wanted-cap", "cap rate wanted", 7, most=1_000),
        Input("rental.wanted-cover", "DSCR wanted", FigureUnit.RATIO, 1.25, 0, 100, can_default=True),
        *_loan("mortgage", 70, 6.75, 30, 0, 0),
        *_loan("mortgage-second", 0, 9, 15, 0, 0),
        *_loan("seller", 0, 6, 30, 0, 0),
        # Assignment
        _money("assignment.fee", "assignment fee", 8_000, can_default=True),
        _money("assignment.costs", "own costs until then", 500, can_default=True),
        _percent("assignment.buyer-margin", "margin the buyer wants", 15, meaning="in percent of the value after repair"),
        _money("assignment.waiting", "what waiting costs the buyer", 3_000, can_default=True,
               meaning="a buyer waits and buys direct where the discount is less than the fee and this"),
        # Refinance and hold
        _percent("refinance.share", "new loan, % of the value after repair", 75),
        _percent("refinance.rate", "new loan, yearly rate", 6.75),
        Input("refinance.years", "new loan, years to pay", FigureUnit.YEARS, 30, 0, 50, can_default=True),
        _percent("refinance.costs", "costs of the new loan", 2, meaning="in percent of it"),
        _months("refinance.months", "months until then", 8),
        # Lot split
        Input("split.frontage", "frontage", FigureUnit.FEET, most=1e6),
        Input("split.depth", "depth", FigureUnit.FEET, most=1e6),
        Input("split.area", "lot", FigureUnit.SQUARE_FEET, most=1e9),
        Input("split.least-width", "least width of a lot", FigureUnit.FEET, 25, 1, 1e4, can_default=True),
        Input("split.least-depth", "least depth of a lot", FigureUnit.FEET, 80, 1, 1e4, can_default=True),
        Input("split.least-area", "least area of a lot", FigureUnit.SQUARE_FEET, 2_500, 1, 1e7, can_default=True),
        _money("split.value-each", "value of a lot"),
        _money("split.cost-each", "survey, plat and hookups a lot", 6_500, can_default=True),
        _money("split.clearing", "clearing and demolition", 0),
        _months("split.months", "months until sold", 12),
        _money("split.wanted-profit", "profit wanted", 30_000, can_default=True),
        # Sell units separately
        _money("titles.value-each", "value of a unit"),
        _money("titles.cost-each", "separate utilities and finish a unit", 6_000, can_default=True),
        _money("titles.fixed", "survey, declaration and counsel", 15_000, can_default=True),
        _months("titles.months", "months until sold", 12),
        _money("titles.wanted-profit", "profit wanted", 40_000, can_default=True),
        # Over the years
        Input("hold.years", "years held", FigureUnit.YEARS, 10, 1, 30, can_default=True),
        _percent("hold.rent-growth", "growth of market rents", 2.5, least=-50, most=50),
        _percent("hold.renewal", "step at a renewal", 2, least=-50, most=50, meaning="a year, while the tenant stays"),
        _money("hold.turnover", "repairs when a tenant leaves", 2_500, can_default=True),
        _percent("hold.expense-growth", "growth of expenses", 3, least=-50, most=50),
        _percent("hold.value-growth", "growth of value", 2.5, least=-50, most=50),
        _percent("hold.discount", "what money earns elsewhere", 8, least=-50, most=100),
        # What the seller keeps
        _percent("seller.commission", "commission", 5.5),
        _percent("seller.transfer-tax", "transfer tax", 0.4),
        _percent("seller.closing", "title and closing", 0.8),
        _money("seller.concessions", "paid toward the buyer's costs", 0),
    )
}  # fmt: skip


BARE = frozenset({
    "buying-costs", "selling-costs", "repair-rate", "insurance-rate", "utilities", "bridge.share", "bridge.points", "bridge-second.points",
    "mortgage.share", "rental.vacancy", "rental.management", "rental.maintenance", "rental.reserve", "refinance.costs", "hold.turnover",
    "assignment.costs", "assignment.waiting", "split.cost-each", "titles.cost-each", "titles.fixed", "seller.commission",
    "seller.transfer-tax", "seller.closing",
})  # fmt: skip
"""What a bare worksheet counts as nothing until the user says otherwise: assumed costs and loans. Goals, terms and growth stay."""
PAYOFF = Input("payoff", "what is paid off", FigureUnit.MONEY)
"""What the amount of a payoff can be."""


def read_number(text: str, label: str) -> float:
    """Return a number as people type it, or a sum: "$184,500", "184.5k", "1.2m", "7 %", "−2", "198,000 - 25,000". Raises InputError."""
    said = text.strip().lower().replace("$", "").replace(",", "").replace("%", "").replace("−", "-").replace("×", "*").replace(" ", "")
    try:
        value = result_of(said)
    except (ValueError, ZeroDivisionError):
        raise InputError(f"“{text.strip()[:30]}” is not a number for {label}; write it as 184,500 or 2.5") from None
    if not math.isfinite(value):
        raise InputError(f"“{text.strip()[:30]}” is not a number for {label}; write it as 184,500 or 2.5")
    return value


def checked(one: Input, value: object) -> float:
    """Return a value that an input can have. Raises InputError."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise InputError(f"{one.label} is a number, not {str(value)[:30]}")
    if not one.least <= value <= one.most:
        raise InputError(f"{one.label} goes from {one.least:,.10g} to {one.most:,.10g}; {value:,.10g} does not")
    return float(value)


def input_named(key: str) -> Input:
    """Return an input by its key. Raises InputError."""
    if key not in INPUTS:
        raise InputError(f"there is no input {str(key)[:60]}; those of the price begin with {_some(INPUTS)}")
    return INPUTS[key]


def _some(keys: Iterable[str]) -> str:
    return ", ".join(list(keys)[:5])
