"""Which transfers are sales: arm's-length, for a price. The last sale is not the last transfer."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from enum import StrEnum
from itertools import pairwise
from typing import NamedTuple

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.finance.debts import Loan, may_be_lent_to
from jaded_ledger.core.finance.loans import LoanKind
from jaded_ledger.core.ownership.parties import UNNAMED, Party, are_kin
from jaded_ledger.core.several_parcels import ALONE, Covered

NOMINAL_PRICE = Decimal(1000)
"""Up to this a stated price is a formality ("for one dollar and other consideration"); common practice."""
FINANCED_WITHIN = 30
"""Days about a sale within which a purchase loan is recorded; common practice."""
FLIPPED_WITHIN = Length(24, CalendarUnit.MONTH)
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

    ``sold_on`` is the instrument's date, ``price`` that of all parcels covered, None where none is stated, and ``is_related``
    says whether the parties are kin, as within a family or into its trust. ``recites_contract`` says whether the deed itself
    tells that the seller financed it, None where it is silent. ``is_fulfillment`` marks a deed given once a land contract was
    paid. ``date_doubt`` says what was wrong with its own date where it stands as of its recording. ``key`` tells the row.
    """

    sold_on: date
    deed: DeedType
    price: Decimal | None
    is_related: bool
    recorded_on: date
    grantor: Party = UNNAMED
    grantee: Party = UNNAMED
    covered: Covered = ALONE
    recites_contract: bool | None = None
    is_fulfillment: bool = False
    date_doubt: str = ""
    key: int = 0

    @property
    def price_of_one(self) -> Decimal | None:
        """The price, or this parcel's part of it where the document covers several."""
        return self.covered.part_of(self.price)

    @property
    def is_seller_financed(self) -> bool:
        """Whether the seller financed it, as far as the deed itself tells."""
        return self.deed == DeedType.LAND_CONTRACT or bool(self.recites_contract)


def is_nominal(price: Decimal | None) -> bool:
    """Return whether a price is none, or a formality."""
    return price is None or price <= NOMINAL_PRICE


def is_sale(transfer: Transfer) -> bool:
    """Return whether a transfer is an arm's-length sale.

    Not when the price is nominal or not stated (a quitclaim's least of all), when the deed is a step of a foreclosure,
    a correction or fulfills a land contract, or when the parties are related. A quitclaim that leaves a party unnamed may pass a
    share within a marriage or a family, and is none either: common practice.
    """
    if transfer.deed in _NEVER_SALES or is_nominal(transfer.price) or transfer.is_related or transfer.is_fulfillment:
        return False
    return transfer.deed != DeedType.QUITCLAIM or bool(transfer.grantor.name and transfer.grantee.name)


def in_time(transfers: Iterable[Transfer]) -> list[Transfer]:
    """Return transfers in the order in which they took place, those marked that fulfill a land contract between the same parties."""
    found = sorted(transfers, key=lambda transfer: (transfer.sold_on, transfer.recorded_on, transfer.key))
    contracts = [transfer for transfer in found if transfer.deed == DeedType.LAND_CONTRACT]
    if not contracts:
        return found
    return [_marked(transfer, contracts) for transfer in found]


def _marked(transfer: Transfer, contracts: Iterable[Transfer]) -> Transfer:
    """Return a transfer marked where it is the deed that a land contract promised: from its seller to its buyer."""
    fulfills = transfer.deed != DeedType.LAND_CONTRACT and any(
        contract.sold_on <= transfer.sold_on and are_kin(contract.grantor, transfer.grantor) and are_kin(contract.grantee, transfer.grantee)
        for contract in contracts
    )
    return transfer._replace(is_fulfillment=True) if fulfills else transfer


def loans_about(sale: Transfer, loans: Iterable[Loan]) -> list[Loan]:
    """Return the loans for a purchase or for nothing stated that were recorded close to a sale or to its recording."""
    first = sale.sold_on - timedelta(FINANCED_WITHIN)
    last = max(sale.sold_on, sale.recorded_on) + timedelta(FINANCED_WITHIN)
    return [loan for loan in loans if loan.kind in (LoanKind.PURCHASE, "") and first <= loan.recorded_on <= last]


def purchase_loans(sale: Transfer, loans: Iterable[Loan], transfers: Iterable[Transfer] = ()) -> list[Loan]:
    """Return the loans that paid for a sale: those recorded about it that may be its buyer's.

    ``transfers`` are all of the parcel: a loan that names the seller, or another one's buyer, is not this buyer's.
    """
    near = loans_about(sale, loans)
    if not near:
        return near
    others = [sale.grantor, *(transfer.grantee for transfer in transfers)]
    return [loan for loan in near if may_be_lent_to(loan, sale.grantee, others)]


def is_seller_financed(sale: Transfer, paid_by: Iterable[Loan]) -> bool:
    """Return whether the seller financed a sale: by a land contract, as the deed recites, or by one of the loans that paid for it."""
    return sale.is_seller_financed or any(are_kin(loan.lent_by, sale.grantor) for loan in paid_by)


def is_cash_purchase(sale: Transfer, paid_by: Sequence[Loan], loans_through: date | None) -> bool | None:
    """Return whether a sale was paid without a loan or the seller's credit; unknown until mortgages are recorded far enough.

    ``paid_by`` are the purchase loans of the sale.
    """
    if sale.is_seller_financed or paid_by:
        return False
    if loans_through is None or loans_through < max(sale.sold_on, sale.recorded_on) + timedelta(FINANCED_WITHIN):
        return None
    return True


@dataclass(frozen=True)
class Flip:
    """A sale and the resale for more that followed soon after. Prices are of the same parcels: whole ones, or this parcel's parts."""

    bought: Transfer
    sold: Transfer
    paid: Decimal
    got: Decimal

    @property
    def margin(self) -> Decimal:
        return self.got - self.paid

    @property
    def days(self) -> int:
        return (self.sold.sold_on - self.bought.sold_on).days


def _compared(one: Transfer, other: Transfer) -> tuple[Decimal, Decimal] | None:
    """Return the prices of two sales as they can be compared; None where a share is not known."""
    prices = (one.price, other.price) if one.covered.others == other.covered.others else (one.price_of_one, other.price_of_one)
    return None if prices[0] is None or prices[1] is None else (prices[0], prices[1])


def _near(sales: Sequence[Transfer]) -> Iterator[tuple[Transfer, Transfer]]:
    """Yield each two sales of which the second followed within 24 months."""
    return ((one, other) for one, other in pairwise(sales) if other.sold_on <= shift(one.sold_on, FLIPPED_WITHIN, 1))


def flips(sales: Sequence[Transfer]) -> tuple[Flip, ...]:
    """Return the flips among sales in order: each sale within 24 months after the one before, and above it."""
    pairs = ((one, other, _compared(one, other)) for one, other in _near(sales))
    return tuple(Flip(one, other, *prices) for one, other, prices in pairs if prices and prices[1] > prices[0])


def are_flips_known(sales: Sequence[Transfer]) -> bool:
    """Return whether all sales that followed quickly can be compared with the one before."""
    return all(_compared(one, other) for one, other in _near(sales))
