"""Which recorded loans are still open, and what is owed on them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from enum import StrEnum
from typing import NamedTuple

from jaded_ledger.core.dates import Length, Unit, shift
from jaded_ledger.core.finance.amortization import balance, payments_due
from jaded_ledger.core.finance.loans import LoanEventKind, LoanKind
from jaded_ledger.core.finance.rates import average_rate

REPLACING_SHARE = Decimal("0.8")
"""A refinance for at least this share of what is owed closes the loan before it; common practice."""
USUAL_TERM = 360
"""Months over which a loan is paid whose record states no term; common practice."""
LENT_BEFORE_DEED = 30
"""A purchase loan recorded up to so many days before its deed belongs to the buyer; common practice."""


class Loan(NamedTuple):
    """A recorded loan. A tuple, because millions are read. ``rate`` is a fraction a year; ``key`` tells the row."""

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
    key: int = 0


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
    key: int = 0


class Ended(StrEnum):
    """Why a loan is no longer open."""

    RELEASED = "released"
    MATURED = "past its maturity"
    SOLD = "paid off at the sale"
    LOST = "wiped out by foreclosure"
    REPLACED = "replaced by a refinance"


@dataclass(frozen=True)
class LoanState:
    """A loan and how it stands: when and why it ended, or that it is open. ``rate`` and ``months`` are those reckoned with.

    ``restarted`` holds the days on which a recorded modification set the principal anew, with that principal.
    ``ended_by`` is the row that tells of the end.
    """

    loan: Loan
    rate: Decimal
    is_rate_assumed: bool
    months: int
    ended_on: date | None = None
    ended: Ended | None = None
    ended_by: tuple[str, int] | None = None
    restarted: tuple[tuple[date, Decimal], ...] = ()

    @property
    def begins_on(self) -> date:
        return self.loan.dated_on or self.loan.recorded_on

    @property
    def is_line(self) -> bool:
        return self.loan.kind == LoanKind.CREDIT_LINE

    @property
    def matures_on(self) -> date:
        return self.loan.matures_on or shift(self.begins_on, Length(self.months, Unit.MONTH), 1)

    def is_open_on(self, day: date) -> bool:
        return self.loan.recorded_on <= day and (self.ended_on is None or day < self.ended_on)

    def owed_on(self, day: date) -> Decimal | None:
        """Return the scheduled balance, whether or not the loan has ended by then; None where no amount is recorded."""
        principal, begins_on, months = self.loan.amount, self.begins_on, self.months
        if principal is None or self.is_line:
            return principal
        for since, amount in self.restarted:
            if since <= day:
                months -= payments_due(begins_on, since)
                principal, begins_on = amount, since
        return balance(principal, self.rate, max(months, 1), payments_due(begins_on, day))


def _loan_state(loan: Loan, events: Iterable[LoanEvent]) -> LoanState:
    months = loan.term_months
    if months is None and loan.matures_on is not None:
        months = payments_due(loan.dated_on or loan.recorded_on, loan.matures_on)
    restarted = tuple(
        sorted(
            (event.recorded_on, event.amount) for event in events if event.kind == LoanEventKind.MODIFICATION and event.amount is not None
        )
    )
    rate = average_rate(loan.recorded_on.year) if loan.rate is None else loan.rate
    return LoanState(loan, rate, loan.rate is None, months or USUAL_TERM, restarted=restarted)


def _passing(loan: Loan, events: Sequence[LoanEvent], passings: Sequence[Passing]) -> Passing | None:
    """Return the transfer that ended a loan: the first after it, unless the buyer took the loan over."""
    for passing in passings:
        if loan.recorded_on >= passing.recorded_on:
            continue
        before = passing.recorded_on - timedelta(LENT_BEFORE_DEED)
        if passing.is_sale and loan.kind == LoanKind.PURCHASE and loan.recorded_on >= before:
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
    the same owner for at least four fifths of what is owed; second mortgages and credit lines are not replaced so.
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
    """End the first lien that a refinance replaces: the latest that is open when it is recorded."""
    day = refinance.recorded_on
    for place in range(len(found) - 1, -1, -1):
        before = found[place]
        # What is released within days of the refinance was open until then.
        if not _is_first_lien(before) or not before.is_open_on(day):
            continue
        owed = before.owed_on(day)
        if owed is not None and refinance.amount is not None and refinance.amount >= REPLACING_SHARE * owed:
            found[place] = replace(before, ended_on=day, ended=Ended.REPLACED, ended_by=("loan", refinance.key))
        return


def owed_on(found: Iterable[LoanState], day: date) -> Decimal | None:
    """Return what is owed on all loans open on a day; None when the amount of one of them is not recorded."""
    total = Decimal(0)
    for one in found:
        if one.is_open_on(day):
            owed = one.owed_on(day)
            if owed is None:
                return None
            total += owed
    return total
