"""A team's phrase book: what is shipped, as the team changed it, and the team's own groups after it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.utils.text import slugify

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.phrase_book import PHRASE_BOOK, PhraseGroup
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.phrases import check_phrase
from jaded_ledger.find.acts import PHRASE_BOOKS
from jaded_ledger.find.editor_fields import typed_lines
from jaded_ledger.find.models import PhraseChange, TeamPhrases
from jaded_ledger.records.clock import now

_SHIPPED = {group.key: group for group in PHRASE_BOOK}
_CHANGES_SHOWN = 12
_MOST = 60
"""How many phrases a group may have on either side."""


@dataclass(frozen=True)
class Entry:
    """A group in a team's book, and whether it is shipped, and as shipped."""

    group: PhraseGroup
    is_shipped: bool
    is_changed: bool


class PhraseBookError(ValueError):
    """A group that can't be kept; the message says why."""


def _group(row: TeamPhrases) -> PhraseGroup:
    return PhraseGroup(row.key, row.name, row.purpose, tuple(row.phrases), tuple(row.refused))


def book_of(team: Team) -> list[Entry]:
    """Return the entries of a team's book: the shipped ones in their order, then the team's own by name."""
    rows = {row.key: row for row in TeamPhrases.objects.filter(team=team)}
    shipped = [
        Entry(_group(rows[key]) if key in rows else group, is_shipped=True, is_changed=key in rows)
        for key, group in _SHIPPED.items()
        if key not in rows or not rows[key].is_out
    ]
    own = sorted((row for key, row in rows.items() if key not in _SHIPPED), key=lambda row: row.name.casefold())
    return shipped + [Entry(_group(row), is_shipped=False, is_changed=False) for row in own]


def groups_of(team: Team) -> list[PhraseGroup]:
    """Return a team's groups."""
    return [entry.group for entry in book_of(team)]


def taken_out(team: Team) -> list[PhraseGroup]:
    """Return the shipped groups that a team took out."""
    keys = TeamPhrases.objects.filter(team=team, is_out=True).values_list("key", flat=True)
    return [_SHIPPED[key] for key in keys if key in _SHIPPED]


def _checked(text: str, where: str) -> list[str]:
    """Return the phrases of a text, one a line. Raises PhraseBookError."""
    try:
        found = typed_lines(text)
    except CriteriaError as error:
        raise PhraseBookError(f"{where}: {error}") from error
    if len(found) > _MOST:
        raise PhraseBookError(f"{where} has {len(found)} phrases; a group holds at most {_MOST}")
    for phrase in found:
        try:
            check_phrase(phrase)
        except ValueError as error:
            raise PhraseBookError(f"“{phrase[:40]}” {error}") from error
    return found


def save(scope: Scope, key: str, name: str, purpose: str, phrases: str, refused: str) -> str:
    """Keep a group, a new one where the key is blank; phrases stand one a line. Return its key.

    Raises PhraseBookError and PermissionDenied.
    """
    require(scope, PHRASE_BOOKS)
    name = " ".join(name.split())[:60]
    asked = _checked(phrases, "the group")
    if not name:
        raise PhraseBookError("the group has no name yet")
    if not asked:
        raise PhraseBookError("the group has no phrase yet; write one a line")
    values = {
        "name": name,
        "purpose": purpose.strip()[:200],
        "phrases": asked,
        "refused": _checked(refused, "none of"),
        "is_out": False,
    }
    with _book_locked(scope):
        if not key:
            key = _free_key(scope.team, name)
        elif key not in _SHIPPED and _kept(scope.team, key) is None:
            raise PhraseBookError("that group is no longer in the book; somebody took it out")
        _change(scope, PhraseChange.Verb.KEEP, key, name, values)
    return key


def _free_key(team: Team, name: str) -> str:
    base, number = slugify(name)[:30] or "group", 1
    taken = {*_SHIPPED, *TeamPhrases.objects.filter(team=team).values_list("key", flat=True)}
    key = base
    while key in taken:
        number += 1
        key = f"{base}-{number}"
    return key


def restore(scope: Scope, key: str) -> None:
    """Have a shipped group as it is shipped. Raises PermissionDenied."""
    require(scope, PHRASE_BOOKS)
    if key in _SHIPPED:
        with _book_locked(scope):
            _change(scope, PhraseChange.Verb.RESTORE, key, _SHIPPED[key].name, None)


def take_out(scope: Scope, key: str) -> None:
    """Take a group out of the book, until it is put back or that is undone. Raises PermissionDenied."""
    require(scope, PHRASE_BOOKS)
    with _book_locked(scope):
        if key in _SHIPPED:
            name = _SHIPPED[key].name
            out = {"name": name, "purpose": "", "phrases": [], "refused": [], "is_out": True}
            _change(scope, PhraseChange.Verb.TAKE_OUT, key, name, out)
        elif kept := _kept(scope.team, key):
            _change(scope, PhraseChange.Verb.TAKE_OUT, key, kept["name"], None)


def undo(scope: Scope, pk: int) -> PhraseChange:
    """Undo a change; return it. Raises PhraseBookError where the group was changed again since, and PermissionDenied."""
    require(scope, PHRASE_BOOKS)
    with _book_locked(scope):
        change = PhraseChange.objects.filter(team=scope.team, pk=pk).first()
        if change is None or change.undone_at is not None:
            raise PhraseBookError("that was undone before")
        if _kept(scope.team, change.key) != change.after:
            raise PhraseBookError(f"“{change.name}” was changed again since; undo that first")
        _put(scope.team, change.key, change.before)
        change.undone_at, change.undone_by = now(), scope.user
        change.save(update_fields=["undone_at", "undone_by"])
    return change


def changes_of(team: Team) -> QuerySet[PhraseChange]:
    """Return the latest changes of a team's book, the newest first."""
    return PhraseChange.objects.filter(team=team).select_related("user")[:_CHANGES_SHOWN]


@contextmanager
def _book_locked(scope: Scope) -> Iterator[None]:
    """Let one of a team's members change its book at a time."""
    with transaction.atomic():
        Team.objects.select_for_update().get(pk=scope.team.pk)
        yield


def _kept(team: Team, key: str) -> dict[str, Any] | None:
    """Return what a team keeps of a group; None where it is as shipped, or not in the book."""
    row = TeamPhrases.objects.filter(team=team, key=key).values("name", "purpose", "phrases", "refused", "is_out").first()
    return None if row is None else {**row}


def _put(team: Team, key: str, values: dict[str, Any] | None) -> None:
    if values is None:
        TeamPhrases.objects.filter(team=team, key=key).delete()
    else:
        TeamPhrases.objects.update_or_create(team=team, key=key, defaults=values)


def _change(scope: Scope, verb: PhraseChange.Verb, key: str, name: str, after: dict[str, Any] | None) -> None:
    before = _kept(scope.team, key)
    if before != after:
        _put(scope.team, key, after)
        PhraseChange.objects.create(team=scope.team, user=scope.user, at=now(), verb=verb, key=key, name=name, before=before, after=after)


def entry_of(entries: Sequence[Entry], key: str) -> Entry | None:
    """Return an entry by its key."""
    return next((entry for entry in entries if entry.group.key == key), None)
