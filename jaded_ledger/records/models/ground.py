"""What the map says of an outline, kept until the outline or the map changes."""

from __future__ import annotations

from django.contrib.gis.db import models
from django.contrib.postgres.fields import ArrayField

from jaded_ledger.records.models.roll import ParcelShape


class OutlineGround(models.Model):
    """The flood zones, the road and the ways near one recorded outline. Derived, as facts are.

    An outline that is corrected is another row; ``layers`` says of which state of the county's layers this was told.
    """

    shape = models.OneToOneField(ParcelShape, primary_key=True, on_delete=models.CASCADE, related_name="+")
    layers = models.CharField(max_length=80)
    flood_zones = ArrayField(models.TextField())
    road_class = models.TextField(null=True)
    feet_to = models.JSONField(default=dict, help_text="How far the nearest way of each kind is, in feet.")
