"""Counties, parcels, their shapes, and what the assessment roll says of them."""

from __future__ import annotations

from django.contrib.gis.db import models
from django.contrib.gis.db.models.functions import PointOnSurface, Transform
from django.db.models import F, Q
from django.db.models.functions import Cast, Upper

from jaded_ledger.core.criteria import parcel_numbers
from jaded_ledger.records.models.names import Area, Owner, RecordedAddress, RecordedName, Street
from jaded_ledger.records.models.provenance import Recorded, versions


class County(models.Model):
    """A county whose records are taken in."""

    name = models.CharField(max_length=60)
    state = models.CharField(max_length=2)
    fips = models.CharField(max_length=5, unique=True, help_text="State and county code, five digits.")
    parcel_number_mask = models.CharField(max_length=40, help_text="Such as NN-NNN-NNN[-UUU], the unit segment in brackets.")
    assessment_ratio = models.DecimalField(max_digits=5, decimal_places=4, help_text="Assessed over market value, such as 1 or 0.8.")

    class Meta:
        verbose_name_plural = "counties"
        constraints = [
            models.UniqueConstraint(Upper("name"), "state", name="county_name_once"),
            models.CheckConstraint(condition=Q(fips__regex=r"^\d{5}$"), name="county_fips_form"),
            models.CheckConstraint(condition=Q(assessment_ratio__gt=0, assessment_ratio__lte=1), name="county_ratio_in_range"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def mask(self) -> parcel_numbers.Mask:
        return parcel_numbers.mask(self.parcel_number_mask)


class Parcel(models.Model):
    """A parcel's identity: its county and normalised number. Retired, never deleted.

    ``parent`` is the parcel a condominium unit stands on; ``successors`` are those it was split, merged or renumbered into.
    """

    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="parcels")
    number_key = models.CharField(max_length=40, db_collation="C", help_text="The number without separators, zero-padded.")
    number = models.CharField(max_length=60, help_text="The number as the county prints it.")
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="units")
    successors = models.ManyToManyField("self", symmetrical=False, related_name="predecessors")
    retired_on = models.DateField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint("county", "number_key", name="parcel_number_once"),
            models.CheckConstraint(condition=~Q(number_key=""), name="parcel_has_number"),
            models.CheckConstraint(condition=~Q(parent=F("id")), name="parcel_not_its_own_parent"),
        ]

    def __str__(self) -> str:
        return self.number


class ParcelShape(Recorded):
    """A parcel's outline. ``place`` represents it: a parcel is in an area when this point is.

    ``outline`` and ``place`` are in degrees (WGS 84); ``drawn`` is the outline in web mercator, for map tiles.
    """

    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="shapes")
    outline = models.MultiPolygonField(srid=4326)
    place = models.GeneratedField(
        expression=Cast(PointOnSurface("outline"), models.PointField(srid=4326, geography=True)),
        output_field=models.PointField(srid=4326, geography=True),
        db_persist=True,
    )
    drawn = models.GeneratedField(expression=Transform("outline", 3857), output_field=models.MultiPolygonField(srid=3857), db_persist=True)

    class Meta:
        constraints = versions("parcel_shape", "parcel")


class RollEntry(Recorded):
    """What the assessment roll says of a parcel. None is unknown; the county's 0 stays 0 where it means something."""

    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="roll_entries")
    situs = models.ForeignKey(RecordedAddress, null=True, on_delete=models.PROTECT, related_name="+")
    house_number = models.PositiveIntegerField(null=True)
    street = models.ForeignKey(Street, null=True, on_delete=models.PROTECT, related_name="+")
    municipality = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    city = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    zip = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    subdivision = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    land_use = models.CharField(max_length=40, blank=True, help_text="The county's own code or words.")
    property_class = models.PositiveSmallIntegerField(null=True)
    beds = models.PositiveSmallIntegerField(null=True)
    baths = models.FloatField(null=True)
    living_area = models.PositiveIntegerField(null=True, help_text="Square feet.")
    lot_sqft = models.PositiveIntegerField(null=True)
    year_built = models.PositiveSmallIntegerField(null=True)
    land_value = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    improvement_value = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    homestead = models.BooleanField(null=True)
    owner_name = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    mailing_address = models.ForeignKey(RecordedAddress, null=True, on_delete=models.PROTECT, related_name="+")
    owner = models.ForeignKey(Owner, null=True, on_delete=models.PROTECT, related_name="roll_entries")

    class Meta:
        verbose_name_plural = "roll entries"
        constraints = [
            *versions("roll_entry", "parcel"),
            models.CheckConstraint(condition=Q(lot_sqft=None) | Q(lot_sqft__gt=0), name="roll_entry_lot_positive"),
            models.CheckConstraint(condition=Q(living_area=None) | Q(living_area__gt=0), name="roll_entry_area_positive"),
            models.CheckConstraint(condition=Q(year_built=None) | Q(year_built__gte=1600), name="roll_entry_year_plausible"),
            models.CheckConstraint(
                condition=(Q(land_value=None) | Q(land_value__gte=0)) & (Q(improvement_value=None) | Q(improvement_value__gte=0)),
                name="roll_entry_values_not_negative",
            ),
        ]
