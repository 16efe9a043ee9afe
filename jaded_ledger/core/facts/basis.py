"""What follows from a parcel's record at first hand: its title, who lives there, its building."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.facts.record import Building, Exemption, Permit, RecordedParcel
from jaded_ledger.core.finance.debts import Loan
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.core.ownership.occupancy import is_owner_occupied
from jaded_ledger.core.ownership.parties import Party, are_kin
from jaded_ledger.core.property import class_by_use
from jaded_ledger.core.title.holding import Holding, holding
from jaded_ledger.core.title.sales import (
    LOST,
    Flip,
    Transfer,
    are_flips_known,
    flips,
    in_time,
    is_cash_purchase,
    is_sale,
    is_seller_financed,
    purchase_loans,
)

SALES_COUNTED = Length(10, CalendarUnit.YEAR)
_CODES = {choice.key: choice.code for choice in CLASSES}


class Contract(NamedTuple):
    """A sale that its seller financed, and the deed that ended what was owed: its fulfillment, a sale, or one by which it was lost."""

    sale: Transfer
    ended_by: Transfer | None


def _ends_contract(transfer: Transfer) -> bool:
    return transfer.is_fulfillment or transfer.deed in LOST or is_sale(transfer)


class Basis:
    """A parcel's findings of title, occupancy and building as of a day."""

    def __init__(self, record: RecordedParcel, today: date) -> None:
        self.record = record
        self.county = record.county
        self.roll = record.roll
        self.today = today

    def reach(self, kind: str) -> date:
        """Return the day through which a kind of record is on file, today at the latest."""
        return min(self.today, self.county.through.get(kind, self.today))

    # Title

    @lazy_property
    def transfers(self) -> list[Transfer]:
        """Transfers in order, those that are dated in time to come left out: their date is not known."""
        return [one for one in in_time(self.record.transfers) if one.sold_on <= self.today]

    @lazy_property
    def sales(self) -> list[Transfer]:
        return [transfer for transfer in self.transfers if is_sale(transfer)]

    @lazy_property
    def sold_on(self) -> list[date]:
        return [sale.sold_on for sale in self.sales]

    @property
    def last_sale(self) -> Transfer | None:
        return self.sales[-1] if self.sales else None

    @lazy_property
    def holding(self) -> Holding | None:
        return holding(self.transfers)

    @lazy_property
    def flips(self) -> tuple[Flip, ...]:
        return flips(self.sales)

    @property
    def are_flips_known(self) -> bool:
        return self.county.has("deeds") and are_flips_known(self.sales)

    @lazy_property
    def recent_sales(self) -> list[Transfer]:
        since = shift(self.today, SALES_COUNTED, -1)
        return [sale for sale in self.sales if sale.sold_on >= since]

    @lazy_property
    def paid_by(self) -> list[Loan]:
        """The loans that paid for the last sale."""
        return purchase_loans(self.last_sale, self.record.loans, self.transfers) if self.last_sale else []

    @lazy_property
    def is_cash_purchase(self) -> bool | None:
        if self.last_sale is None:
            return None
        if self.last_sale.is_seller_financed:
            return False
        return is_cash_purchase(self.last_sale, self.paid_by, self.county.through["loans"]) if self.county.has("loans") else None

    @lazy_property
    def is_seller_financed(self) -> bool | None:
        return is_seller_financed(self.last_sale, self.paid_by) if self.last_sale else None

    @lazy_property
    def contracts(self) -> list[Contract]:
        """The sales that their sellers financed without a loan that tells how much is owed."""
        return [
            Contract(sale, next((after for after in self.transfers[place + 1 :] if _ends_contract(after)), None))
            for place, sale in enumerate(self.transfers)
            if is_sale(sale) and sale.is_seller_financed and not purchase_loans(sale, self.record.loans, self.transfers)
        ]

    @property
    def open_contract(self) -> Transfer | None:
        """The sale under which an unknown sum is still owed to its seller."""
        return next((contract.sale for contract in self.contracts if contract.ended_by is None), None)

    # Owner

    @property
    def is_owner_not_on_deed(self) -> bool | None:
        """Whether the owner on the roll shares no name with whoever the last deed names: a sale too new for it, or one not on record."""
        if not self.transfers or self.roll is None or not self.roll.owner_name:
            return None
        grantee = self.transfers[-1].grantee
        # A name that is no owner's, such as UNKNOWN, tells nothing.
        if not grantee.name or not grantee.kind or not self.roll.owner_kind:
            return None
        return not are_kin(Party(self.roll.owner_name.upper(), self.roll.owner_kind, self.roll.owner_surnames), grantee)

    @lazy_property
    def is_owner_occupied(self) -> bool | None:
        if self.roll is None:
            return None
        is_condominium = self.property_class == _CODES["condominium"]
        return is_owner_occupied(self.roll.situs, self.roll.mailing, homestead=self.roll.homestead, is_condominium=is_condominium)

    @property
    def is_out_of_state(self) -> bool | None:
        mailing = self.roll and self.roll.mailing
        return mailing.state != self.county.state if mailing and mailing.state else None

    @property
    def is_out_of_county(self) -> bool | None:
        mailing = self.roll and self.roll.mailing
        if not mailing:
            return None
        if mailing.state and mailing.state != self.county.state:
            return True
        return mailing.zip5 not in self.county.zips if mailing.zip5 and self.county.zips else None

    @lazy_property
    def exemptions(self) -> list[Exemption]:
        return [
            exemption
            for exemption in self.record.exemptions
            if exemption.since <= self.today and (exemption.until is None or exemption.until > self.today)
        ]

    # Building

    @lazy_property
    def inferred_class(self) -> int | None:
        """The class that the land-use code and the dwellings tell where the roll has none."""
        roll = self.roll
        if roll is None or roll.property_class is not None:
            return None
        kind = class_by_use(roll.land_use, roll.tenure, self.dwellings, roll.improvement_value)
        return _CODES[kind] if kind else None

    @property
    def property_class(self) -> int | None:
        return self.roll.property_class if self.roll and self.roll.property_class is not None else self.inferred_class

    @lazy_property
    def building(self) -> Building | None:
        """The main building: the first by its number."""
        return min(self.record.buildings, default=None)

    @property
    def garage(self) -> int | None:
        spaces = [building.garage_spaces for building in self.record.buildings if building.garage_spaces is not None]
        return sum(spaces) if spaces else None

    @property
    def has_pool(self) -> bool | None:
        said = [building.has_pool for building in self.record.buildings if building.has_pool is not None]
        return any(said) if said else None

    @property
    def dwellings(self) -> int | None:
        return self.roll.units if self.roll and self.roll.units is not None else self.record.dwellings or None

    @lazy_property
    def last_permit(self) -> Permit | None:
        return max(self.record.permits, key=lambda permit: (permit.issued_on, permit.key), default=None)
