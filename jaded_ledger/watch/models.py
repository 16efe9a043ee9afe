"""Watched searches, what their users have read of them, the mail that tells of them, and the private addresses of calendars."""

from __future__ import annotations

from datetime import datetime

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.watching.rhythms import Rhythm, Schedule
from jaded_ledger.lists.models import Activity
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.models import SavedSearch


class Watch(models.Model):
    """A saved search that a user watches.

    What is new about it is told up to ``told_to``, is done with up to ``done_to``, and was mailed up to ``mailed_to``. ``traits`` are
    those of which a change is told; ``days`` the days of the week (1 for Monday) of one that is told weekly.
    """

    search = models.ForeignKey(SavedSearch, on_delete=models.CASCADE, related_name="watches")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="watches")
    rhythm = models.CharField(max_length=10, choices=[(one.value, one.words) for one in Rhythm], default=Rhythm.MORNING)
    days = ArrayField(models.PositiveSmallIntegerField(), default=list)
    traits = ArrayField(models.CharField(max_length=40))
    by_mail = models.BooleanField(default=False)
    began_at = models.DateTimeField()
    told_to = models.DateTimeField()
    done_to = models.DateTimeField()
    mailed_to = models.DateTimeField()
    paused_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["search__name", "id"]
        constraints = [
            models.UniqueConstraint("search", "user", name="watch_once"),
            models.CheckConstraint(condition=models.Q(days__contained_by=[1, 2, 3, 4, 5, 6, 7]), name="watch_days_of_week"),
            models.CheckConstraint(condition=~models.Q(rhythm="weekly", days=[]), name="watch_weekly_on_days"),
        ]

    @property
    def schedule(self) -> Schedule:
        return Schedule(Rhythm(self.rhythm), tuple(self.days))

    def is_due(self, at: datetime) -> bool:
        """Whether it is to be told of at a moment and was not yet."""
        return self.schedule.is_due(self.search.team.times, self.told_to, at)


class Mark(models.Model):
    """What a user did with a row of the morning: what is new about the parcel up to ``told_to`` is read.

    One that was passed comes back only when a watched trait of it changes. A tag, a stage and a note leave the row unread, and have no
    ``told_to``. ``activity`` or ``note`` is what was done with it.
    """

    class Act(models.TextChoices):
        LOOKED = "looked", "looked at"
        KEPT = "kept", "kept"
        PASSED = "passed", "passed"
        TAGGED = "tagged", "tagged"
        STAGED = "staged", "given a stage"
        NOTED = "noted", "noted"

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="morning_marks")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    act = models.CharField(max_length=10, choices=Act.choices)
    reason = models.CharField(max_length=200, blank=True)
    told_to = models.DateTimeField(null=True)
    made_at = models.DateTimeField()
    note = models.ForeignKey("watch.PropertyNote", null=True, on_delete=models.SET_NULL, related_name="+")
    activity = models.ForeignKey(Activity, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["user", "parcel", "-id"], name="mark_of_row"), models.Index("user", "made_at", name="mark_of_day")]


class PropertyNote(models.Model):
    """What somebody noted of a property, for the team."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="property_notes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    text = models.CharField(max_length=1000)
    at = models.DateTimeField()

    class Meta:
        ordering = ["-at", "-id"]
        indexes = [models.Index("team", "parcel", name="note_of_property")]


class Digest(models.Model):
    """A mail that tells a user what is new: written once, and sent until it has left."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="digests")
    made_at = models.DateTimeField()
    rows = models.PositiveIntegerField()
    subject = models.CharField(max_length=200)
    text = models.TextField()
    html = models.TextField()
    sent_at = models.DateTimeField(null=True)
    fault = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class CalendarFeed(models.Model):
    """A user's calendar. Its address holds ``serial``, signed: a new serial makes the address before it worth nothing."""

    class Shows(models.TextChoices):
        DATES = "dates", "dates alone"
        ALL = "all", "addresses, lists and clients as well"

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="calendar_feed")
    serial = models.PositiveIntegerField(default=1)
    made_at = models.DateTimeField()
    read_at = models.DateTimeField(null=True, help_text="When a calendar program last read it.")
    shows = models.CharField(max_length=10, choices=Shows.choices, default=Shows.DATES)
    ended_at = models.DateTimeField(null=True, help_text="When its user ended it.")
