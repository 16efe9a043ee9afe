"""What is new in watched searches, read from when their matches came, went and changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

from jaded_ledger.core.watching.news import News, NewsKind, news_between
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.searches.models import Run
from jaded_ledger.searches.news import Stays, stays_since
from jaded_ledger.watch.models import Mark, Watch


@dataclass(frozen=True)
class Window:
    """A time of which is told what is new."""

    since: datetime
    until: datetime


@dataclass(frozen=True)
class Item:
    """What is new about a parcel in one watched search, and in which others it is."""

    watch: Watch
    parcel_id: int
    news: News
    also: tuple[str, ...] = ()


Windows = Mapping[int, Window]
"""By a watch's key."""


def _stays(watches: Sequence[Watch], windows: Windows) -> Stays:
    first: dict[int, datetime] = {}
    for watch in watches:
        since = windows[watch.pk].since
        first[watch.search_id] = min(since, first.get(watch.search_id, since))
    return stays_since(first)


def _with_others(items: list[Item]) -> list[Item]:
    """Name in each row the other searches that bring the same."""
    by_parcel: dict[int, list[Item]] = defaultdict(list)
    for item in items:
        by_parcel[item.parcel_id].append(item)
    return [
        Item(one.watch, one.parcel_id, one.news, tuple(other.watch.search.name for other in by_parcel[one.parcel_id] if other is not one))
        for one in items
    ]


def _in_reading_order(items: list[Item]) -> list[Item]:
    kinds = list(NewsKind)
    return sorted(items, key=lambda one: (one.watch.search.name.casefold(), one.watch.pk, kinds.index(one.news.kind), one.parcel_id))


def _items(watches: Sequence[Watch], windows: Windows, stays: Stays, marks: Mapping[int, Mark]) -> list[Item]:
    by_search = {search: list(keys) for search, keys in groupby(sorted(stays), key=lambda key: key[0])}
    items = []
    for watch in watches:
        window = windows[watch.pk]
        for key in by_search.get(watch.search_id, ()):
            mark = marks.get(key[1])
            since = max(window.since, mark.told_to) if mark and mark.told_to else window.since
            change = news_between(stays[key], since, window.until, watch.traits) if since < window.until else None
            if change and not (mark and mark.act == Mark.Act.PASSED and change.kind not in _COME_BACK):
                items.append(Item(watch, key[1], change))
    return _in_reading_order(_with_others(items))


def news_in(watches: Sequence[Watch], windows: Windows) -> list[Item]:
    """Return what is new in each watch's window, whether or not somebody has read it, in the order in which it is read."""
    return _items(watches, windows, _stays(watches, windows), {})


_COME_BACK = (NewsKind.CHEAPER, NewsKind.CHANGED, NewsKind.BACK)
"""What brings back a row that was passed."""


def unread(watches: Sequence[Watch], *, mailed: bool = False) -> list[Item]:
    """Return what one user's watches tell that the user has not read; with ``mailed`` what has not been mailed either."""
    windows = {one.pk: Window(max(one.done_to, one.mailed_to) if mailed else one.done_to, one.told_to) for one in watches}
    stays = _stays(watches, windows)
    parcels = {parcel for _, parcel in stays}
    marks = Mark.objects.filter(user__in={one.user_id for one in watches}, parcel__in=among_ids(parcels), told_to__isnull=False)
    latest = marks.order_by("parcel", "-id").distinct("parcel")
    return _items(watches, windows, stays, {mark.parcel_id: mark for mark in latest})


@dataclass(frozen=True)
class EditTold:
    """That a watched search was edited: what it brought or took by that is not told row by row."""

    watch: Watch
    at: datetime
    brought: int
    took: int


def edits_in(watches: Sequence[Watch], windows: Windows) -> list[EditTold]:
    """Return which watched searches were edited, and how many rows that brought and took."""
    found = []
    runs = Run.objects.filter(search__in={one.search_id for one in watches}, is_edit=True, before__isnull=False)
    for run in runs:
        for watch in watches:
            if watch.search_id == run.search_id and windows[watch.pk].since < run.at <= windows[watch.pk].until:
                found.append(EditTold(watch, run.at, run.entered, run.left))
    return found
