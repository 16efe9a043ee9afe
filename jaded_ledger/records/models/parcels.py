"""Counties and parcels."""

from __future__ import annotations

from django.contrib.gis.db import models
from django.db.models import F, Q
from django.db.models.functions import Upper

from jaded_ledger.core.criteria import parcel_numbers


class County(models.Model):
    """A county whose records are taken in."""

    name = models.CharField(max_length=60)
    state = models.CharField(max_length=2)
    fips = models.CharField(
        max_length=5, unique=True, null=True, blank=True, help_text="State and county code, five digits; blank where it does not matter."
    )
    parcel_number_mask = models.CharField(
        max_length=40, help_text="Such as NN-NNN-NNN[-UUU], the unit segment in brackets; * where numbers follow no form."
    )
    assessment_ratio = models.DecimalField(max_digits=5, decimal_places=4, help_text="Assessed over market value, such as 1 or 0.8.")
    relisting_gap_days = models.PositiveSmallIntegerField(
        default=30, help_text="How long a property must be off the market for its next listing to be new."
    )

    class Meta:
        verbose_name_plural = "counties"
        constraints = [
            models.UniqueConstraint(Upper("name"), "state", name="county_name_once"),
            models.CheckConstraint(condition=Q(fips=None) | Q(fips__regex=r"^\d{5}$"), name="county_fips_form"),
            models.CheckConstraint(condition=Q(assessment_ratio__gt=0, assessment_ratio__lte=1), name="county_ratio_in_range"),
            models.CheckConstraint(condition=Q(relisting_gap_days__lte=730), name="county_gap_in_range"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def mask(self) -> parcel_numbers.Mask:
        return parcel_numbers.mask(self.parcel_number_mask)


class Parcel(models.Model):
    """A parcel's identity: its county and normalized number. Retired, never deleted.

    ``parent`` is the parcel a condominium unit stands on; ``successors`` are those it was split, merged or renumbered into.
    """

    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="parcels")
    number_key = models.CharField(max_length=40, db_collation="C", help_text="The number without separators, zero-padded.")
    number = models.CharField(max_length=60, help_text="The number as the county prints it.")
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="units")
    successors = models.ManyToManyField("self", symmetrical=False, related_name="predecessors")
    retired_on = models.DateField(null=True)
    begun_at = models.ForeignKey(
        "records.RecordedAddress", null=True, on_delete=models.PROTECT, related_name="+",
        help_text="The address at which a listing began it; it stands for the property's own while no roll tells.",
    )  # fmt: skip
    point = models.PointField(srid=4326, geography=True, null=True, help_text="Where a file says that it lies, while it has no outline.")

    class Meta:
        constraints = [
            models.UniqueConstraint("county", "number_key", name="parcel_number_once"),
            models.CheckConstraint(condition=~Q(number_key=""), name="parcel_has_number"),
            models.CheckConstraint(condition=~Q(parent=F("id")), name="parcel_not_its_own_parent"),
        ]
        # They are few, and left out of what is counted without a look at all the others.
        indexes = [models.Index("id", condition=Q(retired_on__isnull=False), name="parcel_retired")]

    def __str__(self) -> str:
        return self.number
