"""Which recorded loans are still open, and what is owed on them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from enum import StrEnum
from typing import NamedTuple

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.finance.amortization import balance, payments_due
from jaded_ledger.core.finance.loans import LoanEventKind, LoanKind
from jaded_ledger.core.finance.rates import average_rate
from jaded_ledger.core.ownership.parties import UNNAMED, Party, are_kin
from jaded_ledger.core.several_parcels import ALONE, Covered

REPLACING_SHARE = Decimal("0.8")
"""A refinance for at least this share of what is owed closes the loan before it; common practice."""
USUAL_TERM = 360
"""Months over which a loan is paid whose record states no term; common practice."""
LENT_BEFORE_DEED = 30
"""A purchase loan recorded up to so many days before its deed belongs to the buyer; common practice."""


class Loan(NamedTuple):
    """A recorded loan. A tuple, because millions are read.

    ``rate`` is a fraction a year; ``amount`` is that of all parcels ``covered``; ``key`` tells the row.
    """

    recorded_on: date
    dated_on: date | None
    kind: str
    amount: Decimal | None
    rate: Decimal | None
    term_months: int | None
    matures_on: date | None
    number: str = ""
    lender: str = ""
    lender_id: int | None = None
    borrower: Party = UNNAMED
    lent_by: Party = UNNAMED
    covered: Covered = ALONE
    key: int = 0

    @property
    def amount_of_one(self) -> Decimal | None:
        """The amount, or this parcel's part of it where the loan covers several."""
        return self.covered.part_of(self.amount)


def may_be_lent_to(loan: Loan, buyer: Party, others: Iterable[Party]) -> bool:
    """Return whether a loan may be a buyer's: unless the borrower it names is one of some others, and not the buyer."""
    if not loan.borrower.name or are_kin(loan.borrower, buyer):
        return True
    return not any(are_kin(loan.borrower, other) for other in others)


class LoanEvent(NamedTuple):
    """A later instrument on a loan, by the loan's number."""

    recorded_on: date
    kind: str
    loan_number: str
    amount: Decimal | None
    key: int = 0


class Passing(NamedTuple):
    """A transfer that ends the earlier owner's debts: an arm's-length sale, or a deed by which the property was lost."""

    recorded_on: date
    is_sale: bool
    grantor: Party = UNNAMED
    grantee: Party = UNNAMED
    key: int = 0


class Ended(StrEnum):
    """Why a loan is no longer open."""

    RELEASED = "released"
    MATURED = "past its maturity"
    SOLD = "paid off at the sale"
    LOST = "wiped out by foreclosure"
    REPLACED = "replaced by a refinance"


class Restart(NamedTuple):
    """A modification or partial release that set a loan's principal anew; None where the new principal is not known."""

    on: date
    principal: Decimal | None
    kind: LoanEventKind
    key: int = 0


@dataclass(frozen=True)
class LoanState:
    """A loan and how it stands: when and why it ended, or that it is open. ``rate`` and ``months`` are those reckoned with.

    ``restarts`` are the later instruments that set the principal anew. ``ended_by`` is the row that tells of the end.
    """

    loan: Loan
    rate: Decimal
    is_rate_assumed: bool
    months: int
    ended_on: date | None = None
    ended: Ended | None = None
    ended_by: tuple[str, int] | None = None
    restarts: tuple[Restart, ...] = ()

    @property
    def begins_on(self) -> date:
        return self.loan.dated_on or self.loan.recorded_on

    @property
    def is_line(self) -> bool:
        return self.loan.kind == LoanKind.CREDIT_LINE

    @property
    def matures_on(self) -> date:
        return self.loan.matures_on or shift(self.begins_on, Length(self.months, CalendarUnit.MONTH), 1)

    def is_open_on(self, day: date) -> bool:
        return self.loan.recorded_on <= day and (self.ended_on is None or day < self.ended_on)

    def whole_owed_on(self, day: date) -> Decimal | None:
        """Return the scheduled balance of the whole loan, whether or not it has ended by then; None where it is not known."""
        principal, begins_on, months = self.loan.amount, self.begins_on, self.months
        for restart in self.restarts:
            if restart.on <= day:
                months -= payments_due(begins_on, restart.on)
                principal, begins_on = restart.principal, restart.on
        if principal is None or self.is_line:
            return principal
        return balance(principal, self.rate, max(months, 1), payments_due(begins_on, day))

    def owed_on(self, day: date) -> Decimal | None:
        """Return the scheduled balance, of a blanket loan this parcel's part; None where it is not known."""
        return self.loan.covered.part_of(self.whole_owed_on(day))


def _loan_state(loan: Loan, events: Iterable[LoanEvent]) -> LoanState:
    months = loan.term_months
    if months is None and loan.matures_on is not None:
        months = payments_due(loan.dated_on or loan.recorded_on, loan.matures_on)
    rate = average_rate(loan.recorded_on.year) if loan.rate is None else loan.rate
    state = LoanState(loan, rate, loan.rate is None, months or USUAL_TERM)
    for event in sorted(events, key=lambda event: (event.recorded_on, event.key)):
        if event.kind == LoanEventKind.MODIFICATION and event.amount is not None:
            state = _restarted(state, event, LoanEventKind.MODIFICATION, event.amount)
        elif event.kind == LoanEventKind.PARTIAL_RELEASE:
            owed = state.whole_owed_on(event.recorded_on)
            left = None if owed is None or event.amount is None else max(owed - event.amount, Decimal(0))
            state = _restarted(state, event, LoanEventKind.PARTIAL_RELEASE, left)
    return state


def _restarted(state: LoanState, event: LoanEvent, kind: LoanEventKind, principal: Decimal | None) -> LoanState:
    return replace(state, restarts=(*state.restarts, Restart(event.recorded_on, principal, kind, event.key)))


def _passing(loan: Loan, events: Sequence[LoanEvent], passings: Sequence[Passing]) -> Passing | None:
    """Return the transfer that ended a loan: the first after it, unless it paid for that one or the buyer took it over."""
    grantees = [passing.grantee for passing in passings]
    for passing in passings:
        if loan.recorded_on >= passing.recorded_on:
            continue
        before = passing.recorded_on - timedelta(LENT_BEFORE_DEED)
        may_have_paid = passing.is_sale and loan.kind == LoanKind.PURCHASE and loan.recorded_on >= before
        if may_have_paid and may_be_lent_to(loan, passing.grantee, [passing.grantor, *grantees]):
            continue
        if any(event.kind == LoanEventKind.ASSUMPTION and event.recorded_on >= before for event in events):
            continue
        return passing
    return None


def _end(standing: LoanState, events: Sequence[LoanEvent], passings: Sequence[Passing], today: date) -> LoanState:
    """Return a standing with whatever ended it first."""
    ends: list[tuple[date, Ended, tuple[str, int] | None]] = [
        (event.recorded_on, Ended.RELEASED, ("loan-event", event.key)) for event in events if event.kind == LoanEventKind.RELEASE
    ]
    if passing := _passing(standing.loan, events, passings):
        ends.append((passing.recorded_on, Ended.SOLD if passing.is_sale else Ended.LOST, ("deed", passing.key)))
    if standing.matures_on <= today:
        ends.append((standing.matures_on, Ended.MATURED, None))
    if not ends:
        return standing
    day, why, by = min(ends, key=lambda end: end[0])
    return replace(standing, ended_on=max(day, standing.loan.recorded_on), ended=why, ended_by=by)


def _is_first_lien(standing: LoanState) -> bool:
    return standing.loan.kind not in (LoanKind.SECOND, LoanKind.CREDIT_LINE)


def loan_states(
    loans: Iterable[Loan], events: Mapping[str, Sequence[LoanEvent]], passings: Iterable[Passing], today: date
) -> tuple[LoanState, ...]:
    """Return how each of a parcel's loans stands, in the order of their recording.

    A loan ends with its release, its maturity, an arm's-length sale or foreclosure deed (unless assumed), or a refinance by
    the same owner for at least four fifths of what is owed; second mortgages and credit lines are not replaced so, and
    purchase loans of one day only together.
    ``events`` are by the loan's number.
    """
    ended_by_deed = sorted(passings)
    found: list[LoanState] = []
    for loan in sorted(loans, key=lambda loan: (loan.recorded_on, loan.key)):
        of_loan = events.get(loan.number, ()) if loan.number else ()
        standing = _end(_loan_state(loan, of_loan), of_loan, ended_by_deed, today)
        if loan.kind == LoanKind.REFINANCE and loan.amount is not None:
            _replace_before(found, loan)
        found.append(standing)
    return tuple(found)


def _replace_before(found: list[LoanState], refinance: Loan) -> None:
    """End the financing that a refinance replaces: the latest first lien that is open when it is recorded.

    Purchase loans of one day are one financing: the refinance closes all of them or none.
    """
    day = refinance.recorded_on
    # What is released within days of the refinance was open until then.
    open_ones = [place for place, before in enumerate(found) if _is_first_lien(before) and before.is_open_on(day)]
    if not open_ones:
        return
    last = found[open_ones[-1]].loan
    together = [place for place in open_ones if _are_one_financing(found[place].loan, last)]
    is_whole = all(found[place].loan.covered.others == refinance.covered.others for place in together)
    owed = [found[place].whole_owed_on(day) if is_whole else found[place].owed_on(day) for place in together]
    lent = refinance.amount if is_whole else refinance.amount_of_one
    if lent is None or None in owed or lent < REPLACING_SHARE * sum(filter(None, owed), Decimal(0)):
        return
    for place in together:
        found[place] = replace(found[place], ended_on=day, ended=Ended.REPLACED, ended_by=("loan", refinance.key))


def _are_one_financing(one: Loan, other: Loan) -> bool:
    return one is other or (one.kind == other.kind == LoanKind.PURCHASE and one.recorded_on == other.recorded_on)


def owed_on(found: Iterable[LoanState], day: date) -> Decimal | None:
    """Return the dollars owed on all loans open on a day, not rounded; None when the amount of one of them is not recorded."""
    total = Decimal(0)
    for one in found:
        if one.is_open_on(day):
            owed = one.owed_on(day)
            if owed is None:
                return None
            total += owed
    return total
