"""A team's phrase book: what is shipped, as the team changed it, and the team's own groups after it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.db import transaction
from django.utils.text import slugify

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.phrase_book import PHRASE_BOOK, PhraseGroup
from jaded_ledger.core.criteria.phrases import expression
from jaded_ledger.find.filled import typed_lines
from jaded_ledger.find.models import TeamPhrases

_SHIPPED = {group.key: group for group in PHRASE_BOOK}
_LONGEST = 200
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


def _checked(phrases: Iterable[str], where: str) -> list[str]:
    found = list(phrases)
    if len(found) > _MOST:
        raise PhraseBookError(f"{where} has {len(found)} phrases; a group holds at most {_MOST}")
    for phrase in found:
        if not expression(phrase):
            raise PhraseBookError(f"“{phrase}” has no word that could be looked for")
        if len(phrase) > _LONGEST:
            raise PhraseBookError(f"“{phrase[:40]}…” is longer than {_LONGEST} characters")
    return found


def save(team: Team, key: str, name: str, purpose: str, phrases: str, refused: str) -> str:
    """Keep a group, a new one where the key is blank; phrases stand one a line. Return its key. Raises PhraseBookError."""
    name = " ".join(name.split())[:60]
    asked = _checked(typed_lines(phrases), "the group")
    if not name:
        raise PhraseBookError("the group has no name yet")
    if not asked:
        raise PhraseBookError("the group has no phrase yet; write one a line")
    values = {
        "name": name,
        "purpose": purpose.strip()[:200],
        "phrases": asked,
        "refused": _checked(typed_lines(refused), "none of"),
        "is_out": False,
    }
    with transaction.atomic():
        if not key:
            key = _free_key(team, name)
        elif key not in _SHIPPED and not TeamPhrases.objects.filter(team=team, key=key).exists():
            raise PhraseBookError("that group is no longer in the book; somebody took it out")
        TeamPhrases.objects.update_or_create(team=team, key=key, defaults=values)
    return key


def _free_key(team: Team, name: str) -> str:
    base, number = slugify(name)[:30] or "group", 1
    taken = {*_SHIPPED, *TeamPhrases.objects.filter(team=team).values_list("key", flat=True)}
    key = base
    while key in taken:
        number += 1
        key = f"{base}-{number}"
    return key


def restore(team: Team, key: str) -> None:
    """Have a shipped group as it is shipped."""
    if key in _SHIPPED:
        TeamPhrases.objects.filter(team=team, key=key).delete()


def take_out(team: Team, key: str) -> None:
    """Take a group out of the book: an own one for good, a shipped one until it is restored."""
    if key not in _SHIPPED:
        TeamPhrases.objects.filter(team=team, key=key).delete()
        return
    group = _SHIPPED[key]
    values = {"name": group.name, "is_out": True}
    TeamPhrases.objects.update_or_create(team=team, key=key, defaults=values)


def entry_of(entries: Sequence[Entry], key: str) -> Entry | None:
    """Return an entry by its key."""
    return next((entry for entry in entries if entry.group.key == key), None)
