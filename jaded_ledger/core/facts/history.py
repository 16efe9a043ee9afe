"""A property's past as lift reads it: all its signs, also of owners before this one, and when it was listed or sold."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from datetime import date, timedelta

from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.facts.findings import LONG_ON_MARKET, Findings
from jaded_ledger.core.market.on_market import ENDED, NOT_SHOWN, UNSOLD, Change, Listing, Spell, cuts, left_market_on, spells
from jaded_ledger.core.ownership.holding import Acquired, how_acquired, is_telling

Dated = tuple[SignalKind, date]


def signs_ever(found: Findings) -> tuple[Dated, ...]:
    """Return the days of all signs of distress, open and closed, oldest first.

    What ``findings.signals`` says of the latest listing and the present owner is said here of every listing and every owner:
    otherwise those who sold would be missing among those who had the sign.
    """
    every = {(one.kind, one.on) for one in found.signals}
    every |= {
        (SignalKind.INHERITED, one.sold_on) for one in found.transfers if is_telling(one) and how_acquired(one) is Acquired.INHERITANCE
    }
    for listing in _for_sale(found):
        every |= set(_of_listing(listing, found.record.changes.get(listing.listing_id, ())))
    return tuple(sorted(every, key=lambda one: (one[1], one[0])))


def _for_sale(found: Findings) -> list[Listing]:
    return [one for one in found.record.listings if not one.is_lease and one.status not in NOT_SHOWN]


def _of_listing(listing: Listing, changes: Sequence[Change]) -> Iterator[Dated]:
    if listing.status in UNSOLD and (left := left_market_on(listing, changes)):
        yield SignalKind.UNSOLD_LISTING, left
    # Of what is still offered ``findings.signals`` tells, its days before a relisting counted too.
    if listing.status in ENDED and (reached := _long_on_market(spells(listing, changes))):
        yield SignalKind.LONG_ON_MARKET, reached
    yield from ((SignalKind.PRICE_CUTS, one.on) for one in cuts(changes))


def _long_on_market(closed: Iterable[Spell]) -> date | None:
    """Return the day on which a listing had been on the market for long; None if it never was."""
    days = 0
    for spell in closed:
        if spell.until is not None:
            if days + (spell.until - spell.since).days >= LONG_ON_MARKET:
                return spell.since + timedelta(days=LONG_ON_MARKET - days)
            days += (spell.until - spell.since).days
    return None


def outcomes(found: Findings) -> tuple[date, ...]:
    """Return the days on which it was sold at arm's length or put up for sale, each once, in order."""
    return tuple(sorted({*found.sold_on, *(one.begun_on for one in _for_sale(found))}))
