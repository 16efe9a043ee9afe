"""What has come about of a property since it was put on a list, its passing to somebody else apart (``ownership.passing``)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.market.on_market import OFFERED, UNSOLD
from jaded_ledger.core.ownership.kinds import OwnerKind


class SinceAdded(StrEnum):
    """What has come about."""

    LISTED = "listed now"
    OFF_MARKET = "came off the market"
    DIED = "estate opened"
    PAID_UP = "tax paid up"


@dataclass(frozen=True)
class StateThen:
    """How a property stood when it was put on a list. None is unknown, for the status also that it was never listed."""

    added_on: date
    status: StandardStatus | None
    tax_due: int | None
    owner_kind: OwnerKind | None


@dataclass(frozen=True)
class StateNow:
    """How it stands now. ``probate`` is when the newest open case of an estate was filed."""

    status: StandardStatus | None
    status_since: date | None
    tax_due: int | None
    owner_kind: OwnerKind | None
    probate: date | None


def changes_since(then: StateThen, now: StateNow) -> Iterator[SinceAdded]:
    """Yield what has come about of a property since it was put on a list.

    >>> then = StateThen(date(2026, 1, 1), None, 900, OwnerKind.INDIVIDUAL)
    >>> list(changes_since(then, StateNow(StandardStatus.ACTIVE, date(2026, 3, 1), 0, OwnerKind.ESTATE, None)))
    [<SinceAdded.LISTED: 'listed now'>, <SinceAdded.DIED: 'estate opened'>, <SinceAdded.PAID_UP: 'tax paid up'>]
    """
    was_offered = then.status in OFFERED
    if now.status in OFFERED and not was_offered:
        yield SinceAdded.LISTED
    if now.status in UNSOLD and (was_offered or (now.status_since is not None and now.status_since > then.added_on)):
        yield SinceAdded.OFF_MARKET
    has_died = now.owner_kind is OwnerKind.ESTATE and then.owner_kind is not None and then.owner_kind is not OwnerKind.ESTATE
    if has_died or (now.probate is not None and now.probate > then.added_on):
        yield SinceAdded.DIED
    if then.tax_due is not None and then.tax_due > 0 and now.tax_due == 0:
        yield SinceAdded.PAID_UP
