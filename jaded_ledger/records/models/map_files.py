"""Pictures of the ground that staff brought: a background for the map, and the ground's elevation."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.contrib.gis.db import models
from django.db.models import Q


class MapFile(models.Model):
    """A file of the installation's own map: a georeferenced picture, a pyramid of tiles, or elevations. It lies in ``MAP_FILES``.

    ``bounds`` is the ground that it covers, in degrees (WGS 84). Elevations are in meters.
    """

    class Kind(models.TextChoices):
        PICTURE = "picture", "picture (GeoTIFF)"
        TILES = "tiles", "tiles (PMTiles)"
        ELEVATION = "elevation", "elevation (GeoTIFF)"

    kind = models.CharField(max_length=12, choices=Kind.choices)
    name = models.CharField(max_length=120)
    credit = models.CharField(max_length=200, blank=True, help_text="Whom the map names for it.")
    file = models.CharField(max_length=120, help_text="Its name in the folder of map files.")
    bounds = models.PolygonField(srid=4326)
    lowest_zoom = models.PositiveSmallIntegerField(default=0)
    closest_zoom = models.PositiveSmallIntegerField(default=22)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    added_at = models.DateTimeField()
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-added_at", "-id"]
        constraints = [
            models.CheckConstraint(condition=~Q(name=""), name="map_file_has_name"),
            models.CheckConstraint(condition=Q(kind__in=["picture", "tiles", "elevation"]), name="map_file_kind_known"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> Path:
        return Path(settings.MAP_FILES) / self.file
