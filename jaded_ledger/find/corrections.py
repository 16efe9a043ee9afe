"""A team's corrections of how words in the box are read: learned from an edit right after a sentence, or written in the phrase book."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction

from jaded_ledger.accounts.deletion import delete
from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.language.corrections import Correction, words_key
from jaded_ledger.core.criteria.language.reading import Reading
from jaded_ledger.core.criteria.search import AnyOf, Line, Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text
from jaded_ledger.find.acts import PHRASE_BOOKS
from jaded_ledger.find.models import PhraseCorrection
from jaded_ledger.find.named_things import search_from, stored_text
from jaded_ledger.records.clock import now

MOST = 400
"""So many corrections a team may have: each is looked for in every sentence."""
_LONGEST = PhraseCorrection._meta.get_field("phrase").max_length


class CorrectionError(ValueError):
    """A correction that can't be saved; the message says why."""


@dataclass(frozen=True)
class Offered:
    """A correction that an edit makes, to be saved: the words, and the criteria that they mean, as text."""

    phrase: str
    criteria: str


def written(line: Line) -> str:
    """Return a line as a reading has it: alternatives in braces."""
    return "{" + " | ".join(map(line_text, line.criteria)) + "}" if isinstance(line, AnyOf) else line_text(line)


def corrections_of(team: Team) -> tuple[Correction, ...]:
    """Return a team's corrections; those whose criteria can't be read any more are passed over."""
    found = []
    for words, criteria in PhraseCorrection.objects.filter(team=team, deleted_at=None).values_list("words", "criteria"):
        try:
            found.append(Correction(words, tuple(map(written, search_from(criteria, team).lines))))
        except CriteriaError:
            continue
    return tuple(found)


def correction_in(reading: Reading, before: Line, after: Line) -> Offered | None:
    """Return the correction that an edit of a line makes, where the line came from a part of a reading."""
    old, new = written(before), written(after)
    if old == new:
        return None
    for part in reading.parts:
        for option in part.options:
            if old in option:
                lines = [new if line == old else line for line in option]
                if any(line.startswith("{") for line in lines):
                    return None
                return Offered(part.words, "\n".join(lines))
    return None


@transaction.atomic
def save_correction(scope: Scope, phrase: str, criteria: str) -> PhraseCorrection:
    """Save what some words mean to the team, in the place of an earlier correction. Raises CorrectionError and PermissionDenied."""
    require(scope, PHRASE_BOOKS)
    phrase = " ".join(phrase.split())
    words = words_key(phrase)
    if not any(character.isalnum() for character in words):
        raise CorrectionError("the phrase has no words yet")
    if len(phrase) > (_LONGEST or 0):
        raise CorrectionError(f"the phrase has {len(phrase)} characters; {_LONGEST} fit")
    try:
        search = search_from(criteria, scope.team)
    except CriteriaError as error:
        raise CorrectionError(str(error)) from error
    if not search.lines:
        raise CorrectionError("the criteria are blank; write one such as beds: 3..")
    # Of two who correct the same words the second replaces the first's.
    Team.objects.select_for_update().get(pk=scope.team.pk)
    current = PhraseCorrection.objects.filter(team=scope.team, deleted_at=None)
    for earlier in current.filter(words=words):
        delete(scope, earlier)
    if current.count() >= MOST:
        raise CorrectionError(f"a team has at most {MOST} corrections; delete one first")
    stored = stored_text(Search((), search.lines), scope.team)
    return PhraseCorrection.objects.create(team=scope.team, words=words, phrase=phrase, criteria=stored, user=scope.user, at=now())
