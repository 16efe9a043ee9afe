"""How far the records reach, how full they are, and which day the world stands at."""

from __future__ import annotations

from datetime import date

from django.db import models
from django.db.models import F, Q

from jaded_ledger.records.models.parcels import County


class Coverage(models.Model):
    """Through which day one kind of record of a county has been taken in."""

    county = models.ForeignKey(County, on_delete=models.CASCADE, related_name="coverage")
    kind = models.CharField(max_length=20)
    recorded_through = models.DateField()

    class Meta:
        constraints = [models.UniqueConstraint("county", "kind", name="coverage_once")]


def earliest_days() -> dict[int, date]:
    """Return for each county by id the day through which all its kinds of record reach."""
    found = Coverage.objects.order_by().values_list("county_id").annotate(day=models.Min("recorded_through"))
    return dict(found)


def percent_known(known: int, parcels: int) -> int:
    """Return the share of parcels with a value in whole percent: 100 only where all have one, at least 1 where any has."""
    if not parcels:
        return 0
    return max(100 * known // parcels, 1 if known else 0)


class FillRate(models.Model):
    """How many of a county's parcels have a value for a trait, of those that it can apply to.

    It does not apply to those of which it is known that there was no such event: what was never listed has no list price.
    """

    county = models.ForeignKey(County, on_delete=models.CASCADE, related_name="fill_rates")
    trait = models.CharField(max_length=140)
    known = models.PositiveIntegerField()
    parcels = models.PositiveIntegerField(help_text="To how many it can apply.")
    none = models.PositiveIntegerField(default=0, help_text="To how many others it can't.")
    commonest = models.JSONField(default=list, help_text="Pairs of value and count, most parcels first; for traits with few values.")
    spread = models.JSONField(default=list, help_text="Low, middle and high value (5th, 50th and 95th percentile) of a figure.")

    class Meta:
        constraints = [
            models.UniqueConstraint("county", "trait", name="fill_rate_once"),
            models.CheckConstraint(condition=Q(known__lte=F("parcels")), name="fill_rate_share"),
        ]

    @property
    def share(self) -> int:
        """Whole percent of parcels with a value."""
        return percent_known(self.known, self.parcels)

    @property
    def is_mostly_blank(self) -> bool:
        return self.known * 2 < self.parcels

    @property
    def applies(self) -> bool:
        """Whether there is a parcel that it can apply to."""
        return self.parcels > 0


class World(models.Model):
    """The demo world: the day it stands at, which is the application's today while it is loaded."""

    today = models.DateField()
    is_complete = models.BooleanField(default=False, help_text="Whether loading it came to its end.")


class FactsVersion(models.Model):
    """A number that goes up whenever facts are derived, so that what was counted before is known to be old. One row."""

    number = models.PositiveBigIntegerField(default=0)


class CountyFactsVersion(models.Model):
    """Which version of one county's facts stands: another one whenever a row of theirs, or an area's figures, may differ."""

    county = models.OneToOneField(County, primary_key=True, on_delete=models.CASCADE, related_name="+")
    version = models.UUIDField(help_text="Drawn by lot, so that no other history of the same county has it.")

    class Meta:
        verbose_name_plural = "versions of counties' facts"
