"""What a team decides of comps, what it sets by hand, and the comps that it keeps as they were on a day."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from jaded_ledger.accounts.deletion import Deletable
from jaded_ledger.accounts.models import Team
from jaded_ledger.core.comps.terms import GRADES
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.models import County, Parcel

_USER = settings.AUTH_USER_MODEL


class CompDecision(models.Model):
    """That a sale is out of a subject's comps, or in by hand though the lines leave it out, with the reason."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    subject = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    comp = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    sold_on = models.DateField()
    is_in = models.BooleanField()
    reason = models.CharField(max_length=200, blank=True)
    decided_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    decided_at = models.DateTimeField()

    class Meta:
        db_table = "deals_compdecision"
        constraints = [models.UniqueConstraint("team", "subject", "comp", "sold_on", name="comp_decision_once")]


class CompPool(models.Model):
    """The lines that a team chose for the comps of one property, in the place of its county's."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    subject = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    lines = models.TextField(blank=True)
    changed_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    changed_at = models.DateTimeField()

    class Meta:
        db_table = "deals_comppool"
        constraints = [models.UniqueConstraint("team", "subject", name="comp_pool_once")]


class ConditionGrade(models.Model):
    """The condition that somebody saw in photographs and remarks: of a property as it was sold on a day, or as it stands now (no day)."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    sold_on = models.DateField(null=True)
    grade = models.CharField(max_length=10, choices=list(GRADES.items()))
    graded_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    graded_at = models.DateTimeField()

    class Meta:
        db_table = "deals_conditiongrade"
        constraints = [
            models.UniqueConstraint(fields=["team", "parcel", "sold_on"], name="condition_grade_once", nulls_distinct=False),
            models.CheckConstraint(condition=Q(grade__in=list(GRADES)), name="condition_grade_known"),
        ]


class CompSettings(models.Model):
    """The lines that a county's pools begin with, and the constants that a team set by hand, by the keys of their terms.

    Shares and logs of prices, as the core has them; ``grade-…`` are the amounts of graded conditions, ``size-step`` is a living area.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    county = models.ForeignKey(County, on_delete=models.CASCADE, related_name="+")
    lines = models.TextField(blank=True)
    constants = models.JSONField(default=dict)
    changed_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    changed_at = models.DateTimeField()

    class Meta:
        db_table = "deals_compsettings"
        verbose_name_plural = "comp settings"
        constraints = [models.UniqueConstraint("team", "county", name="comp_settings_once")]


class CompRange(models.Model):
    """The range of a property by its comps, computed when a team asked for it or, of lists that are marked so, by night.

    In dollars and percent; ``value`` and what follows are null where no comp was in.
    """

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="+")
    count = models.PositiveSmallIntegerField()
    value = models.IntegerField(null=True)
    low = models.IntegerField(null=True)
    median = models.IntegerField(null=True)
    high = models.IntegerField(null=True)
    spread = models.FloatField(null=True)
    repaired_count = models.PositiveSmallIntegerField(default=0)
    repaired_value = models.IntegerField(null=True, help_text="By what sold after repair; null where no such comp was in.")
    price = models.IntegerField(null=True, help_text="What was asked then, or else the estimated value.")
    price_to = models.FloatField(null=True, help_text="The price in percent of the value.")
    computed_on = models.DateField()

    class Meta:
        db_table = "deals_comprange"
        constraints = [models.UniqueConstraint("team", "parcel", name="comp_range_once")]


class CompedList(models.Model):
    """A list whose ranges were asked for: whether each night anew, and whether the worker is at it."""

    list = models.OneToOneField(ParcelList, primary_key=True, on_delete=models.CASCADE, related_name="comped")
    is_nightly = models.BooleanField(default=False)
    is_waiting = models.BooleanField(default=False)
    computed_on = models.DateField(null=True)

    class Meta:
        db_table = "deals_compedlist"


class KeptComps(Deletable):
    """Comps as they were when somebody kept them: ``content`` is all that the page showed."""

    team = models.ForeignKey(Team, on_delete=models.CASCADE, related_name="+")
    parcel = models.ForeignKey(Parcel, on_delete=models.CASCADE, related_name="kept_comps")
    kept_by = models.ForeignKey(_USER, null=True, on_delete=models.SET_NULL, related_name="+")
    kept_at = models.DateTimeField()
    lines = models.TextField(blank=True)
    of_set = models.CharField(max_length=10)
    value = models.IntegerField(null=True, help_text="In dollars; null where no comp was in.")
    content = models.JSONField()

    class Meta:
        db_table = "deals_keptcomps"
        ordering = ["-kept_at", "-pk"]
        verbose_name_plural = "kept comps"
        constraints = [models.CheckConstraint(condition=Q(of_set__in=["as-is", "repaired"]), name="kept_comps_set_known")]

    def __str__(self) -> str:
        return f"Comps of {self.parcel}"
