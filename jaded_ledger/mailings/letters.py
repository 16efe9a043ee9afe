"""A team's letters: written, changed, taken away and put back; the ones that it begins with; and those of a mailing."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.mail.letters import Letter, LetterError, Letters, Recipient, letter_from
from jaded_ledger.mailings.acts import LETTERS
from jaded_ledger.mailings.letter_fields import FIELDS, LetterField
from jaded_ledger.mailings.models import LetterTemplate, Mailing, SentLetter
from jaded_ledger.mailings.shipped_letters import SHIPPED
from jaded_ledger.records.clock import now

LONGEST_NAME = 80


def letters_of(scope: Scope, form: str = "") -> QuerySet[LetterTemplate]:
    """Return the team's letters, or those of a form, by name."""
    rows = LetterTemplate.objects.filter(team=scope.team, deleted_at=None).select_related("changed_by")
    return rows.filter(form=form) if form else rows


def _named(name: str) -> str:
    found = " ".join(name.split())
    if not 0 < len(found) <= LONGEST_NAME:
        raise LetterError(f"a letter has a name of 1 to {LONGEST_NAME} characters")
    return found


def read(text: str, key: int = 0, name: str = "") -> Letter:
    """Return the letter that a text is. Raises LetterError."""
    return letter_from(text, FIELDS.keys(), key, name)


def write(scope: Scope, name: str, form: str, text: str) -> LetterTemplate:
    """Keep a new letter. Raises LetterError and PermissionDenied."""
    require(scope, LETTERS)
    if form not in LetterTemplate.Form:
        raise LetterError("choose a letter or a postcard")
    return _kept(LetterTemplate(team=scope.team, form=form), scope, name, text)


class ChangedMeanwhileError(LetterError):
    """Somebody else changed a letter after it was opened; ``theirs`` is what it says now."""

    def __init__(self, theirs: LetterTemplate) -> None:
        who = theirs.changed_by.display_name if theirs.changed_by else "a command"
        super().__init__(f"{who} changed this letter after you opened it; your text is not saved yet")
        self.theirs = theirs


@transaction.atomic
def change(scope: Scope, letter: LetterTemplate, name: str, text: str, seen: str = "") -> LetterTemplate:
    """Change a letter; mailings that were made keep what they said.

    ``seen`` is the ``version_of`` the letter that the writer began from; blank overwrites any. Raises ChangedMeanwhileError, LetterError
    and PermissionDenied.
    """
    require(scope, LETTERS)
    current = LetterTemplate.objects.select_for_update(of=("self",)).select_related("changed_by").get(pk=letter.pk)
    if seen and seen != version_of(current) and (current.name, current.text) != (_named(name), _as_kept(text)):
        raise ChangedMeanwhileError(current)
    return _kept(letter, scope, name, text)


def version_of(letter: LetterTemplate) -> str:
    """Return what tells whether a letter was changed since."""
    return letter.changed_at.isoformat()


def _as_kept(text: str) -> str:
    return text.replace("\r\n", "\n").rstrip()


def _kept(letter: LetterTemplate, scope: Scope, name: str, text: str) -> LetterTemplate:
    letter.name, letter.text = _named(name), _as_kept(text)
    read(letter.text)
    letter.changed_at, letter.changed_by = now(), scope.user
    try:
        with transaction.atomic():
            letter.save()
    except IntegrityError as error:
        raise LetterError(f"there is a letter “{letter.name}” already; give this one another name") from error
    return letter


@transaction.atomic
def begin_with_shipped(scope: Scope) -> None:
    """Give a team that has never had a letter those that are shipped."""
    if not LetterTemplate.objects.filter(team=scope.team).exists():
        at = now()
        LetterTemplate.objects.bulk_create(
            LetterTemplate(team=scope.team, name=name, form=form, text=text, changed_at=at) for form, name, text in SHIPPED
        )


def _letter(template: LetterTemplate) -> Letter:
    return read(template.text, template.pk, template.name)


def letters_for(mailing: Mailing) -> Letters | None:
    """Return which letter goes to whom; None where none is chosen. Raises LetterError."""
    if mailing.letter is None:
        return None
    others = LetterTemplate.objects.in_bulk([pk for pk in mailing.letter_of.values() if pk])
    by_recipient: dict[Recipient, Letter | None] = {}
    for recipient, pk in mailing.letter_of.items():
        if not pk or pk in others:
            by_recipient[Recipient(recipient)] = _letter(others[pk]) if pk else None
    return Letters(_letter(mailing.letter), by_recipient, _letter(mailing.against) if mailing.against else None)


def fields_of(letters: Letters | None) -> list[LetterField]:
    """Return the fields that letters have, each once."""
    keys = dict.fromkeys(place.field for letter in letters.every for place in letter.places) if letters else {}
    return [FIELDS[key] for key in keys]


def keep_sent(mailing: Mailing, letters: Letters) -> dict[int, SentLetter]:
    """Keep the texts of a mailing's letters as they are now, and return them by the letters' keys."""
    texts: dict[int, Any] = dict(LetterTemplate.objects.filter(pk__in=[one.key for one in letters.every]).values_list("pk", "text"))
    rows = [SentLetter(mailing=mailing, letter_id=one.key, name=one.name, text=texts[one.key]) for one in letters.every]
    return {row.letter_id: row for row in SentLetter.objects.bulk_create(rows)}
