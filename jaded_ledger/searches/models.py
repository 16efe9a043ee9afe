"""Searches under a name: their versions, what they found and since when, and when somebody last opened them."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models.functions import Lower

from jaded_ledger.accounts.models import Team
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.models import Parcel


class SavedSearch(models.Model):
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
    deleted_at = models.DateTimeField(null=True)
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
    What is watched of the parcel stands beside; how it was before, in ``Change``.
    """

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="matches")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    entered_at = models.DateTimeField()
    by_edit = models.BooleanField(default=False)
    left_at = models.DateTimeField(null=True)
    left_by_edit = models.BooleanField(default=False)
    watched = models.JSONField(default=dict)

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
