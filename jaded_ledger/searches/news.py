"""What is new in saved searches since a moment: read from when their matches came, went and changed, told by the rule of the core."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from django.db.models import Q

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.watching.news import News, NewsKind, Stay, news_between
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.clock import now
from jaded_ledger.searches.matching import WATCHED
from jaded_ledger.searches.models import Change, Match, SavedSearch

Stays = Mapping[tuple[int, int], list[Stay]]
"""The times in which parcels matched, oldest first, by search and parcel."""


def stays_since(first: Mapping[int, datetime]) -> Stays:
    """Return the times in which parcels matched that something can be new about after a moment, which ``first`` gives for each search."""
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


@dataclass(frozen=True)
class SearchNews:
    """What is new in a saved search, by kind and then by parcel, the latest first. Nothing is where ``since`` is None: never opened."""

    since: datetime | None
    by_kind: Mapping[NewsKind, Mapping[int, News]] = field(default_factory=dict)

    @property
    def counts(self) -> dict[NewsKind, int]:
        """How many there are of each kind, in the order in which they are read; kinds of which there is none are left out."""
        return {kind: len(self.by_kind[kind]) for kind in NewsKind if self.by_kind.get(kind)}

    @property
    def entered(self) -> int:
        """How many are found that were not found then."""
        return self.counts.get(NewsKind.NEW, 0) + sum(not one.stay.is_at(self.since) for one in self._back) if self.since else 0

    @property
    def _back(self) -> list[News]:
        return list(self.by_kind.get(NewsKind.BACK, {}).values())


def news_of_searches(since: Mapping[int, datetime | None]) -> dict[int, SearchNews]:
    """Return what is new in saved searches up to now, each since a moment of its own, by the search's id."""
    until = now()
    stays = stays_since({search: at for search, at in since.items() if at is not None})
    found: dict[int, dict[NewsKind, dict[int, News]]] = defaultdict(lambda: defaultdict(dict))
    for (search, parcel), of_parcel in stays.items():
        at = since[search]
        if at is not None and (news := news_between(of_parcel, at, until, WATCHED)):
            found[search][news.kind][parcel] = news
    return {
        search: SearchNews(at, {kind: dict(sorted(rows.items(), key=_latest_first)) for kind, rows in found[search].items()})
        for search, at in since.items()
    }


def _latest_first(row: tuple[int, News]) -> tuple[float, int]:
    parcel, news = row
    return -news.at.timestamp(), parcel


def news_of(saved: SavedSearch, since: datetime | None) -> SearchNews:
    """Return what is new in one saved search since a moment."""
    return news_of_searches({saved.pk: since})[saved.pk]


@dataclass(frozen=True)
class Changed:
    """One watched trait of a match that is another than it was, as the page shows it."""

    label: str
    before: str
    now: str


def changes_in(news: News) -> list[Changed]:
    """Return what is watched of a parcel and is another than it was."""
    return [
        Changed(CATALOGUE[key].label, _shown(CATALOGUE[key], news.before.get(key)), _shown(CATALOGUE[key], news.after.get(key)))
        for key in news.differs(WATCHED)
    ]


def _shown(trait: Trait, kept: Any) -> str:
    return shown(trait, date.fromisoformat(kept) if kept is not None and trait.kind is Kind.DATE else kept)
