"""What is done with saved searches: kept, changed, put back as they were, deleted and undeleted."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import Max, Q, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.asking import unanswered
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import MARK, search_from, stored_text
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.clock import now
from jaded_ledger.searches.acts import TEAM_SEARCHES
from jaded_ledger.searches.models import Opening, SavedSearch, Version

SAME_VISIT = timedelta(minutes=30)
"""Opened again within this time, a search still shows what was new the first time."""


class SearchError(ValueError):
    """Something that can't be done with a saved search; the message says why, and what would do."""


def searches_of(scope: Scope) -> QuerySet[SavedSearch]:
    """Return the saved searches that somebody can open: their own, and those shared with the team. A command has all."""
    return every_search(scope).filter(deleted_at=None).select_related("owner")


def every_search(scope: Scope) -> QuerySet[SavedSearch]:
    every = SavedSearch.objects.filter(team=scope.team)
    return every.filter(Q(owner=scope.user) | Q(is_shared=True)) if scope.user else every


def may_change(saved: SavedSearch, scope: Scope) -> bool:
    """Return whether somebody may change a saved search: its owner, and unless it is protected whoever can open it."""
    return scope.user is None or saved.owner_id == scope.user.pk or not saved.is_protected


def _require_change(saved: SavedSearch, scope: Scope) -> None:
    if saved.is_shared and (scope.user is None or saved.owner_id != scope.user.pk):
        require(scope, TEAM_SEARCHES)
    if not may_change(saved, scope):
        raise SearchError(f"“{saved.name}” is protected; only {saved.owner or 'its owner'} changes it. Save it under another name.")


def _checked(scope: Scope, name: str, folder: str, note: str, *, but: SavedSearch | None = None) -> tuple[str, str, str]:
    """Return a name, a folder and a note as they are kept. Raises SearchError."""
    found = []
    for field, text in (("name", name), ("folder", folder), ("note", note)):
        plain = " ".join(text.replace("\x00", "").split())
        longest: int = getattr(SavedSearch._meta.get_field(field), "max_length", None) or 0
        if len(plain) > longest:
            raise SearchError(f"The {field} has {len(plain)} characters; {longest} fit.")
        found.append(plain)
    if not found[0]:
        raise SearchError("Give the search a name.")
    if found[0].startswith(MARK):
        raise SearchError(f"The name of a search can’t begin with {MARK}.")
    same = SavedSearch.objects.filter(team=scope.team, owner=but.owner if but else scope.user, deleted_at=None, name__iexact=found[0])
    if (same.exclude(pk=but.pk) if but else same).exists():
        raise SearchError(f"You have a search called “{found[0]}” already; save the changes to that one, or choose another name.")
    return found[0], found[1], found[2]


def current_version(saved: SavedSearch) -> Version:
    return saved.versions.order_by("-number")[:1].get()


def page_of(version: Version, scope: Scope) -> SearchPage:
    """Return a version as a page of Find, with the answers to what it asks that it was kept with. Raises CriteriaError."""
    columns = None if version.columns is None else tuple(version.columns)
    origin = str(version.search_id)
    return SearchPage(search_from(version.text, scope.team), columns, version.sort, by=version.by, origin=origin)


def _add_version(saved: SavedSearch, page: SearchPage, scope: Scope) -> Version:
    number = (saved.versions.aggregate(last=Max("number"))["last"] or 0) + 1
    try:
        matches: int | None = Answer(page, scope).balance.matches
    except CriteriaError:
        matches = None
    return saved.versions.create(
        number=number,
        text=stored_text(page.search, scope.team),
        columns=None if page.columns is None else list(page.columns),
        sort=page.sort,
        by=page.by,
        user=scope.user,
        at=now(),
        matches=matches,
    )


@transaction.atomic
def save(
    scope: Scope, page: SearchPage, name: str, *, folder: str = "", note: str = "", shared: bool = False, protected: bool = False
) -> SavedSearch:
    """Keep a search under a name. Raises SearchError, and PermissionDenied where a reader's would be shared."""
    if shared:
        require(scope, TEAM_SEARCHES)
    name, folder, note = _checked(scope, name, folder, note)
    saved = SavedSearch.objects.create(
        team=scope.team, owner=scope.user, name=name, folder=folder, note=note, is_shared=shared, is_protected=protected, made_at=now()
    )
    _add_version(saved, page, scope)
    return saved


@transaction.atomic
def save_changes(scope: Scope, saved: SavedSearch, page: SearchPage) -> Version:
    """Keep a search as it is now as the newest version of a saved one; nothing is kept where nothing changed. Raises SearchError."""
    _require_change(saved, scope)
    SavedSearch.objects.select_for_update().get(pk=saved.pk)
    now_kept = current_version(saved)
    columns = None if page.columns is None else list(page.columns)
    now_there = (stored_text(page.search, scope.team), columns, page.sort, page.by)
    is_same = (now_kept.text, now_kept.columns, now_kept.sort, now_kept.by) == now_there
    return now_kept if is_same else _add_version(saved, page, scope)


def is_as_kept(version: Version, page: SearchPage, scope: Scope) -> bool:
    """Return whether a page is as a version keeps it, answers to what it asks aside. Raises CriteriaError."""
    kept = page_of(version, scope)
    return (unanswered(kept.search), kept.columns, kept.sort, kept.by) == (unanswered(page.search), page.columns, page.sort, page.by)


@transaction.atomic
def put_back(scope: Scope, saved: SavedSearch, number: int) -> Version:
    """Make a search as one of its versions was; that is a new version. Raises SearchError, CriteriaError and Version.DoesNotExist."""
    return save_changes(scope, saved, page_of(saved.versions.get(number=number), scope))


def describe(scope: Scope, saved: SavedSearch, name: str, *, folder: str, note: str, shared: bool, protected: bool) -> None:
    """Change what is said of a saved search. Raises SearchError."""
    _require_change(saved, scope)
    if shared and not saved.is_shared:
        require(scope, TEAM_SEARCHES)
    saved.name, saved.folder, saved.note = _checked(scope, name, folder, note, but=saved)
    saved.is_shared, saved.is_protected = shared, protected
    saved.save(update_fields=["name", "folder", "note", "is_shared", "is_protected"])


@transaction.atomic
def note_opening(scope: Scope, saved: SavedSearch) -> None:
    """Note that a user opens a saved search. A command opens nothing."""
    if scope.user is None:
        return
    at = now()
    opening, is_first = Opening.objects.select_for_update().get_or_create(search=saved, user=scope.user, defaults={"at": at})
    if not is_first and at - opening.at > SAME_VISIT:
        opening.before, opening.at = opening.at, at
        opening.save(update_fields=["before", "at"])


def last_opened(scope: Scope, saved: SavedSearch) -> datetime | None:
    """Return since when what a user sees of a saved search is new: when they opened it last, this visit aside."""
    opening = Opening.objects.filter(search=saved, user=scope.user).first() if scope.user else None
    if opening is None:
        return None
    return opening.at if now() - opening.at > SAME_VISIT else opening.before


def change_refused(scope: Scope, saved: SavedSearch) -> str:
    """Return why somebody can't delete a search; blank where they can. Raises PermissionDenied."""
    return _refusal(lambda: _require_change(saved, scope))


def return_refused(scope: Scope, saved: SavedSearch) -> str:
    """Return why somebody can't undelete a search, as where another has its name; blank where they can. Raises PermissionDenied."""

    def check() -> None:
        _require_change(saved, scope)
        _checked(scope, saved.name, saved.folder, saved.note, but=saved)

    return _refusal(check)


def _refusal(check: Callable[[], object]) -> str:
    try:
        check()
    except SearchError as error:
        return str(error)
    return ""
