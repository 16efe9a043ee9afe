"""What Find keeps: its layout, long searches under a short key, the phrase book, and what was chosen from the results."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.accounts.models import Team


def short_key() -> str:
    """Return a key that can stand in an address and can't be guessed."""
    return secrets.token_urlsafe(9)


_NARROWEST, _WIDEST, _USUAL = 320, 720, 392


class FindLayout(models.Model):
    """How a user has Find laid out: which face of the results was shown last, and how wide the ledger is, in CSS pixels."""

    narrowest, widest, usual = _NARROWEST, _WIDEST, _USUAL

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="find_layout")
    face = models.CharField(max_length=40, blank=True)
    ledger_width = models.PositiveSmallIntegerField(default=_USUAL)

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(ledger_width__range=(_NARROWEST, _WIDEST)), name="ledger_width_fits")]


class LongSearch(models.Model):
    """A search too long for an address line, by a digest of its text."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=32)
    text = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint("team", "key", name="long_search_once")]


class TeamPhrases(models.Model):
    """A group of the phrase book as a team has it: one of its own, or a shipped one (``key`` is its) that it changed or took out."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="phrase_groups")
    key = models.CharField(max_length=40)
    name = models.CharField(max_length=60)
    purpose = models.CharField(max_length=200, blank=True)
    phrases = ArrayField(models.CharField(max_length=200), default=list)
    refused = ArrayField(models.CharField(max_length=200), default=list)
    is_out = models.BooleanField(default=False, help_text="Whether the team took a shipped group out of its book.")

    class Meta:
        constraints = [
            models.UniqueConstraint("team", "key", name="team_phrases_once"),
            models.CheckConstraint(condition=models.Q(is_out=True) | ~models.Q(phrases=[]), name="team_phrases_say_something"),
        ]


class PhraseChange(models.Model):
    """A change of a team's phrase book: who changed which group from what to what, so that it can be undone.

    ``before`` and ``after`` are what ``TeamPhrases`` kept of the group; None where it was as shipped, or not in the book.
    """

    class Verb(models.TextChoices):
        KEEP = "keep", "changed"
        RESTORE = "restore", "put back as shipped"
        TAKE_OUT = "take-out", "took out"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="phrase_changes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()
    verb = models.CharField(max_length=10, choices=Verb.choices)
    key = models.CharField(max_length=40)
    name = models.CharField(max_length=60)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    undone_at = models.DateTimeField(null=True)
    undone_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index("team", models.F("at").desc(), name="phrase_change_newest")]


class Selection(models.Model):
    """Parcels chosen from a search: some by hand, or all matches. It has its own address.

    ``facts_version`` is that of the facts when it was made, so that a later reading can say that they have changed since.
    """

    key = models.CharField(max_length=16, unique=True, default=short_key)
    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="selections")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField()
    search = models.TextField()
    columns = ArrayField(models.CharField(max_length=120), default=list)
    sort = models.CharField(max_length=121, blank=True)
    is_all = models.BooleanField()
    parcel_ids = ArrayField(
        models.BigIntegerField(), default=list, help_text="The parcels chosen by hand; with all matches, those taken out."
    )
    facts_version = models.PositiveBigIntegerField()

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(is_all=True) | ~models.Q(parcel_ids=[]), name="selection_not_empty")]
