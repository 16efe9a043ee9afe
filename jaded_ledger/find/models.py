"""What Find keeps: its layout, sets of columns, rows taken out by hand, long searches, the phrase book, and what was chosen."""

from __future__ import annotations

import secrets

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.records.models import Parcel


def short_key() -> str:
    """Return a key that can stand in an address and can't be guessed."""
    return secrets.token_urlsafe(9)


_NARROWEST, _WIDEST, _USUAL = 320, 720, 392
_USUAL_ROOM = 800


class FindLayout(models.Model):
    """How a user has Find laid out: which face of the results was shown last; in CSS pixels, how wide the ledger is, and how wide the
    rows were last; and how wide columns were made, by their traits."""

    narrowest, widest, usual = _NARROWEST, _WIDEST, _USUAL

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="find_layout")
    face = models.CharField(max_length=40, blank=True)
    ledger_width = models.PositiveSmallIntegerField(default=_USUAL)
    room = models.PositiveSmallIntegerField(default=_USUAL_ROOM)
    column_widths = models.JSONField(default=dict)

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(ledger_width__range=(_NARROWEST, _WIDEST)), name="ledger_width_fits")]


class ColumnSet(models.Model):
    """Columns of the table under a name: a user's own, or, without one, the team's. The default one is shown until others are chosen."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="column_sets")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="column_sets")
    name = models.CharField(max_length=60)
    columns = ArrayField(models.CharField(max_length=140))
    is_default = models.BooleanField(default=False)

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint("team", "user", "name", nulls_distinct=False, name="column_set_once"),
            models.UniqueConstraint(
                "team", "user", nulls_distinct=False, condition=models.Q(is_default=True), name="column_set_one_default"
            ),
            models.CheckConstraint(condition=~models.Q(columns=[]), name="column_set_not_empty"),
        ]


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


class PhraseCorrection(Deletable):
    """What words that are typed in the box mean to a team: the criteria by which somebody corrected how they were read.

    ``words`` is what they are compared by (``core.criteria.language.corrections``), ``phrase`` how they were typed.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="phrase_corrections")
    words = models.CharField(max_length=400)
    phrase = models.CharField(max_length=200)
    criteria = models.TextField(help_text="Text form, with the ids of what the team named (find.named_things).")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()

    class Meta:
        ordering = ["phrase", "id"]
        constraints = [
            models.UniqueConstraint(
                "team", "words", condition=models.Q(deleted_at=None), name="phrase_correction_once",
                violation_error_message="these words have a correction",
            ),
            models.CheckConstraint(condition=~models.Q(words="") & ~models.Q(criteria=""), name="phrase_correction_says_something"),
        ]  # fmt: skip

    def __str__(self) -> str:
        return self.phrase


class RowsByHand(models.Model):
    """Rows that somebody took out of a search by hand, or kept in one though a line takes them off.

    They never change: one more row, or one less, makes others, so that going back in a search brings back what was there then.
    ``digest`` tells them by their parcels, and by why they are kept.
    """

    class Way(models.TextChoices):
        TAKEN_OUT = "taken-out", "taken out"
        KEPT = "kept", "kept"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="rows_by_hand")
    way = models.CharField(max_length=10, choices=Way.choices)
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint("team", "way", "digest", name="rows_by_hand_once")]


class RowByHand(models.Model):
    """A row that was taken out or kept by hand: by whom, when, and, of one that is kept, why."""

    rows = models.ForeignKey(RowsByHand, on_delete=models.CASCADE, related_name="each")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()
    reason = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["at", "id"]
        constraints = [models.UniqueConstraint("rows", "parcel", name="row_by_hand_once")]

    @property
    def who(self) -> str:
        return str(self.user) if self.user else "somebody who is gone, or from the command line"


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
    sort = models.TextField(blank=True)
    is_all = models.BooleanField()
    parcel_ids = ArrayField(
        models.BigIntegerField(), default=list, help_text="The parcels chosen by hand; with all matches, those taken out."
    )
    facts_version = models.PositiveBigIntegerField()

    class Meta:
        constraints = [models.CheckConstraint(condition=models.Q(is_all=True) | ~models.Q(parcel_ids=[]), name="selection_not_empty")]
