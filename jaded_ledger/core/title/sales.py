"""Which transfers are sales: arm's-length, for a price. The last sale is not the last transfer."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from enum import StrEnum
from itertools import pairwise
from typing import NamedTuple

from jaded_ledger.core.dates import Length, Unit, shift
from jaded_ledger.core.finance.debts import Loan
from jaded_ledger.core.finance.loans import LoanKind

NOMINAL_PRICE = Decimal(1000)
"""Up to this a stated price is a formality ("for one dollar and other consideration"); common practice."""
FINANCED_WITHIN = 30
"""Days about a sale within which a purchase loan is recorded; common practice."""
FLIPPED_WITHIN = Length(24, Unit.MONTH)
"""A resale for more within this time is a flip; common practice."""


class DeedType(StrEnum):
    """The kind of a recorded instrument that passes title."""

    WARRANTY = "warranty"
    SPECIAL_WARRANTY = "special-warranty"
    QUITCLAIM = "quitclaim"
    PERSONAL_REPRESENTATIVE = "personal-representative"
    TRUSTEE = "trustee"
    LAND_CONTRACT = "land-contract"
    SHERIFF = "sheriff"
    TAX = "tax"
    CORRECTION = "correction"
    OTHER = "other"


LOST = frozenset({DeedType.SHERIFF, DeedType.TAX})
"""Deeds by which an owner loses the property."""
_NEVER_SALES = LOST | {DeedType.CORRECTION}


class Transfer(NamedTuple):
    """One recorded transfer. A tuple, because millions are read.

    ``sold_on`` is the instrument's date, ``price`` is None where none is stated, and ``is_related`` says whether the
    parties share a surname, as within a family or into its trust. ``grantor_kind`` and ``grantee_kind`` are kinds of owner.
    ``key`` tells the row.
    """

    sold_on: date
    deed: DeedType
    price: Decimal | None
    is_related: bool
    recorded_on: date
    grantor_kind: str = ""
    grantee_kind: str = ""
    key: int = 0


def is_nominal(price: Decimal | None) -> bool:
    """Return whether a price is none, or a formality."""
    return price is None or price <= NOMINAL_PRICE


def is_sale(transfer: Transfer) -> bool:
    """Return whether a transfer is an arm's-length sale.

    Not when the price is nominal or not stated (a quitclaim's least of all), when the deed is a step of a foreclosure
    or a correction, or when the parties are related.
    """
    return not (transfer.deed in _NEVER_SALES or is_nominal(transfer.price) or transfer.is_related)


def in_time(transfers: Iterable[Transfer]) -> list[Transfer]:
    """Return transfers in the order in which they took place."""
    return sorted(transfers, key=lambda transfer: (transfer.sold_on, transfer.recorded_on, transfer.key))


def purchase_loans(sale: Transfer, loans: Iterable[Loan]) -> list[Loan]:
    """Return the loans that paid for a sale: for a purchase or for nothing stated, recorded close to it or to its recording."""
    first = sale.sold_on - timedelta(FINANCED_WITHIN)
    last = max(sale.sold_on, sale.recorded_on) + timedelta(FINANCED_WITHIN)
    return [loan for loan in loans if loan.kind in (LoanKind.PURCHASE, "") and first <= loan.recorded_on <= last]


def is_cash_purchase(sale: Transfer, loans: Iterable[Loan], loans_through: date | None) -> bool | None:
    """Return whether a sale was paid without a loan; unknown until the county's mortgages are recorded far enough."""
    if purchase_loans(sale, loans):
        return False
    if loans_through is None or loans_through < max(sale.sold_on, sale.recorded_on) + timedelta(FINANCED_WITHIN):
        return None
    return True


@dataclass(frozen=True)
class Flip:
    """A sale and the resale for more that followed soon after."""

    bought: Transfer
    sold: Transfer

    @property
    def margin(self) -> Decimal:
        return (self.sold.price or Decimal(0)) - (self.bought.price or Decimal(0))

    @property
    def days(self) -> int:
        return (self.sold.sold_on - self.bought.sold_on).days


def flips(sales: Sequence[Transfer]) -> tuple[Flip, ...]:
    """Return the flips among sales in order: each sale within 24 months after the one before, and above it."""
    return tuple(
        Flip(one, other)
        for one, other in pairwise(sales)
        if other.sold_on <= shift(one.sold_on, FLIPPED_WITHIN, 1) and (other.price or 0) > (one.price or 0)
    )
