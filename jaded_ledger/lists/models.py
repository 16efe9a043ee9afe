"""Lists of parcels and who is on them, tags, stages of work, and the acts that changed them.

Nothing is deleted by an act: a row notes by which act it came and by which it went, so that every act can be undone.
"""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import F, Q

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.distress.urgency import HALF_LIFE, LIST_WEIGHT, LONGEST_HALF_LIFE, MOST
from jaded_ledger.records.models import Owner, Parcel, RecordedName


class Activity(models.Model):
    """One act on lists, tags or stages: who did what to how many rows, and whether it was undone."""

    class Verb(models.TextChoices):
        MAKE = "make", "made a list"
        ADD = "add", "added to a list"
        REMOVE = "remove", "took off a list"
        DROP_STALE = "drop-stale", "dropped stale rows"
        DELETE = "delete", "deleted a list"
        TAG = "tag", "tagged"
        UNTAG = "untag", "took a tag off"
        STAGE = "stage", "set a stage"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="activities")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField()
    verb = models.CharField(max_length=12, choices=Verb.choices)
    about = models.CharField(max_length=120, help_text="The name of the list, tag or stage, as it was then.")
    rows = models.PositiveIntegerField(help_text="How many rows it changed.")
    search = models.TextField(blank=True, help_text="The search that the parcels came from, as text.")
    undone_at = models.DateTimeField(null=True)
    undone_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        indexes = [models.Index("team", F("at").desc(), name="activity_newest")]
        verbose_name_plural = "activities"


class ParcelList(models.Model):
    """A named list of parcels. ``mark`` is a letter or three that stand on a row; ``source_on`` the day that its source speaks of."""

    class Type(models.TextChoices):
        REASON = "reason", "reason"
        CAMPAIGN = "campaign", "campaign"
        WORKING_SET = "working-set", "working set"

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="lists")
    name = models.CharField(max_length=80)
    folded = models.CharField(max_length=80, help_text="The name in the form in which names are compared.")
    type = models.CharField(max_length=12, choices=Type.choices, default=Type.WORKING_SET)
    reason = models.CharField(max_length=40, blank=True, help_text="In a word what it is for: vacant, liens, life event.")
    note = models.TextField(blank=True)
    mark = models.CharField(max_length=3, blank=True)
    source_on = models.DateField(null=True)
    weight = models.PositiveSmallIntegerField(
        default=LIST_WEIGHT, help_text="What being on it is worth to a property's urgency, if it is a list of a reason."
    )
    made = models.ForeignKey(Activity, on_delete=models.PROTECT, related_name="+")
    deleted = models.ForeignKey(Activity, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint("team", "folded", condition=Q(deleted=None), name="list_name_once"),
            models.CheckConstraint(condition=~Q(name=""), name="list_has_name"),
            models.CheckConstraint(condition=Q(weight__lte=MOST), name="list_weight_in_range"),
        ]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A parcel on a list: by which act it came and went, and how it stood when it was added."""

    list = models.ForeignKey(ParcelList, on_delete=models.CASCADE, related_name="memberships")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="memberships")
    added = models.ForeignKey(Activity, on_delete=models.PROTECT, related_name="added")
    removed = models.ForeignKey(Activity, null=True, on_delete=models.PROTECT, related_name="removed")
    added_on = models.DateField()
    owner = models.ForeignKey(Owner, null=True, on_delete=models.SET_NULL, related_name="+")
    owner_name = models.ForeignKey(RecordedName, null=True, on_delete=models.SET_NULL, related_name="+")
    owned_since = models.DateField(null=True)
    value = models.IntegerField(null=True, help_text="The estimated value in dollars.")
    status = models.SmallIntegerField(null=True, help_text="The code of the latest listing's status.")
    tax_due = models.IntegerField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint("list", "parcel", condition=Q(removed=None), name="on_list_once")]
        indexes = [models.Index("parcel", condition=Q(removed=None), name="membership_of_parcel")]


class Tag(models.Model):
    """A word that a team puts on parcels."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="tags")
    name = models.CharField(max_length=40)
    folded = models.CharField(max_length=40)

    class Meta:
        constraints = [
            models.UniqueConstraint("team", "folded", name="tag_once"),
            models.CheckConstraint(condition=~Q(name=""), name="tag_has_name"),
        ]


class Tagging(models.Model):
    """A tag on a parcel since a day."""

    tag = models.ForeignKey(Tag, on_delete=models.CASCADE, related_name="taggings")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="taggings")
    tagged_on = models.DateField()
    added = models.ForeignKey(Activity, on_delete=models.PROTECT, related_name="+")
    removed = models.ForeignKey(Activity, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint("tag", "parcel", condition=Q(removed=None), name="tagged_once")]
        indexes = [models.Index("parcel", condition=Q(removed=None), name="tagging_of_parcel")]


class Stage(models.Model):
    """A stage of the team's work on a property, in the order of the work."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="stages")
    name = models.CharField(max_length=40)
    folded = models.CharField(max_length=40)
    order = models.PositiveSmallIntegerField()
    is_out = models.BooleanField(default=False, help_text="Whether the team gave it up; what was at it once keeps it in its history.")

    class Meta:
        constraints = [
            models.UniqueConstraint("team", "folded", name="stage_once"),
            models.CheckConstraint(condition=~Q(name=""), name="stage_has_name"),
        ]
        ordering = ["order", "id"]


class StageEntry(models.Model):
    """A parcel's stage since a day; those before it stay, with what superseded them. ``stage`` is None where it was taken off."""

    stage = models.ForeignKey(Stage, null=True, on_delete=models.CASCADE, related_name="entries")
    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="stages")
    since = models.DateField()
    added = models.ForeignKey(Activity, on_delete=models.PROTECT, related_name="+")
    superseded = models.ForeignKey(Activity, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint("team", "parcel", condition=Q(superseded=None), name="stage_of_parcel_once")]


class UrgencyScale(models.Model):
    """What signs of distress are worth to a team, where that differs from what ships. ``weights`` is by the sign's key."""

    team = models.OneToOneField(Team, primary_key=True, on_delete=models.CASCADE, related_name="urgency_scale")
    weights = models.JSONField(default=dict)
    half_life = models.PositiveSmallIntegerField(default=HALF_LIFE, help_text="In how many months points halve.")

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(half_life__gte=1) & Q(half_life__lte=LONGEST_HALF_LIFE), name="half_life_in_range")
        ]
