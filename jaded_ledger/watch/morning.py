"""The morning of one user: the rows that wait, which is shown, and what is done with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Count, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.watching.news import NewsKind
from jaded_ledger.find.compiler import compile
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.models import Activity, ParcelList
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.matching import scope_of_search
from jaded_ledger.searches.services import current_version, page_of
from jaded_ledger.watch.acts import NOTES
from jaded_ledger.watch.models import Mark, PropertyNote, Watch
from jaded_ledger.watch.news import EditTold, Item, Window, edits_in, news_in, unread
from jaded_ledger.watch.watching import WatchError, watches_of

TODAY, YESTERDAY, WEEK = "", "yesterday", "week"
LATE = timedelta(hours=1)
READ = (Mark.Act.LOOKED, Mark.Act.KEPT, Mark.Act.PASSED)


@dataclass(frozen=True)
class WatchedRows:
    """A watched search with its rows of the morning, and how many of each kind."""

    watch: Watch
    items: tuple[Item, ...]

    @property
    def is_late(self) -> bool:
        """Whether it was to be told an hour ago and was not: it can't be asked any more, or the worker stands still."""
        return self.watch.is_due(now() - LATE)

    @property
    def why_late(self) -> str:
        """Return why it was not run in time: its search can't be asked, or nobody asks it."""
        scope = scope_of_search(self.watch.search)
        try:
            compile(page_of(current_version(self.watch.search), scope).search, scope)
        except CriteriaError as error:
            return str(error)
        return "the background worker is not running; tell whoever runs this installation"

    @property
    def counts(self) -> list[tuple[NewsKind, int]]:
        found = [(kind, sum(one.news.kind is kind for one in self.items)) for kind in NewsKind]
        return [(kind, count) for kind, count in found if count]


@dataclass(frozen=True)
class Morning:
    """What a user's watched searches tell: ``items`` in the order in which they are read, ``edits`` of searches beside them."""

    watches: tuple[Watch, ...]
    items: tuple[Item, ...]
    edits: tuple[EditTold, ...]

    @property
    def searches(self) -> list[WatchedRows]:
        return [WatchedRows(watch, tuple(one for one in self.items if one.watch.pk == watch.pk)) for watch in self.watches]

    @property
    def is_updating(self) -> bool:
        """Whether a watched search is to run now and has not yet, without being late."""
        return any(one.is_due(now()) and not one.is_due(now() - LATE) for one in self.watches)

    @property
    def left(self) -> int:
        """How many properties wait."""
        return len({one.parcel_id for one in self.items})

    def without(self, parcel: int) -> Morning:
        """Return what waits when a property was read: to ask for all of it anew takes long where thousands wait."""
        return replace(self, items=tuple(one for one in self.items if one.parcel_id != parcel))

    def place_of(self, watch: int | None, kind: str, parcel: int | None) -> int | None:
        """Return which item an address means: that row, else that property, else the first of that kind, of that search, of all."""
        wanted: list[Callable[[Item], bool]] = [
            lambda one: (one.watch.pk, one.parcel_id) == (watch, parcel),
            lambda one: one.parcel_id == parcel,
            lambda one: (one.watch.pk, one.news.kind) == (watch, kind),
            lambda one: one.watch.pk == watch,
            lambda one: True,
        ]
        for fits in wanted:
            if found := [place for place, one in enumerate(self.items) if fits(one)]:
                return found[0]
        return None


def _begin_of(day: date, zone: str) -> datetime:
    return datetime.combine(day, time(), ZoneInfo(zone))


def _windows(watches: Sequence[Watch], when: str, scope: Scope) -> dict[int, Window]:
    """Return of which time each watch tells."""
    if when == TODAY:
        return {one.pk: Window(one.done_to, one.told_to) for one in watches}
    begin = _begin_of(scope.today - timedelta(1 if when == YESTERDAY else 7), scope.team.time_zone)
    end = _begin_of(scope.today, scope.team.time_zone) if when == YESTERDAY else now()
    return {one.pk: Window(max(begin, one.began_at), max(min(end, one.told_to), one.began_at)) for one in watches}


def morning_of(scope: Scope, when: str = TODAY) -> Morning:
    """Return what waits for a user; of yesterday or the last week what there was, read or not."""
    watches = list(watches_of(scope).filter(paused_at=None))
    windows = _windows(watches, when, scope)
    items = unread(watches) if when == TODAY else news_in(watches, windows)
    return Morning(tuple(watches), tuple(items), tuple(edits_in(watches, windows)))


def tally_of(scope: Scope) -> dict[str, int]:
    """Return how many rows a user has read today, kept and passed."""
    begin = _begin_of(scope.today, scope.team.time_zone)
    marks = Mark.objects.filter(user=scope.user, made_at__gte=begin).order_by().values("act").annotate(count=Count("pk"))
    counts = {one["act"]: one["count"] for one in marks}
    return {"read": sum(counts.get(act, 0) for act in READ), **{act.value: counts.get(act, 0) for act in READ}}


def _mark(scope: Scope, parcel: Parcel, act: Mark.Act, told_to: datetime | None, **more: object) -> Mark:
    assert scope.user is not None
    return Mark.objects.create(user=scope.user, parcel=parcel, act=act, told_to=told_to, made_at=now(), **more)


def look(scope: Scope, parcel: Parcel, told_to: datetime) -> Mark:
    """Note that a row was read."""
    return _mark(scope, parcel, Mark.Act.LOOKED, told_to)


def pass_over(scope: Scope, parcel: Parcel, told_to: datetime, reason: str) -> Mark:
    """Note that a row is of no interest until something that is watched of it changes."""
    return _mark(scope, parcel, Mark.Act.PASSED, told_to, reason=" ".join(reason.split())[:200])


@transaction.atomic
def keep(scope: Scope, parcel: Parcel, told_to: datetime, to: ParcelList) -> Mark:
    """Put a row on a list. Raises ListError."""
    return _mark(scope, parcel, Mark.Act.KEPT, told_to, activity=lists.add(scope, to, [parcel.pk]))


@transaction.atomic
def tag(scope: Scope, parcel: Parcel, name: str) -> Activity | None:
    """Put a tag on a row. Raises ListError."""
    done = lists.tag(scope, name, [parcel.pk])
    if done:
        _mark(scope, parcel, Mark.Act.TAGGED, None, activity=done)
    return done


@transaction.atomic
def set_stage(scope: Scope, parcel: Parcel, name: str) -> Activity | None:
    """Set the stage of a row. Raises ListError."""
    done = lists.set_stage(scope, name, [parcel.pk])
    if done:
        _mark(scope, parcel, Mark.Act.STAGED, None, activity=done)
    return done


@transaction.atomic
def note(scope: Scope, parcel: Parcel, text: str) -> Mark:
    """Note something of a row, for the team. Raises WatchError, and PermissionDenied for a reader."""
    require(scope, NOTES)
    plain = " ".join(text.replace("\x00", "").split())
    if not plain:
        raise WatchError("Write what there is to note.")
    longest = PropertyNote._meta.get_field("text").max_length or 0
    if len(plain) > longest:
        raise WatchError(f"The note has {len(plain):,} characters; {longest:,} fit.")
    found = PropertyNote.objects.create(team=scope.team, user=scope.user, parcel=parcel, text=plain, at=now())
    return _mark(scope, parcel, Mark.Act.NOTED, None, note=found)


_REASONS = 8


def reasons_of(scope: Scope) -> list[str]:
    """Return for which reasons a user passed rows before, those used last first."""
    used = Mark.objects.filter(user=scope.user, act=Mark.Act.PASSED).exclude(reason="").order_by("-id").values_list("reason", flat=True)
    return list(dict.fromkeys(used[:100]))[:_REASONS]


@transaction.atomic
def undo(scope: Scope) -> Mark:
    """Take back what a user did last this morning, and return it as it was. Raises WatchError where there is nothing, and ListError."""
    last = _marks_to_undo(scope).filter(made_at__gte=_begin_of(scope.today, scope.team.time_zone)).first()
    if last is None:
        raise WatchError("There is nothing to undo this morning.")
    return _undo_mark(scope, last)


@transaction.atomic
def undo_mark(scope: Scope, pk: int) -> Mark:
    """Take back one thing that a user did. Raises WatchError where it was taken back before, and ListError."""
    mark = _marks_to_undo(scope).filter(pk=pk).first()
    if mark is None:
        raise WatchError("That was undone already.")
    return _undo_mark(scope, mark)


def _marks_to_undo(scope: Scope) -> QuerySet[Mark]:
    return Mark.objects.select_for_update(of=("self",)).filter(user=scope.user).select_related("activity", "note")


def _undo_mark(scope: Scope, mark: Mark) -> Mark:
    if mark.activity and mark.activity.undone_at is None:
        lists.undo(scope, mark.activity)
    if mark.note:
        mark.note.delete()
    Mark.objects.filter(pk=mark.pk).delete()
    return mark


@transaction.atomic
def mark_read(scope: Scope, watches: Sequence[Watch]) -> dict[str, str]:
    """Have everything told be read; return up to when each watch was read before, by its key."""
    before = {str(one.pk): one.done_to.isoformat() for one in watches}
    for one in watches:
        Watch.objects.filter(pk=one.pk, user=scope.user).update(done_to=one.told_to)
    return before


def not_be_done(scope: Scope, before: dict[str, str]) -> None:
    """Have what was read all at once wait again."""
    for pk, moment in before.items():
        Watch.objects.filter(pk=pk, user=scope.user).update(done_to=datetime.fromisoformat(moment))
