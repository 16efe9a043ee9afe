"""A property's debt as a ledger: what each document adds or takes off, scheduled principal as lines of its own, and the value beside it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from enum import IntEnum

from jaded_ledger.core.distress.signals import Lien
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.finance.amortization import payments_due
from jaded_ledger.core.finance.debts import Ended, LoanState, Restart, owed_on

Row = tuple[str, int]
_YEAR = 365


class MovementOrder(IntEnum):
    """In which order movements of one day are set down.

    What was paid by schedule up to today comes after all else of the day: tomorrow it is set down then, and the day's lines stay.
    """

    PRINCIPAL = 1
    PAID = 2
    LENT = 3
    CLAIMED = 4
    TAXED = 5
    UP_TO_TODAY = 99


@dataclass(frozen=True)
class Movement:
    """What adds to the debt or takes from it. ``row`` is the kind and key of the row that says so; None for what is computed.

    ``debit`` or ``credit`` is None where the amount is not known: the debt is then unknown until it is taken off again.
    """

    on: date
    place: MovementOrder
    label: str
    debit: Decimal | None = Decimal(0)
    credit: Decimal | None = Decimal(0)
    row: Row | None = None
    note: str = ""


@dataclass(frozen=True)
class Balance:
    """The debt after some movement, the value that day and what of it is the owner's own; None is unknown."""

    debt: Decimal | None
    value: Decimal | None

    @property
    def equity(self) -> Decimal | None:
        return None if self.debt is None or self.value is None else self.value - self.debt


def _principal(state: LoanState, before: Decimal | None, begun: date, days: Sequence[date], today: date | None) -> Iterator[Movement]:
    """Yield what was paid off by schedule since a day up to each of some days, those on which the debt moves otherwise.

    ``today`` is the last of them where nothing but the schedule moves the debt then.
    """
    paid_before = payments_due(state.begins_on, begun)
    for day in days:
        owed = state.owed_on(day)
        if before is None or owed is None or state.is_line:
            return
        paid = min(payments_due(state.begins_on, day), state.months)
        if owed < before:
            label = f"Principal by schedule, {state.loan.recorded_on.year}"
            place = MovementOrder.UP_TO_TODAY if day == today else MovementOrder.PRINCIPAL
            yield Movement(day, place, label, credit=before - owed, note=f"{paid - paid_before} payments")
        before, paid_before = owed, paid


def _restarted(before: Decimal | None, after: Decimal | None, restart: Restart) -> Iterator[Movement]:
    """Yield what a modification or partial release does to the balance of a loan, from known to unknown and back as well."""
    row = ("loan-event", restart.key)
    if before is not None and after is not None:
        debit, credit = max(after - before, Decimal(0)), max(before - after, Decimal(0))
        yield Movement(restart.on, MovementOrder.PAID, "", debit, credit, row)
    elif before is not None:
        yield Movement(restart.on, MovementOrder.PAID, "Balance before a partial release", credit=before, note="its amount is not recorded")
        yield Movement(restart.on, MovementOrder.LENT, "", debit=None, row=row)
    elif after is not None:
        yield Movement(restart.on, MovementOrder.PAID, "Balance that was not known", credit=None)
        yield Movement(restart.on, MovementOrder.LENT, "", debit=after, row=row)


def _stages(state: LoanState, turns: Sequence[date], last: date) -> Iterator[Movement]:
    """Yield what moves an open loan's balance up to a day: scheduled principal, and the instruments that set the principal anew."""
    begun, before = state.loan.recorded_on, state.loan.amount_of_one
    for place in range(len(state.restarts) + 1):
        stage = replace(state, restarts=state.restarts[:place])
        restart = state.restarts[place] if place < len(state.restarts) else None
        until = min(restart.on, last) if restart else last
        is_last = until == last and (restart is None or restart.on > last)
        today = last if is_last and state.ended_on != last and last not in turns else None
        yield from _principal(stage, before, begun, sorted({day for day in (*turns, until) if begun < day <= until}), today)
        if restart is None or restart.on > last:
            return
        begun, after = restart.on, state.loan.covered.part_of(restart.principal)
        yield from _restarted(stage.owed_on(restart.on), after, restart)
        before = after


def _year_apart(turns: Iterable[date], shown_on: Iterable[date]) -> list[date]:
    """Return turns in order, with those other days on which the debt is shown that lie a year or more after the one before."""
    fixed = set(turns)
    found: list[date] = []
    for day in sorted(fixed | set(shown_on)):
        if day in fixed or not found or (day - found[-1]).days >= _YEAR:
            found.append(day)
    return found


def _loans(found: Findings, shown_on: Iterable[date]) -> Iterator[Movement]:
    turned = (day for state in found.loans for day in (state.loan.recorded_on, state.ended_on) if day and day <= found.today)
    turns = _year_apart(turned, (day for day in shown_on if day <= found.today))
    for state in found.loans:
        loan, end = state.loan, state.ended_on
        yield Movement(loan.recorded_on, MovementOrder.LENT, "", debit=loan.amount_of_one, row=("loan", loan.key))
        last = found.today if end is None or end > found.today else end
        yield from _stages(state, turns, last)
        if end is None or end > found.today:
            continue
        owed = state.owed_on(end)
        if state.ended is Ended.RELEASED:
            yield Movement(end, MovementOrder.PAID, "", credit=owed, row=state.ended_by)
        elif owed is None or owed:
            yield Movement(end, MovementOrder.PAID, f"{loan.recorded_on.year} loan {state.ended}", credit=owed, note="reckoned")


def _contracts(found: Findings) -> Iterator[Movement]:
    """Yield what is owed to sellers who financed a sale, of which no document tells how much."""
    for sale, ended_by in found.contracts:
        yield Movement(sale.recorded_on, MovementOrder.LENT, "Owed to the seller", debit=None, note="how much is not recorded")
        if ended_by:
            label = "Seller’s contract " + ("fulfilled" if ended_by.is_fulfillment else "over")
            yield Movement(ended_by.recorded_on, MovementOrder.PAID, label, credit=None, note="how much was owed is not recorded")


def _paid_on(found: Findings, lien: Lien) -> date | None:
    """Return the day on which a lien was released, or paid from the price of a sale; None while it is open."""
    if lien.released_on is not None:
        return lien.released_on
    return min((day for day in found.sold_on if day >= lien.recorded_on), default=None)


def _liens(found: Findings) -> Iterator[Movement]:
    for lien in found.record.filed.liens:
        yield Movement(lien.recorded_on, MovementOrder.CLAIMED, "", debit=lien.amount, row=("lien", lien.key))
        paid = _paid_on(found, lien)
        if lien.released_on is not None:
            yield Movement(lien.released_on, MovementOrder.PAID, "", credit=lien.amount, row=("lien-release", lien.key))
        elif paid is not None:
            label = f"{lien.kind.replace('-', ' ').capitalize()} lien paid from the price"
            yield Movement(paid, MovementOrder.PAID, label, credit=lien.amount, note="reckoned")


def _taxed_on(found: Findings) -> date | None:
    """Return the day as of which taxes are due with interest: that through which bills are on file."""
    through = found.county.through.get("tax-years")
    return through and min(through, found.today)


def _taxes(found: Findings) -> Iterator[Movement]:
    if day := _taxed_on(found):
        for year in found.delinquent:
            yield Movement(day, MovementOrder.TAXED, "", debit=year.due, row=("tax-year", year.key))


def debt_on(found: Findings, day: date) -> Decimal | None:
    """Return what is owed on a day, loans by their schedule; None when an amount among them is not recorded."""
    owed = owed_on(found.loans, day)
    liens = [
        lien for lien in found.record.filed.liens if lien.recorded_on <= day and ((paid := _paid_on(found, lien)) is None or day < paid)
    ]
    is_owed_to_seller = any(
        sale.recorded_on <= day and (ended_by is None or day < ended_by.recorded_on) for sale, ended_by in found.contracts
    )
    if owed is None or is_owed_to_seller or any(lien.amount is None for lien in liens):
        return None
    taxed = _taxed_on(found)
    due = sum((year.due or Decimal(0) for year in found.delinquent), Decimal(0)) if taxed and day >= taxed else Decimal(0)
    return owed + sum((lien.amount or Decimal(0) for lien in liens), Decimal(0)) + due


def movements(found: Findings, shown_on: Iterable[date] = ()) -> list[Movement]:
    """Return all that moves a parcel's debt up to today, in order. Their debits less their credits are what is owed.

    Principal is set down whenever a loan begins or ends, today, and on those days on which the debt is shown beside something
    else, at most once a year.
    """
    every = (*_loans(found, shown_on), *_contracts(found), *_liens(found), *_taxes(found))
    return sorted(every, key=lambda movement: (movement.on, movement.place))


@dataclass(frozen=True)
class DatedValue:
    """A day on which the value is told, by a sale's price, a tax year's market value, or the estimate."""

    on: date
    value: Decimal


def dated_values(found: Findings) -> list[DatedValue]:
    """Return the days on which the value is on record, in order.

    The estimate is dated by the last day that the county's files reach: dated today, it would change past values with each day that passes.
    """
    by_day = {sale.sold_on: price for sale in found.sales if (price := sale.price_of_one)}
    for year in found.record.filed.tax_years:
        if year.market_value:
            by_day.setdefault(date(year.year, 1, 1), year.market_value)
    if found.estimate:
        reached = max((day for day in found.county.through.values() if day and day <= found.today), default=found.today)
        by_day.setdefault(reached, found.estimate.value)
    return [DatedValue(day, value) for day, value in sorted(by_day.items()) if day <= found.today]


def value_on(known: Sequence[DatedValue], day: date) -> Decimal | None:
    """Return the value on a day: between two days on which it is told, in proportion to time; None before the first.

    >>> value_on([DatedValue(date(2020, 1, 1), Decimal(100)), DatedValue(date(2020, 1, 11), Decimal(200))], date(2020, 1, 6))
    Decimal('150.0')
    """
    before = [balance for balance in known if balance.on <= day]
    after = [balance for balance in known if balance.on > day]
    if not before:
        return None
    last = before[-1]
    if not after:
        return last.value
    following = after[0]
    share = Decimal((day - last.on).days) / (following.on - last.on).days
    return last.value + (following.value - last.value) * share


class Running:
    """The debt as movements are set down one after another. While an amount among the open ones is unknown, so is the debt."""

    def __init__(self) -> None:
        self._debt, self._unknown = Decimal(0), 0

    def take(self, movement: Movement) -> None:
        if movement.debit is None:
            self._unknown += 1
        elif movement.credit is None:
            self._unknown -= 1
        else:
            self._debt += movement.debit - movement.credit

    @property
    def debt(self) -> Decimal | None:
        return None if self._unknown else self._debt
