"""On which day a parcel's facts change by themselves, nothing new being recorded."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta

from jaded_ledger.core.criteria.dates import Length, Unit, shift
from jaded_ledger.core.facts.basis import SALES_COUNTED
from jaded_ledger.core.facts.findings import INHERITED_FOR, LONG_ON_MARKET, TIRED_AFTER, Findings
from jaded_ledger.core.finance.amortisation import payments_due
from jaded_ledger.core.market.on_market import ENDED

_DAY = timedelta(days=1)


def changes_on(found: Findings) -> date | None:
    """Return the next day on which a fact changes by itself, nothing new being recorded."""
    today = found.today
    return min([day for day in _days_ahead(found) if day > today], default=None)


def _days_ahead(found: Findings) -> Iterator[date]:
    for one in found.open_loans:
        if not one.is_line:
            paid = payments_due(one.begins_on, found.today)
            yield min(shift(one.begins_on, Length(paid + 1, Unit.MONTH), 1), one.matures_on)
            yield one.matures_on
    yield from (one.held_on + _DAY for one in found.record.filed.auctions)
    yield from (shift(one.sold_on, SALES_COUNTED, 1) + _DAY for one in found.recent_sales)
    yield from (one.sold_on for one in found.record.transfers)
    if found.holding:
        yield shift(found.holding.began.sold_on, TIRED_AFTER, 1)
        yield shift(found.holding.by.sold_on, INHERITED_FOR, 1)
    yield from (day for one in found.record.exemptions for day in (one.since, one.until) if day)
    yield from (one.until for one in found.record.rentals if one.until)
    if any(one.due for one in found.record.filed.tax_years):
        yield date(found.today.year + 1, 1, 1)
    if found.chain and found.chain.latest.status not in ENDED and (since := found.chain.cumulative.since):
        yield since + (LONG_ON_MARKET - found.chain.cumulative.days) * _DAY
    yield from (one.held_on for one in found.record.filed.auctions)
