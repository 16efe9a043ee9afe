"""What is new in watched searches, read from when their matches came, went and changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby

from django.db.models import Q

from jaded_ledger.core.watching.news import Kind, News, Stay, news_between
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.searches.models import Change, Match, Run
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


def _stays(watches: Sequence[Watch], windows: Windows) -> dict[tuple[int, int], list[Stay]]:
    """Return the times in which parcels matched that something can be new about, oldest first, by search and parcel."""
    first: dict[int, datetime] = {}
    for watch in watches:
        since = windows[watch.pk].since
        first[watch.search_id] = min(since, first.get(watch.search_id, since))
    if not first:
        return {}
    by_start = {since: [search for search, start in first.items() if start == since] for since in first.values()}
    moved, changed = Q(), Q()
    for since, searches in by_start.items():
        moved |= Q(search__in=searches) & (Q(entered_at__gt=since) | Q(left_at__gt=since))
        changed |= Q(match__search__in=searches, at__gt=since)
    pairs = set(Match.objects.filter(moved).values_list("search_id", "parcel_id"))
    pairs |= set(Change.objects.filter(changed).values_list("match__search_id", "match__parcel_id"))
    parcels = {parcel for _, parcel in pairs}
    rows = Match.objects.filter(search__in=first, parcel__in=among_ids(parcels)).order_by("entered_at", "pk")
    names = ("pk", "search_id", "parcel_id", "entered_at", "left_at", "watched", "by_edit", "left_by_edit")
    matches = [row for row in rows.values_list(*names) if (row[1], row[2]) in pairs]
    changes: dict[int, list[tuple[datetime, dict[str, object]]]] = defaultdict(list)
    found = Change.objects.filter(match__in=among_ids([row[0] for row in matches])).order_by("at", "pk")
    for match, at, before in found.values_list("match_id", "at", "before"):
        changes[match].append((at, before))
    stays: dict[tuple[int, int], list[Stay]] = defaultdict(list)
    for pk, search, parcel, entered_at, left_at, watched, by_edit, left_by_edit in matches:
        stays[search, parcel].append(Stay(entered_at, left_at, watched, tuple(changes[pk]), by_edit, left_by_edit, pk))
    return stays


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
    kinds = list(Kind)
    return sorted(items, key=lambda one: (one.watch.search.name.casefold(), one.watch.pk, kinds.index(one.news.kind), one.parcel_id))


Stays = Mapping[tuple[int, int], list[Stay]]
"""The times in which parcels matched, by search and parcel."""


def _items(watches: Sequence[Watch], windows: Windows, stays: Stays, marks: Mapping[int, Mark]) -> list[Item]:
    by_search = {search: list(keys) for search, keys in groupby(sorted(stays), key=lambda key: key[0])}
    items = []
    for watch in watches:
        window = windows[watch.pk]
        for key in by_search.get(watch.search_id, ()):
            mark = marks.get(key[1])
            since = max(window.since, mark.told_to) if mark and mark.told_to else window.since
            told = news_between(stays[key], since, window.until, watch.traits) if since < window.until else None
            if told and not (mark and mark.act == Mark.Act.PASSED and told.kind not in _COME_BACK):
                items.append(Item(watch, key[1], told))
    return _in_reading_order(_with_others(items))


def news_in(watches: Sequence[Watch], windows: Windows) -> list[Item]:
    """Return what is new in each watch's window, whether or not somebody has read it, in the order in which it is read."""
    return _items(watches, windows, _stays(watches, windows), {})


_COME_BACK = (Kind.CHEAPER, Kind.CHANGED, Kind.BACK)
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
