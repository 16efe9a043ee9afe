"""Which transfers are sales: arm's-length, for a price. The last sale is not the last transfer."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum

NOMINAL_PRICE = Decimal(1000)
"""Up to this a stated price is a formality ("for one dollar and other consideration"); common practice."""


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


_NEVER_SALES = frozenset({DeedType.SHERIFF, DeedType.TAX, DeedType.CORRECTION})


@dataclass(frozen=True)
class Transfer:
    """One recorded transfer.

    ``sold_on`` is the instrument's date, ``price`` is None where none is stated, and ``is_related`` says whether the
    parties share a surname, as within a family or into its trust.
    """

    sold_on: date
    deed: DeedType
    price: Decimal | None
    is_related: bool


def is_sale(transfer: Transfer, nominal_price: Decimal = NOMINAL_PRICE) -> bool:
    """Return whether a transfer is an arm's-length sale.

    Not when the price is nominal or not stated (a quitclaim's least of all), when the deed is a step of a foreclosure
    or a correction, or when the parties are related.
    """
    if transfer.deed in _NEVER_SALES or transfer.price is None or transfer.price <= nominal_price:
        return False
    return not transfer.is_related


def last_sale(transfers: Iterable[Transfer]) -> Transfer | None:
    """Return the latest sale, or None when there is none on record."""
    return max((one for one in transfers if is_sale(one)), key=lambda one: one.sold_on, default=None)
