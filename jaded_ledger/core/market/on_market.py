"""How long a property has been offered: status histories, relistings, cuts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from jaded_ledger.core.market.listings import LEASES, StandardStatus

NOT_SHOWN = frozenset({StandardStatus.DELETE, StandardStatus.INCOMPLETE})
ENDED = frozenset({StandardStatus.WITHDRAWN, StandardStatus.CANCELED, StandardStatus.EXPIRED, StandardStatus.CLOSED})
UNSOLD = ENDED - {StandardStatus.CLOSED}
"""The statuses of what left the market without a sale."""
OFFERED = frozenset(StandardStatus) - ENDED - NOT_SHOWN
"""The statuses of what is offered, under contract or on hold."""
ON_MARKET = frozenset({StandardStatus.COMING_SOON, StandardStatus.ACTIVE})
"""The statuses of what can be offered for now."""


class Listing(NamedTuple):
    """A listing as far as the market's figures need it. A tuple, because many are read.

    ``actual_rent`` is what its tenants pay a month, ``scheduled_income`` a year's rent with all of it let. ``key`` tells the row.
    """

    listing_id: str
    source: str
    status: str
    property_type: str
    conditions: str
    list_price: Decimal | None
    original_list_price: Decimal | None
    close_price: Decimal | None
    lease_amount: Decimal | None
    actual_rent: Decimal | None
    scheduled_income: Decimal | None
    listing_contract_date: date | None
    on_market_date: date | None
    purchase_contract_date: date | None
    expiration_date: date | None
    withdrawn_date: date | None
    cancellation_date: date | None
    close_date: date | None
    first_seen_on: date
    office: str = ""
    key: int = 0

    @property
    def begun_on(self) -> date:
        """Return the first day on the market; where a feed gives none, the day on which it was first seen."""
        return self.on_market_date or self.listing_contract_date or self.first_seen_on

    @property
    def is_lease(self) -> bool:
        return self.property_type in LEASES

    @property
    def ended_on(self) -> date | None:
        """Return the day on which it left the market by its own dates; None while it is offered, or where it is not said."""
        return {
            StandardStatus.WITHDRAWN: self.withdrawn_date,
            StandardStatus.CANCELED: self.cancellation_date,
            StandardStatus.EXPIRED: self.expiration_date,
            StandardStatus.CLOSED: self.close_date,
        }.get(StandardStatus(self.status))


class Change(NamedTuple):
    """A change of a listing's status or price."""

    on: date
    field: str
    before: str
    after: str
    key: int = 0


STATUS, PRICE = "StandardStatus", "ListPrice"


@dataclass(frozen=True)
class ActivePeriod:
    """An interval in which a listing was active; ``until`` is None while it is. The first day counts, the last does not."""

    since: date
    until: date | None


def is_past_expiry(listing: Listing, today: date) -> bool:
    """Return whether a listing is still said to be active though it has expired."""
    return listing.status == StandardStatus.ACTIVE and listing.expiration_date is not None and listing.expiration_date < today


def active_periods(listing: Listing, changes: Sequence[Change], today: date = date.min) -> tuple[ActivePeriod, ...]:
    """Return when a listing was active, from its status history and its own dates. ``changes`` are in order.

    By ``today`` one that is active past its expiry has stopped being so on the day of it.
    """
    found: list[ActivePeriod] = []
    status_changes = [change for change in changes if change.field == STATUS]
    status = (status_changes[0].before or StandardStatus.ACTIVE) if status_changes else listing.status
    since: date | None = listing.begun_on
    if not status_changes and listing.status != StandardStatus.ACTIVE:
        if listing.status == StandardStatus.COMING_SOON:
            return ()
        until = listing.purchase_contract_date or listing.ended_on
        return (ActivePeriod(listing.begun_on, max(until, listing.begun_on)),) if until else ()
    for change in status_changes:
        if status == StandardStatus.ACTIVE and since is not None:
            found.append(ActivePeriod(since, max(change.on, since)))
        status, since = change.after, change.on
    if status == StandardStatus.ACTIVE and since is not None:
        expired_on = listing.expiration_date if is_past_expiry(listing, today) else None
        found.append(ActivePeriod(since, max(expired_on, since) if expired_on else None))
    return tuple(found)


@dataclass(frozen=True)
class OnMarket:
    """Days on the market: those of closed periods, and the day since which it is active now."""

    days: int
    since: date | None

    def on(self, day: date) -> int:
        return self.days + ((day - self.since).days if self.since and self.since < day else 0)


def days_on_market(found: Iterable[ActivePeriod]) -> OnMarket:
    """Return the sum of periods; days that two periods share count once.

    >>> days_on_market([ActivePeriod(date(2026, 1, 1), date(2026, 1, 31)), ActivePeriod(date(2026, 1, 21), date(2026, 2, 10))]).days
    40
    """
    days, reached, since = 0, date.min, None
    for period in sorted(found, key=lambda one: one.since):
        if period.until is None:
            since = max(period.since, reached) if since is None else since
            break
        if period.until > reached:
            days += (period.until - max(period.since, reached)).days
            reached = period.until
    return OnMarket(days, since)


def left_market_on(listing: Listing, changes: Sequence[Change]) -> date | None:
    """Return the day on which a listing left the market; None while it is offered or under contract."""
    if listing.status not in ENDED:
        return None
    ends = [change.on for change in changes if change.field == STATUS and change.after == listing.status]
    return ends[-1] if ends else listing.ended_on or listing.begun_on


def cuts(changes: Sequence[Change]) -> tuple[Change, ...]:
    """Return the changes of a listing's price to a lower one."""
    return tuple(change for change in changes if change.field == PRICE and change.before and Decimal(change.after) < Decimal(change.before))


@dataclass(frozen=True)
class Chain:
    """A parcel's latest listing for sale with those before it that it continues, oldest first."""

    listings: tuple[Listing, ...]
    changes: Mapping[str, Sequence[Change]]
    today: date = date.min

    @property
    def latest(self) -> Listing:
        return self.listings[-1]

    def changes_of(self, listing: Listing) -> Sequence[Change]:
        return self.changes.get(listing.listing_id, ())

    def periods_of(self, listing: Listing) -> tuple[ActivePeriod, ...]:
        """Return when one of the listings was active."""
        return active_periods(listing, self.changes_of(listing), self.today)

    @property
    def is_past_expiry(self) -> bool:
        """Whether the latest listing is still said to be active though it has expired."""
        return is_past_expiry(self.latest, self.today)

    @property
    def days(self) -> OnMarket:
        """Days on the market of the latest listing alone."""
        return days_on_market(self.periods_of(self.latest))

    @property
    def cumulative(self) -> OnMarket:
        """Days on the market over all of the chain."""
        return days_on_market(period for listing in self.listings for period in self.periods_of(listing))

    @property
    def cuts(self) -> tuple[Change, ...]:
        """The changes of the latest listing's price to a lower one."""
        return cuts(self.changes_of(self.latest))

    @property
    def status_since(self) -> date | None:
        """Since when the latest listing has its status, as far as the record tells."""
        days = [change.on for change in self.changes_of(self.latest) if change.field == STATUS and change.after == self.latest.status]
        if days:
            return days[-1]
        if self.latest.status in (StandardStatus.PENDING, StandardStatus.ACTIVE_UNDER_CONTRACT):
            return self.latest.purchase_contract_date
        return self.latest.ended_on if self.latest.status in ENDED else self.latest.begun_on


def _by_start(listing: Listing) -> tuple[date, int]:
    return (listing.begun_on, listing.key)


def latest_of(listings: Iterable[Listing], *, lease: bool) -> Listing | None:
    """Return the latest listing for sale, or to let."""
    return max(
        (listing for listing in listings if listing.is_lease is lease and listing.status not in NOT_SHOWN), key=_by_start, default=None
    )


def chain_of(
    listings: Iterable[Listing], changes: Mapping[str, Sequence[Change]], sold_on: Sequence[date], reset_days: int, today: date = date.min
) -> Chain | None:
    """Return a parcel's latest listing for sale with those it continues; None where it was never listed for sale.

    A listing continues the one before while the gap off the market is shorter than the county's reset gap and no sale lies
    between.
    """
    of_sale = sorted((listing for listing in listings if not listing.is_lease and listing.status not in NOT_SHOWN), key=_by_start)
    if not of_sale:
        return None
    found = [of_sale[-1]]
    for before in reversed(of_sale[:-1]):
        following = found[0]
        left = left_market_on(before, changes.get(before.listing_id, ()))
        if left is not None and ((following.begun_on - left).days >= reset_days or before.status == StandardStatus.CLOSED):
            break
        if any(before.begun_on < day <= following.begun_on for day in sold_on):
            break
        found.insert(0, before)
    return Chain(tuple(found), changes, today)
