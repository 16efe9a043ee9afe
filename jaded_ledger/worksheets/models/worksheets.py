"""Worksheets as they are kept, and what a team assumes in them."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import AreaGrade, Team
from jaded_ledger.records.models import Area, Parcel

_USER = settings.AUTH_USER_MODEL


class Stage(models.TextChoices):
    """How far a deal has come."""

    LOOKING = "looking", "looking"
    OFFERED = "offered", "offered"
    CONTRACT = "contract", "under contract"
    BOUGHT = "bought", "bought"
    SOLD = "sold", "sold"
    PASSED = "passed", "passed"


class Worksheet(Deletable):
    """One deal's figures as somebody works on them.

    ``content`` is what ``core.deals.worksheet`` writes; ``before`` what it was before the latest changes, the newest last, so that they can
    be undone; ``figures`` what it came to when it was last changed, for the table of deals.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="worksheets")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="worksheets")
    name = models.CharField(max_length=80, blank=True)
    stage = models.CharField(max_length=10, choices=Stage.choices, default=Stage.LOOKING)
    content = models.JSONField(default=dict)
    before = models.JSONField(default=list)
    figures = models.JSONField(default=dict)
    made_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField()
    changed_at = models.DateTimeField()

    class Meta:
        db_table = "deals_worksheet"
        ordering = ["-changed_at", "-pk"]
        constraints = [models.CheckConstraint(condition=Q(stage__in=Stage.values), name="worksheet_stage_known")]


class WorksheetVersion(models.Model):
    """A worksheet as it was when somebody kept it: what it kept, and ``figures``, all inputs with whose word they were, and results."""

    worksheet = models.ForeignKey(Worksheet, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveSmallIntegerField()
    content = models.JSONField()
    figures = models.JSONField()
    note = models.CharField(max_length=200, blank=True)
    kept_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    kept_at = models.DateTimeField()

    class Meta:
        db_table = "deals_worksheetversion"
        ordering = ["-number"]
        constraints = [models.UniqueConstraint("worksheet", "number", name="worksheet_version_once")]


class WorksheetDefaults(models.Model):
    """What a team assumes, by the keys of inputs: in general, by a neighborhood's grade, or in one county, city or neighborhood."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    grade = models.CharField(max_length=1, choices=AreaGrade.Grade.choices, blank=True)
    area = models.ForeignKey(Area, null=True, on_delete=models.CASCADE, related_name="+")
    values = models.JSONField(default=dict)
    changed_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    changed_at = models.DateTimeField()

    class Meta:
        db_table = "deals_worksheetdefaults"
        verbose_name_plural = "worksheet defaults"
        constraints = [
            models.UniqueConstraint(fields=["team", "grade", "area"], name="worksheet_defaults_once", nulls_distinct=False),
            models.CheckConstraint(condition=Q(grade="") | Q(area=None), name="worksheet_defaults_of_one_kind"),
        ]
