"""What the seller walks away with: the offer, less what has to be paid off and what selling costs them, line by line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, Number, Numbers, Values, share, total
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.sheet import Line, Side

CHARGES = ("seller.commission", "seller.transfer-tax", "seller.closing")


@dataclass(frozen=True)
class Payoff:
    """Something that is paid off at closing: a loan, a lien, taxes due. ``amount`` is None where it is not on record."""

    key: str
    label: str
    amount: float | None
    said: str = ""
    day: date | None = None


@dataclass(frozen=True)
class SellerSheet:
    """The seller's account. ``net`` is not known where something to be paid off is not; ``unknown`` names what."""

    lines: tuple[Line, ...]
    net: Cell
    values: Values
    payoffs: tuple[Payoff, ...]

    @property
    def unknown(self) -> list[str]:
        return [one.label for one in self.payoffs if self.values.number(_payoff(one)) is None]


def _payoff(one: Payoff) -> Cell:
    return Cell(f"payoff.{one.key}", one.label, FigureUnit.MONEY)


def net_cell(price: Cell, owed: Sequence[Cell]) -> tuple[Cell, tuple[Line, ...]]:
    """Return what is left of a price for the seller, and its account."""
    rates = [INPUTS[key].cell for key in CHARGES]
    charges = [Cell(f"{rate.key}.amount", rate.label, FigureUnit.MONEY, price * share(rate)) for rate in rates]
    paid = INPUTS["seller.concessions"].cell
    costs = [*owed, *charges, paid]
    net = Cell("seller.net", "net to seller", FigureUnit.MONEY, price - total(costs) if costs else price + Number(0))
    lines = (
        Line(price, Side.IN, ("offer",)),
        *(Line(one, Side.OUT, (one.label,)) for one in owed),
        *(Line(charge, Side.OUT, (rate.label, rate)) for charge, rate in zip(charges, rates, strict=True)),
        Line(paid, Side.OUT, (paid.label,), is_optional=True),
        Line(net, Side.SUM, ("net to seller",)),
    )
    return net, lines


def seller_sheet(inputs: Mapping[str, Numbers], payoffs: Sequence[Payoff], own: Mapping[str, float]) -> SellerSheet:
    """Return the seller's account at a worksheet's price. ``own`` are payoffs that the user knows better, by key."""
    owed = [_payoff(one) for one in payoffs]
    amounts = {cell.key: own.get(one.key, np.nan if one.amount is None else one.amount) for cell, one in zip(owed, payoffs, strict=True)}
    net, lines = net_cell(INPUTS["price"].cell, owed)
    return SellerSheet(lines, net, Values({**inputs, **amounts}), tuple(payoffs))


def net_to_seller(price: Numbers, owed: Sequence[Numbers], inputs: Mapping[str, Numbers]) -> Numbers:
    """Return what many sellers would walk away with, by the same account; not a number where something owed is not known."""
    cells = [Cell(f"payoff.{place}", "", FigureUnit.MONEY) for place in range(len(owed))]
    net, _ = net_cell(INPUTS["price"].cell, cells)
    amounts = {cell.key: amount for cell, amount in zip(cells, owed, strict=True)}
    return Values({**inputs, **amounts, "price": price})[net]
