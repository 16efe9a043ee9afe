"""A property's past as lift reads it: all its signs, also of owners before this one, and when it was listed or sold."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date, timedelta

from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.facts.findings import LONG_ON_MARKET, Findings
from jaded_ledger.core.market.on_market import ENDED, NOT_SHOWN, UNSOLD, ActivePeriod, Change, Listing, active_periods, cuts, left_market_on
from jaded_ledger.core.title.holding import Acquired, how_acquired, is_telling

Dated = tuple[SignalKind, date]


def signs_ever(found: Findings) -> tuple[Dated, ...]:
    """Return the days of all signs of distress, open and closed, oldest first.

    What ``findings.signals`` says of the latest listing and the present owner is said here of every listing and every owner:
    otherwise those who sold would be missing among those who had the sign.
    """
    every = {(signal.kind, signal.on) for signal in found.signals}
    every |= {
        (SignalKind.INHERITED, transfer.sold_on)
        for transfer in found.transfers
        if is_telling(transfer) and how_acquired(transfer) is Acquired.INHERITANCE
    }
    for listing in _for_sale(found):
        every |= set(_of_listing(listing, found.record.changes.get(listing.listing_id, ())))
    return tuple(sorted(every, key=lambda one: (one[1], one[0])))


def _for_sale(found: Findings) -> list[Listing]:
    return [listing for listing in found.record.listings if not listing.is_lease and listing.status not in NOT_SHOWN]


def _of_listing(listing: Listing, changes: Sequence[Change]) -> Iterator[Dated]:
    if listing.status in UNSOLD and (left := left_market_on(listing, changes)):
        yield SignalKind.UNSOLD_LISTING, left
    # Of what is still offered ``findings.signals`` tells, its days before a relisting counted too.
    if listing.status in ENDED and (reached := _long_on_market(active_periods(listing, changes))):
        yield SignalKind.LONG_ON_MARKET, reached
    yield from ((SignalKind.PRICE_CUTS, cut.on) for cut in cuts(changes))


def _long_on_market(closed: Iterable[ActivePeriod]) -> date | None:
    """Return the day on which a listing had been on the market for long; None if it never was."""
    days = 0
    for period in closed:
        if period.until is not None:
            if days + (period.until - period.since).days >= LONG_ON_MARKET:
                return period.since + timedelta(days=LONG_ON_MARKET - days)
            days += (period.until - period.since).days
    return None


def outcomes(found: Findings) -> tuple[date, ...]:
    """Return the days on which it was sold at arm's length or put up for sale, each once, in order."""
    return tuple(sorted({*found.sold_on, *(one.begun_on for one in _for_sale(found))}))
