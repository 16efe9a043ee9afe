"""What a saved search finds, kept with the days on which parcels came and went, and what changed about those that stayed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.versions import facts_version
from jaded_ledger.searches.followed_lists import follow_up
from jaded_ledger.searches.models import Change, Match, SavedSearch
from jaded_ledger.searches.services import current_version, page_of

WATCHED = ("status", "list-price", "owner-name", "foreclosure-stage", "auction")
"""Traits of which it is told that they changed: what somebody would write or call about."""
_AT_ONCE = 5_000


def _state(version: int, scope: Scope) -> str:
    """Return what tells one reckoning from another: nothing changed where it is the same."""
    return f"{version} {facts_version()} {scope.today} {scope.team.version}"


def _kept(trait: Trait, value: Any) -> Any:
    if trait.kind is Kind.CHOICE:
        return trait.choice_by_code(value).key
    return value.isoformat() if trait.kind is Kind.DATE else value


def _watched(parcels: QuerySet[ParcelFacts]) -> dict[int, dict[str, Any]]:
    """Return what is watched of some parcels, by parcel: figures, words, days as ISO 8601. What is not known is left out."""
    traits = [CATALOGUE[key] for key in WATCHED]
    columns = [f"{trait.fact}__text" if trait.kind is Kind.NAME else trait.fact for trait in traits]
    found: dict[int, dict[str, Any]] = {}
    for pk, *values in parcels.order_by().values_list("pk", *columns):
        found[pk] = {trait.key: _kept(trait, value) for trait, value in zip(traits, values, strict=True) if value is not None}
    return found


@transaction.atomic
def reckon(saved: SavedSearch, scope: Scope) -> Answer:
    """Bring a search's matches up to date and return its answer: who came, who went, what changed. Raises CriteriaError.

    Several at once wait for one another; whoever comes second finds nothing to do.
    """
    version = current_version(saved)
    answer = Answer(page_of(version, scope), scope)
    locked = SavedSearch.objects.select_for_update().get(pk=saved.pk)
    state = _state(version.number, scope)
    if locked.reckoned == state:
        return answer
    # Of another version than the one before, what comes and goes does so because the search was edited.
    is_edited = locked.reckoned.partition(" ")[0] != str(version.number)
    at = now()
    there = _watched(compile(answer.asked.search, scope).matches)
    kept = {match.parcel_id: match for match in Match.objects.filter(search=saved, left_at=None)}
    gone = [match.pk for parcel, match in kept.items() if parcel not in there]
    Match.objects.filter(pk__in=gone).update(left_at=at, left_by_edit=is_edited)
    fresh = (
        Match(search=saved, parcel_id=pk, entered_at=at, by_edit=is_edited, watched=seen) for pk, seen in there.items() if pk not in kept
    )
    Match.objects.bulk_create(fresh, batch_size=_AT_ONCE)
    changed = [match for parcel, match in kept.items() if parcel in there and match.watched != there[parcel]]
    Change.objects.bulk_create([Change(match=match, at=at, before=match.watched) for match in changed], batch_size=_AT_ONCE)
    for match in changed:
        match.watched = there[match.parcel_id]
    Match.objects.bulk_update(changed, ["watched"], batch_size=_AT_ONCE)
    locked.reckoned = state
    locked.save(update_fields=["reckoned"])
    # What follows does so to the row: who added it, and took it off, is told by its list.
    follow_up(saved, there.keys(), answer.asked, replace(scope, user=None))
    return answer


def reckon_if_askable(saved: SavedSearch, scope: Scope) -> bool:
    """Bring a search's matches up to date, and return whether it could be asked.

    It is called right after a search was changed, too: what comes later would be taken for what the change brought.
    """
    try:
        reckon(saved, scope)
    except CriteriaError:
        return False
    return True


def reckon_all() -> int:
    """Bring the matches of every saved search up to date; return how many could be asked."""
    every = SavedSearch.objects.filter(deleted_at=None).select_related("team", "owner")
    return sum(reckon_if_askable(one, Scope(one.team, one.owner, today(one.team.time_zone))) for one in every)


@dataclass(frozen=True)
class News:
    """What came, went and changed about a saved search since a moment; nothing, where it was never opened before (``since`` is None)."""

    since: datetime | None
    new: QuerySet[Match]
    gone: QuerySet[Match]
    changed: QuerySet[Match]

    @property
    def by_kind(self) -> dict[str, QuerySet[Match]]:
        return {"new": self.new, "gone": self.gone, "changed": self.changed}

    @property
    def counts(self) -> NewsCounts:
        return NewsCounts(self.since, {key: rows.count() for key, rows in self.by_kind.items()} if self.since else {})


@dataclass(frozen=True)
class NewsCounts:
    """How many came, went and changed since a moment, by ``new``, ``gone`` and ``changed``."""

    since: datetime | None
    of: dict[str, int]

    @property
    def some(self) -> list[tuple[str, int]]:
        """What there is any of."""
        return [(key, count) for key, count in self.of.items() if count]


def news_of(saved: SavedSearch, since: datetime | None) -> News:
    """Return what is new since a moment. What came and went in between is no news, nor is what an edit of the search brought or took."""
    every = Match.objects.filter(search=saved).select_related("parcel")
    if since is None:
        return News(None, every.none(), every.none(), every.none())
    still = Match.objects.filter(search=saved, left_at=None).values("parcel")
    before = Match.objects.filter(search=saved, entered_at__lte=since).filter(Q(left_at=None) | Q(left_at__gt=since)).values("parcel")
    here = every.filter(left_at=None)
    return News(
        since,
        # A parcel that went and came back has been there before.
        here.filter(by_edit=False, entered_at__gt=since).filter(~Q(parcel__in=before)),
        every.filter(left_at__gt=since, left_by_edit=False, entered_at__lte=since).filter(~Q(parcel__in=still)),
        here.filter(entered_at__lte=since, pk__in=Change.objects.filter(match__search=saved, at__gt=since).values("match")),
    )


@dataclass(frozen=True)
class Changed:
    """One watched trait of a match that is another than it was, as the page shows it."""

    label: str
    before: str
    now: str


def changes_of(match: Match, since: datetime) -> list[Changed]:
    """Return what is watched of a match and has changed since a moment."""
    first = match.changes.filter(at__gt=since).first()
    if first is None:
        return []
    pairs = [(CATALOGUE[key], first.before.get(key), match.watched.get(key)) for key in WATCHED]
    return [Changed(trait.label, _shown(trait, before), _shown(trait, after)) for trait, before, after in pairs if before != after]


def _shown(trait: Trait, kept: Any) -> str:
    return shown(trait, date.fromisoformat(kept) if kept is not None and trait.kind is Kind.DATE else kept)
