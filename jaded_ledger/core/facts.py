"""The searchable facts of one parcel, computed from what was recorded of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Choice
from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.core.market.sales import Transfer, last_sale
from jaded_ledger.core.ownership.occupancy import is_owner_occupied

SQFT_PER_ACRE = 43_560
"""NIST Handbook 44, Appendix C."""
_OWNER_KIND = CATALOGUE["owner-kind"]
_CONDOMINIUM = CATALOGUE["class"].choice("condominium")
_ODD, _EVEN = (CATALOGUE["house-side"].choice(side) for side in ("odd", "even"))


@dataclass(frozen=True)
class RecordedParcel:
    """What is on record about a parcel, as far as the facts below need it. None is unknown."""

    property_class: int | None
    house_number: int | None
    lot_sqft: int | None
    land_value: Decimal | None
    improvement_value: Decimal | None
    homestead: bool | None
    owner_kind: str | None
    situs: Address | None
    mailing: Address | None
    transfers: Sequence[Transfer]


def _code(choice: Choice | None) -> int | None:
    return choice.code if choice else None


def whole_dollars(amount: Decimal | None) -> int | None:
    """Return an amount as facts keep it."""
    return None if amount is None else round(amount)


def derive_facts(parcel: RecordedParcel) -> dict[str, object]:
    """Return the computed facts by their column."""
    sale = last_sale(parcel.transfers)
    assessed = None if parcel.land_value is None or parcel.improvement_value is None else parcel.land_value + parcel.improvement_value
    return {
        "house_side": None if parcel.house_number is None else _code(_EVEN if parcel.house_number % 2 == 0 else _ODD),
        "lot_acres": None if parcel.lot_sqft is None else round(parcel.lot_sqft / SQFT_PER_ACRE, 2),
        "assessed_value": whole_dollars(assessed),
        "improvement_value": whole_dollars(parcel.improvement_value),
        "owner_kind": _code(_OWNER_KIND.choice(parcel.owner_kind)) if parcel.owner_kind else None,
        "owner_occupied": is_owner_occupied(
            parcel.situs,
            parcel.mailing,
            homestead=parcel.homestead,
            is_condominium=parcel.property_class == _code(_CONDOMINIUM),
        ),
        "last_sale": sale.sold_on if sale else None,
        "last_sale_price": whole_dollars(sale.price) if sale else None,
    }
