"""What is new about one parcel in a watched search between two moments: new, cheaper, changed, back or gone."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

Watched = Mapping[str, Any]
"""What is watched of a parcel, by trait: figures, words, days as ISO 8601. What is not known is not in it."""
ON_MARKET = frozenset({"active", "coming-soon"})
STATUS, PRICE = "status", "list-price"


class NewsKind(StrEnum):
    """What is new, in the order in which it is read."""

    NEW = "new"
    CHEAPER = "cheaper"
    CHANGED = "changed"
    BACK = "back"
    GONE = "gone"


@dataclass(frozen=True)
class Stay:
    """A time in which a parcel matched. ``watched`` is as it was last, ``changes`` what it was before each, oldest first."""

    entered_at: datetime
    left_at: datetime | None
    watched: Watched
    changes: tuple[tuple[datetime, Watched], ...] = ()
    by_edit: bool = False
    left_by_edit: bool = False
    key: int = 0
    """Which record of it this is, for whoever keeps them."""

    def is_at(self, moment: datetime) -> bool:
        return self.entered_at <= moment and (self.left_at is None or self.left_at > moment)

    def watched_at(self, moment: datetime) -> Watched:
        """Return what was watched at a moment."""
        return next((before for at, before in self.changes if at > moment), self.watched)


@dataclass(frozen=True)
class News:
    """What is new about a parcel: since when, and what is watched of it that is other than it was."""

    kind: NewsKind
    at: datetime
    stay: Stay
    before: Watched
    after: Watched

    def differs(self, traits: Collection[str]) -> list[str]:
        """Return of which traits another value is watched than before; for what was in the search all the while."""
        return [] if self.kind in (NewsKind.NEW, NewsKind.GONE) else [one for one in traits if self.before.get(one) != self.after.get(one)]


def _same_stay(before: Stay, now: Stay, since: datetime, until: datetime, traits: Collection[str]) -> News | None:
    was, is_now = before.watched_at(since), now.watched_at(until)
    if all(was.get(trait) == is_now.get(trait) for trait in traits):
        return None
    at = max((moment for moment, _ in now.changes if since < moment <= until), default=now.entered_at)
    kind, price_before, price = NewsKind.CHANGED, was.get(PRICE), is_now.get(PRICE)
    if STATUS in traits and was.get(STATUS) and was[STATUS] not in ON_MARKET and is_now.get(STATUS) in ON_MARKET:
        kind = NewsKind.BACK
    elif PRICE in traits and price is not None and price_before is not None and price < price_before:
        kind = NewsKind.CHEAPER
    return News(kind, at, now, was, is_now)


def news_between(stays: Sequence[Stay], since: datetime, until: datetime, traits: Collection[str]) -> News | None:
    """Return what is new about a parcel after a moment and up to another; None for nothing.

    ``stays`` are the times in which it matched, oldest first; ``traits`` those of which a change is told. What came and went again in
    between is no news, nor is what an edit of the search brought or took.
    """
    before = next((stay for stay in stays if stay.is_at(since)), None)
    now = next((stay for stay in reversed(stays) if stay.is_at(until)), None)
    if before and now:
        return _same_stay(before, now, since, until, traits)
    if now:
        if now.by_edit:
            return None
        ended = [stay for stay in stays if stay.left_at and stay.left_at <= now.entered_at and not stay.left_by_edit]
        was = ended[-1].watched if ended else {}
        return News(NewsKind.BACK if ended else NewsKind.NEW, now.entered_at, now, was, now.watched_at(until))
    if before and before.left_at:
        last = next(stay for stay in reversed(stays) if stay.left_at and stay.left_at <= until)
        return None if last.left_by_edit else News(NewsKind.GONE, last.left_at or since, last, before.watched_at(since), last.watched)
    return None
