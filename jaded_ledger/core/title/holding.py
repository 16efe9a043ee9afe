"""Since when and how somebody owns: the current unbroken ownership, through transfers within the family."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.title.sales import LOST, DeedType, Transfer, is_nominal, is_sale


class Acquired(StrEnum):
    """How the present owner came by the property."""

    SALE = "sale"
    INHERITANCE = "inheritance"
    GIFT = "gift"
    TRUST = "trust"
    FORECLOSURE = "foreclosure"
    TAX_SALE = "tax-sale"


@dataclass(frozen=True)
class Holding:
    """The current unbroken ownership: the instrument it began with, how the owner came by it, and by which instrument."""

    began: Transfer
    acquired: Acquired
    by: Transfer
    is_open_before: bool
    """Whether the family may have had it before the records begin: the first instrument is within the family, too."""


def keeps_ownership(transfer: Transfer) -> bool:
    """Return whether a transfer leaves the property where it was.

    So does a correction, a deed that fulfills a land contract, and one within the family for nothing much.
    """
    return transfer.deed == DeedType.CORRECTION or transfer.is_fulfillment or (transfer.is_related and is_nominal(transfer.price))


def is_telling(transfer: Transfer) -> bool:
    """Return whether a transfer tells how a property was acquired.

    A correction does not, nor a deed that fulfills a land contract, nor one into the owner's own trust.
    """
    if transfer.deed == DeedType.CORRECTION or transfer.is_fulfillment:
        return False
    return not (transfer.is_related and transfer.grantee.kind == OwnerKind.TRUST)


def how_acquired(transfer: Transfer) -> Acquired:
    """Return how the grantee of a transfer came by the property."""
    if transfer.deed == DeedType.TAX:
        return Acquired.TAX_SALE
    if transfer.deed in LOST:
        return Acquired.FORECLOSURE
    if transfer.deed == DeedType.PERSONAL_REPRESENTATIVE or transfer.grantor.kind == OwnerKind.ESTATE:
        return Acquired.SALE if is_sale(transfer) else Acquired.INHERITANCE
    if is_sale(transfer) or not is_nominal(transfer.price):
        return Acquired.SALE
    if OwnerKind.TRUST in (transfer.grantor.kind, transfer.grantee.kind):
        return Acquired.TRUST
    return Acquired.GIFT


def holding(transfers: Sequence[Transfer]) -> Holding | None:
    """Return the current ownership from transfers in the order of time; None where none is on record.

    It runs from the first recorded instrument of the unbroken ownership. How it was acquired is told by the last
    instrument that is neither a correction nor one into the owner's own trust.
    """
    if not transfers:
        return None
    place = len(transfers) - 1
    while place and keeps_ownership(transfers[place]):
        place -= 1
    since = transfers[place:]
    telling = [one for one in since if is_telling(one)]
    by = telling[-1] if telling else since[0]
    return Holding(since[0], how_acquired(by), by, keeps_ownership(since[0]))


def whole_years(since: date, today: date) -> int:
    """Return how many whole years have passed.

    >>> whole_years(date(2016, 11, 25), date(2026, 11, 24))
    9
    """
    years = today.year - since.year
    return years if since <= shift(today, Length(years, CalendarUnit.YEAR), -1) else years - 1
