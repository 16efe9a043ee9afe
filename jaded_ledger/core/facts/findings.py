"""What follows from a parcel's record: each finding is computed once, when first asked for."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.distress.filings import CaseKind, ForeclosureStepKind
from jaded_ledger.core.distress.signals import (
    Auction,
    Case,
    Lien,
    Result,
    Signal,
    SignalKind,
    Step,
    TaxYear,
    delinquent_years,
    furthest,
    is_ahead,
    is_held_unknown,
    newest_open,
    open_foreclosure,
    open_liens,
    signals_of,
)
from jaded_ledger.core.facts.by_area import AreaBasis, ByArea, Rent
from jaded_ledger.core.facts.offered import Offered
from jaded_ledger.core.finance import value
from jaded_ledger.core.finance.debts import Loan, LoanState, Passing, loan_states, owed_on
from jaded_ledger.core.finance.value import Equity, Estimate
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.core.market.on_market import ENDED, UNSOLD, left_market_on
from jaded_ledger.core.title.holding import Acquired
from jaded_ledger.core.title.sales import LOST, Transfer, is_sale

LONG_ON_MARKET = 120
"""Days on the market from which a listing is a sign; common practice."""
TIRED_AFTER = Length(10, CalendarUnit.YEAR)
INHERITED_FOR = Length(5, CalendarUnit.YEAR)
"""How long an inheritance is a sign that heirs may sell; common practice."""
RESIDENTIAL = frozenset(range(1, 9))
"""Codes of the classes in which people live."""
_LENDERS_OWN = frozenset({ForeclosureStepKind.SOLD, ForeclosureStepKind.BANK_OWNED})
_DAY = timedelta(days=1)


class Findings(Offered):
    """A parcel's findings as of a day. Each is None, or empty, where the record does not tell."""

    # Value and debt

    @lazy_property
    def assessed(self) -> Decimal | None:
        roll = self.roll
        return (
            None if roll is None or roll.land_value is None or roll.improvement_value is None else roll.land_value + roll.improvement_value
        )

    @lazy_property
    def area_basis(self) -> AreaBasis:
        """What of it its area's figures are put to."""
        roll, sale, latest = self.roll, self.last_sale, self.chain.latest if self.chain else None
        rent = self.rent_on_record
        return AreaBasis(
            assessed=self.assessed,
            sold_for=sale and sale.price_of_one,
            sold_in=sale and sale.sold_on.year,
            property_class=self.property_class,
            living_area=roll and roll.living_area,
            frontage=roll and roll.frontage,
            dwellings=self.dwellings,
            beds_of_one=self.beds_of_one,
            owed=self.owed,
            liens=self.lien_total,
            # Where a county's bills are not on file, none are known to be due.
            taxes=self.tax_due if self.county.has("tax-years") else Decimal(0),
            list_price=latest and latest.list_price,
            beds_asked=self.asked_among[1] if self.is_active and self.asked_among else None,
            rent=rent and rent.amount,
        )

    @lazy_property
    def by_area(self) -> ByArea:
        return ByArea(self.area_basis, self.record.area, self.county)

    @property
    def estimate(self) -> Estimate | None:
        return self.by_area.estimate

    @property
    def equity(self) -> Equity | None:
        return self.by_area.equity

    @property
    def rent(self) -> Rent | None:
        """The month's rent that a yield is told by, and whose word it is: in place, asked for, its potential, or the area's."""
        return self.rent_on_record or self.by_area.rent_of_all

    @lazy_property
    def loans(self) -> tuple[LoanState, ...]:
        """How each recorded loan stands."""
        return loan_states(self.record.loans, self.record.loan_events, self._passings(), self.today)

    def _passings(self) -> Iterator[Passing]:
        for transfer in self.transfers:
            if transfer.deed in LOST or is_sale(transfer):
                yield Passing(transfer.recorded_on, is_sale(transfer), transfer.grantor, transfer.grantee, transfer.key)

    @lazy_property
    def open_loans(self) -> tuple[LoanState, ...]:
        return tuple(loan for loan in self.loans if loan.is_open_on(self.today))

    @lazy_property
    def lenders_at_law(self) -> list[tuple[str, int]]:
        """The rows by which a lender stands up for a loan: served in a tax suit for its interest in the land, or foreclosing."""
        served = [("case", case.key) for case in self._own_cases(CaseKind.TAX) if case.serves_lender]
        stage = self.foreclosure_stage
        is_foreclosing = stage is not None and stage.step not in _LENDERS_OWN and not self._is_lost_since(stage)
        return served + ([("foreclosure", stage.key)] if stage and is_foreclosing else [])

    def _is_lost_since(self, step: Step) -> bool:
        return any(transfer.deed in LOST and transfer.sold_on >= step.taken_on for transfer in self.transfers)

    @lazy_property
    def is_loan_missing(self) -> bool:
        """Whether a lender is at law though no loan is open on record: the deed records may lack one."""
        return not self.open_loans and bool(self.lenders_at_law)

    @property
    def is_debt_unknown(self) -> bool:
        """Whether there may be debt that no loan on record tells of."""
        return not self.county.has("loans") or self.is_loan_missing or self.open_contract is not None

    @lazy_property
    def owed(self) -> Decimal | None:
        if self.is_debt_unknown:
            return None
        return owed_on(self.loans, self.today)

    @property
    def is_free_and_clear(self) -> bool | None:
        if self.open_loans:
            return False
        return None if self.is_debt_unknown else True

    @property
    def has_blanket_loan(self) -> bool | None:
        """Whether an open loan covers other parcels, too."""
        if any(loan.loan.covered.others for loan in self.open_loans):
            return True
        return None if not self.county.has("loans") or self.is_loan_missing else False

    @lazy_property
    def last_loan(self) -> Loan | None:
        return max(self.record.loans, key=lambda loan: (loan.recorded_on, loan.key), default=None)

    @lazy_property
    def open_liens(self) -> list[Lien]:
        return open_liens(self.record.filed.liens, self.sold_on)

    @lazy_property
    def lien_total(self) -> Decimal | None:
        if not self.county.has("liens") or any(lien.amount is None for lien in self.open_liens):
            return None
        return sum((lien.amount or Decimal(0) for lien in self.open_liens), Decimal(0))

    @lazy_property
    def delinquent(self) -> list[TaxYear]:
        return delinquent_years(self.record.filed.tax_years, self.reach("tax-years"))

    @lazy_property
    def tax_due(self) -> Decimal | None:
        if not self.record.filed.tax_years:
            return None
        return sum((one.due or Decimal(0) for one in self.delinquent), Decimal(0))

    @lazy_property
    def tax_years(self) -> Mapping[int, TaxYear]:
        return {year.year: year for year in self.record.filed.tax_years}

    @property
    def last_tax_year(self) -> TaxYear | None:
        return self.tax_years[max(self.tax_years)] if self.tax_years else None

    def market_value_change(self, years: int) -> Decimal | None:
        """Return by how many percentage points the roll's market value changed over so many years."""
        last = self.last_tax_year
        before = last and self.tax_years.get(last.year - years)
        if not last or not before or last.market_value is None or not before.market_value:
            return None
        return value.percent(last.market_value - before.market_value, before.market_value)

    # Distress

    @property
    def inheritance(self) -> Transfer | None:
        """The instrument by which the present owner inherited."""
        return self.holding.by if self.holding and self.holding.acquired is Acquired.INHERITANCE else None

    def _own_cases(self, kind: CaseKind) -> list[Case]:
        """Cases of a kind since the present ownership began, oldest first."""
        since = self.holding.began.sold_on if self.holding else date.min
        return sorted((case for case in self.record.filed.cases if case.kind == kind and case.filed_on >= since), key=_by_filing)

    @property
    def tax_suit(self) -> Case | None:
        """The newest case for tax."""
        return max((case for case in self.record.filed.cases if case.kind == CaseKind.TAX), key=_by_filing, default=None)

    @lazy_property
    def evictions(self) -> list[Case]:
        return self._own_cases(CaseKind.EVICTION)

    @lazy_property
    def foreclosure(self) -> list[Step]:
        return open_foreclosure(self.record.filed.steps, self.sold_on)

    @property
    def foreclosure_stage(self) -> Step | None:
        return furthest(self.foreclosure)

    @property
    def next_auction(self) -> Auction | None:
        return min((auction for auction in self.record.filed.auctions if is_ahead(auction, self.today)), default=None)

    @property
    def last_auction(self) -> Auction | None:
        """The newest auction, held or to be held."""
        return max(self.record.filed.auctions, default=None)

    def auction_result(self, auction: Auction) -> str:
        """Return what became of an auction, or that it is scheduled or postponed still."""
        return Result.UNKNOWN if is_held_unknown(auction, self.today, self.reach("auctions")) else auction.status

    @lazy_property
    def signals(self) -> list[Signal]:
        """All signs of distress, open and closed, oldest first."""
        found = signals_of(self.record.filed, self.sold_on, self.today, self.county.through)
        found += self._of_title()
        found += self._of_offers()
        return sorted(found, key=lambda one: (one.on, one.kind))

    def _of_title(self) -> Iterator[Signal]:
        if inherited := self.inheritance:
            until = shift(inherited.sold_on, INHERITED_FOR, 1)
            is_open = until > self.today
            yield Signal(SignalKind.INHERITED, inherited.sold_on, is_open, ("deed", inherited.key), None if is_open else until)

    def _of_offers(self) -> Iterator[Signal]:
        chain = self.chain
        if chain is None:
            return
        latest, changes = chain.latest, chain.changes_of(chain.latest)
        row = ("listing", latest.key)
        if latest.status in UNSOLD and (left := left_market_on(latest, changes)):
            is_open = not any(day >= left for day in self.sold_on)
            yield Signal(SignalKind.UNSOLD_LISTING, left, is_open, row)
        if latest.status in ENDED:
            return
        on_market = chain.cumulative
        if on_market.on(self.today) >= LONG_ON_MARKET:
            reached = on_market.since + (LONG_ON_MARKET - on_market.days) * _DAY if on_market.since else chain.status_since
            yield Signal(SignalKind.LONG_ON_MARKET, max(reached or latest.begun_on, latest.begun_on), True, row)
        if chain.cuts:
            yield Signal(SignalKind.PRICE_CUTS, chain.cuts[-1].on, True, ("listing-event", chain.cuts[-1].key))

    @lazy_property
    def open_signals(self) -> Mapping[SignalKind, Signal]:
        return newest_open(self.signals)

    @lazy_property
    def newest_signal(self) -> Signal | None:
        here = [signal for signal in self.open_signals.values() if signal.on <= self.today]
        return max(here, key=lambda one: one.on, default=None)

    @lazy_property
    def landlord_troubles(self) -> list[tuple[str, str, int]]:
        """What makes a landlord tired: what, the kind of row, its key."""
        found = [("rental listing", "listing", listing.key) for listing in self.record.listings if listing.is_lease]
        found += [("eviction filing", "case", case.key) for case in self.record.filed.cases if case.kind == CaseKind.EVICTION]
        return found + [("code violation", "violation", violation.key) for violation in self.record.filed.violations]

    @lazy_property
    def is_tired_landlord(self) -> bool | None:
        absentee = None if self.is_owner_occupied is None else not self.is_owner_occupied
        is_long = None if self.holding is None else self.holding.began.sold_on <= shift(self.today, TIRED_AFTER, -1)
        kind = self.property_class
        lived_in = None if kind is None else kind in RESIDENTIAL
        has_records = all(self.county.has(kind) for kind in ("cases", "violations", "listings"))
        troubled = True if self.landlord_troubles else (False if has_records else None)
        return all_of(absentee, is_long, lived_in, troubled)


def _by_filing(case: Case) -> tuple[date, int]:
    return (case.filed_on, case.key)


def all_of(*answers: bool | None) -> bool | None:
    """Return whether all hold: false if one does not, else unknown if one is."""
    if False in answers:
        return False
    return None if None in answers else True
