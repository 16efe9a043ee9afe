"""Searches under a name: their versions, what they found and since when, and when somebody last opened them."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models.functions import Lower

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.models import Parcel


class SavedSearch(Deletable):
    """A search under a name. One that is shared is the whole team's to open; one that is protected only its owner changes.

    ``reckoned`` tells of which version, facts and day its ``Match`` rows are.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="saved_searches")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="saved_searches")
    name = models.CharField(max_length=80)
    folder = models.CharField(max_length=60, blank=True)
    note = models.CharField(max_length=500, blank=True)
    is_shared = models.BooleanField(default=False)
    is_protected = models.BooleanField(default=False)
    made_at = models.DateTimeField()
    reckoned = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = [Lower("folder"), Lower("name")]
        constraints = [
            models.UniqueConstraint(
                "team", "owner", Lower("name"), condition=models.Q(deleted_at=None), nulls_distinct=False, name="saved_search_once"
            ),
            models.CheckConstraint(condition=~models.Q(name=""), name="saved_search_named"),
        ]

    def __str__(self) -> str:
        return self.name


class Version(models.Model):
    """How a saved search was from one change to the next: its lines, its columns and its order, and how many matched then."""

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    text = models.TextField()
    columns = ArrayField(models.CharField(max_length=140), null=True)
    sort = models.TextField(blank=True)
    by = models.CharField(max_length=10, blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()
    matches = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint("search", "number", name="version_once")]


class Match(models.Model):
    """A parcel that a saved search finds, or found: since when, and until when. A parcel that comes back has another row.

    ``by_edit`` and ``left_by_edit`` are of rows that came or went because the search itself was changed: they are no news.
    What is watched of the parcel stands beside; how it was before, in ``Change``. ``answers_before`` are the parcel's answers to
    the search's applied lines at the run before it came, and ``answers_after`` at the run that it left in: a digit a line, as
    ``find.line_answers`` has them. They are blank for a parcel that was not on record, and None where they were not kept.
    """

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="matches")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    entered_at = models.DateTimeField()
    by_edit = models.BooleanField(default=False)
    left_at = models.DateTimeField(null=True)
    left_by_edit = models.BooleanField(default=False)
    watched = models.JSONField(default=dict)
    answers_before = models.TextField(null=True)
    answers_after = models.TextField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint("search", "parcel", condition=models.Q(left_at=None), name="match_once"),
            models.CheckConstraint(
                condition=models.Q(left_at=None) | models.Q(left_at__gte=models.F("entered_at")), name="match_enters_before_it_leaves"
            ),
        ]
        indexes = [models.Index("search", "entered_at", name="match_entered"), models.Index("search", "left_at", name="match_left")]


class Change(models.Model):
    """A change of what is watched of a match: when it was seen, and how it was before."""

    match = models.ForeignKey(Match, on_delete=models.CASCADE, related_name="changes")
    at = models.DateTimeField()
    before = models.JSONField(default=dict)

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index("match", "at", name="change_of_match")]


class Run(models.Model):
    """One time that a search was asked anew, for other facts, another day or another version: what came and went has its moment.

    ``before`` is the moment of the run before it; None for the first. ``is_edit`` says that the version is another one.
    """

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="runs")
    at = models.DateTimeField()
    before = models.DateTimeField(null=True)
    day = models.DateField()
    facts_version = models.PositiveBigIntegerField()
    version = models.PositiveIntegerField()
    is_edit = models.BooleanField(default=False)
    matches = models.PositiveIntegerField()
    entered = models.PositiveIntegerField()
    left = models.PositiveIntegerField()
    changed = models.PositiveIntegerField()

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index("search", "at", name="run_of_search")]


class KeptAnswers(models.Model):
    """How every parcel answered to a search's lines at its last run, so that the next can say which lines did not hold before.

    ``parcels`` are their ids as differences, ``answers`` four to a byte, line by line; both are compressed.
    """

    search = models.OneToOneField(SavedSearch, on_delete=models.CASCADE, related_name="kept_answers")
    count = models.PositiveIntegerField()
    parcels = models.BinaryField()
    answers = models.BinaryField()


class Opening(models.Model):
    """When a user last opened a saved search, and when before that: what is new is new since then."""

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="openings")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField()
    before = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint("search", "user", name="opening_once")]


class FollowedList(models.Model):
    """A list whose rows are what a saved search finds."""

    list = models.OneToOneField(ParcelList, on_delete=models.CASCADE, related_name="follows")
    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="followed_by")
