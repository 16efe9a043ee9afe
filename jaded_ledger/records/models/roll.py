"""Parcels' outlines, and what the assessment roll says of them."""

from __future__ import annotations

from django.contrib.gis.db import models
from django.contrib.gis.db.models.functions import PointOnSurface, Transform
from django.db.models import Q
from django.db.models.functions import Cast

from jaded_ledger.core.property import Tenure
from jaded_ledger.records.models.filed import OnParcel, filed
from jaded_ledger.records.models.names import Area, Owner, RecordedAddress, RecordedName, Street
from jaded_ledger.records.models.provenance import choices, holds, not_negative, one_of


class ParcelShape(OnParcel):
    """A parcel's outline. ``place`` represents it: a parcel is in an area when this point is.

    ``outline`` and ``place`` are in degrees (WGS 84); ``drawn`` is the outline in web mercator, for map tiles.
    """

    natural = ("parcel",)

    outline = models.MultiPolygonField(srid=4326)
    place = models.GeneratedField(
        expression=Cast(PointOnSurface("outline"), models.PointField(srid=4326, geography=True)),
        output_field=models.PointField(srid=4326, geography=True),
        db_persist=True,
    )
    drawn = models.GeneratedField(expression=Transform("outline", 3857), output_field=models.MultiPolygonField(srid=3857), db_persist=True)

    class Meta:
        constraints = filed("parcel_shape")


class RollEntry(OnParcel):
    """What the assessment roll says of a parcel. None is unknown; the county's 0 stays 0 where it means something."""

    natural = ("parcel",)
    sizes = ("living_area", "lot_sqft", "frontage", "depth", "year_built")

    situs = models.ForeignKey(RecordedAddress, null=True, on_delete=models.PROTECT, related_name="+")
    house_number = models.PositiveIntegerField(null=True)
    street = models.ForeignKey(Street, null=True, on_delete=models.PROTECT, related_name="+")
    municipality = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    city = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    zip = models.ForeignKey(Area, verbose_name="ZIP", null=True, on_delete=models.PROTECT, related_name="+")
    subdivision = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    neighborhood = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    school_district = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="+")
    land_use = models.CharField(max_length=40, blank=True, help_text="The county's own code or words.")
    property_class = models.PositiveSmallIntegerField(null=True)
    tenure = models.CharField(max_length=20, choices=choices(Tenure), blank=True)
    units = models.PositiveSmallIntegerField(null=True)
    beds = models.PositiveSmallIntegerField(null=True)
    baths = models.FloatField(null=True)
    living_area = models.PositiveIntegerField("living area, sq ft", null=True)
    lot_sqft = models.PositiveIntegerField("lot, sq ft", null=True)
    frontage = models.FloatField("frontage, ft", null=True)
    depth = models.FloatField("depth, ft", null=True)
    zoning = models.CharField(max_length=40, blank=True)
    sewer = models.CharField(max_length=40, blank=True)
    water = models.CharField(max_length=40, blank=True)
    waterfront = models.BooleanField(null=True)
    hoa_fee = models.DecimalField("association fee a month", max_digits=10, decimal_places=2, null=True)
    year_built = models.PositiveSmallIntegerField(null=True)
    land_value = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    improvement_value = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    market_value = models.DecimalField(max_digits=12, decimal_places=2, null=True, help_text="As the roll estimates it.")
    homestead = models.BooleanField(null=True)
    owner_name = models.ForeignKey(RecordedName, null=True, on_delete=models.PROTECT, related_name="+")
    mailing_address = models.ForeignKey(RecordedAddress, null=True, on_delete=models.PROTECT, related_name="+")
    owner = models.ForeignKey(Owner, null=True, on_delete=models.PROTECT, related_name="roll_entries")

    class Meta:
        verbose_name_plural = "roll entries"
        constraints = [
            *filed("roll_entry"),
            holds("roll_entry_lot_positive", Q(lot_sqft=None) | Q(lot_sqft__gt=0), "a lot of 0 is unknown"),
            holds("roll_entry_area_positive", Q(living_area=None) | Q(living_area__gt=0), "a living area of 0 is unknown"),
            holds("roll_entry_front_positive", Q(frontage=None) | Q(frontage__gt=0), "a frontage of 0 is unknown"),
            holds("roll_entry_year_plausible", Q(year_built=None) | Q(year_built__gte=1600), "was not built before 1600"),
            one_of("roll_entry", "tenure", Tenure, or_blank=True),
            not_negative("roll_entry_values", "land_value", "improvement_value", "market_value", "hoa_fee"),
        ]
