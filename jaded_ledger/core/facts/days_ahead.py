"""On which day a parcel's facts change by themselves, nothing new being recorded."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

from jaded_ledger.core.dates import CalendarUnit, Length, shift
from jaded_ledger.core.facts.basis import SALES_COUNTED
from jaded_ledger.core.facts.findings import INHERITED_FOR, LONG_ON_MARKET, TIRED_AFTER, Findings
from jaded_ledger.core.finance.amortization import payments_due
from jaded_ledger.core.market.on_market import ENDED

_DAY = timedelta(days=1)


def changes_on(found: Findings) -> date | None:
    """Return the next day on which a fact changes by itself, nothing new being recorded."""
    today = found.today
    return min([day for day in _days_ahead(found) if day > today], default=None)


def _days_ahead(found: Findings) -> Iterator[date]:
    for loan in found.open_loans:
        if not loan.is_line:
            paid = payments_due(loan.begins_on, found.today)
            yield min(shift(loan.begins_on, Length(paid + 1, CalendarUnit.MONTH), 1), loan.matures_on)
            yield loan.matures_on
    yield from (auction.held_on + _DAY for auction in found.record.filed.auctions)
    yield from (shift(sale.sold_on, SALES_COUNTED, 1) + _DAY for sale in found.recent_sales)
    yield from (transfer.sold_on for transfer in found.record.transfers)
    if found.holding:
        yield shift(found.holding.began.sold_on, TIRED_AFTER, 1)
        yield shift(found.holding.by.sold_on, INHERITED_FOR, 1)
    yield from (day for exemption in found.record.exemptions for day in (exemption.since, exemption.until) if day)
    yield from (rental.until for rental in found.record.rentals if rental.until)
    if found.chain and found.chain.latest.status not in ENDED and (since := found.chain.cumulative.since):
        yield since + (LONG_ON_MARKET - found.chain.cumulative.days) * _DAY
    if found.chain and found.chain.latest.expiration_date:
        yield found.chain.latest.expiration_date + _DAY
    yield from (auction.held_on for auction in found.record.filed.auctions)
