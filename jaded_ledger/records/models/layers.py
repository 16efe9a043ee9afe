"""What lies around parcels: areas with their shape and population, roads, water, rail, flood zones, parks."""

from __future__ import annotations

from django.contrib.gis.db import models
from django.contrib.gis.db.models.functions import Transform
from django.contrib.postgres.indexes import GistIndex
from django.db.models import Q

from jaded_ledger.core.ground import Layer, Way
from jaded_ledger.records.models.filed import Filed, filed
from jaded_ledger.records.models.names import Area
from jaded_ledger.records.models.provenance import choices, holds, one_of

_STANDS = Q(superseded_at=None)
OF_WAY = {
    Way.HIGHWAY: Q(layer=Layer.HIGHWAY) & _STANDS,
    Way.ARTERIAL: Q(layer=Layer.ROAD, class_code__icontains="arterial") & _STANDS,
    Way.COLLECTOR: Q(layer=Layer.ROAD, class_code__icontains="collector") & _STANDS,
    Way.RAIL: Q(layer=Layer.RAIL) & _STANDS,
    Way.WATER: Q(layer=Layer.WATER) & _STANDS,
}
"""Which features are the ways that parcels lie near or far from."""


class AreaEntry(Filed):
    """What is on record of an area: how many live there, and where its border runs."""

    natural = ("kind", "area")

    kind = models.CharField(max_length=20, choices=Area.AreaKind.choices)
    area = models.ForeignKey(Area, null=True, on_delete=models.PROTECT, related_name="entries")
    population = models.PositiveIntegerField(null=True)
    geometry = models.MultiPolygonField(srid=4326, null=True)

    class Meta:
        verbose_name_plural = "area entries"
        constraints = [*filed("area_entry"), holds("area_entry_names_area", Q(area__isnull=False), "names no area")]


class MapFeature(Filed):
    """A line or an area of a map layer, in degrees (WGS 84); ``drawn`` is the same in web mercator."""

    natural = ("layer", "number")

    layer = models.CharField(max_length=20, choices=choices(Layer))
    number = models.CharField(max_length=40)
    name = models.CharField(max_length=120, blank=True)
    class_code = models.CharField("class", max_length=40, blank=True, help_text="A road's class, a flood zone's letter.")
    is_barrier = models.BooleanField("barrier", default=False, help_text="Whether neighborhoods end at it.")
    geometry = models.GeometryField(srid=4326)
    drawn = models.GeneratedField(expression=Transform("geometry", 3857), output_field=models.GeometryField(srid=3857), db_persist=True)

    class Meta:
        constraints = [
            *filed("map_feature"),
            one_of("map_feature", "layer", Layer),
            holds("map_feature_has_number", ~Q(number=""), "has no number"),
        ]
        # For the nearest of each: among all roads it would be looked for long where it is far.
        indexes = [GistIndex(fields=["drawn"], condition=condition, name=f"feature_{way}") for way, condition in OF_WAY.items()]
