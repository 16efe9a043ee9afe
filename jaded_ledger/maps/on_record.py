"""Areas that the records have at a point: neighborhoods, zones, water, parks, and the ground between barriers."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.gis.geos import GEOSGeometry, MultiPolygon, Point, Polygon
from django.db import connection

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.maps.outlines import circle
from jaded_ledger.records.models import AreaEntry, MapFeature

REACH = 1609.344
"""How far the ground between barriers is followed, in meters: a mile."""
_BETWEEN = """
WITH around AS (SELECT %(around)s::geometry AS edge),
barriers AS (
  SELECT CASE WHEN ST_Dimension(feature.geometry) = 2 THEN ST_Boundary(feature.geometry) ELSE feature.geometry END AS line
    FROM records_mapfeature feature, around
   WHERE feature.superseded_at IS NULL AND feature.is_barrier AND ST_Intersects(feature.geometry, around.edge)
),
faces AS (
  SELECT (ST_Dump(ST_Polygonize(lines.every))).geom AS face
    FROM (SELECT ST_Union(line) AS every FROM (SELECT line FROM barriers UNION ALL SELECT ST_Boundary(edge) FROM around) each) lines
)
SELECT ST_AsEWKB(face) FROM faces, around
 WHERE ST_Covers(face, %(point)s::geometry) AND ST_Covers(ST_Buffer(around.edge, 1e-6), face) LIMIT 1
"""


@dataclass(frozen=True)
class OnRecord:
    """An area that is on record at a point: what it is, its name, and its outline."""

    what: str
    name: str
    geometry: MultiPolygon


def _several(geometry: GEOSGeometry) -> MultiPolygon:
    return geometry if isinstance(geometry, MultiPolygon) else MultiPolygon(geometry, srid=4326)


def between_barriers(point: Point, meters: float = REACH) -> MultiPolygon | None:
    """Return the ground that can be reached from a point without crossing a barrier, up to so many meters away.

    None where the point lies in water.
    """
    if MapFeature.objects.filter(superseded_at=None, layer="water", geometry__covers=point).exists():
        return None
    around = circle(point, meters)
    with connection.cursor() as cursor:
        cursor.execute(_BETWEEN, {"around": around[0].hexewkb.decode(), "point": point.hexewkb.decode()})
        row = cursor.fetchone()
    return _several(GEOSGeometry(memoryview(row[0]))) if row else around


def areas_at(point: Point) -> list[OnRecord]:
    """Return the areas on record that hold a point, the smallest kinds first, and last the ground between barriers."""
    found = []
    entries = AreaEntry.objects.filter(superseded_at=None, geometry__covers=point).exclude(kind="county").select_related("area")
    for entry in entries.order_by("kind"):
        if entry.geometry is not None:
            name = in_reading_case(entry.area.text) if entry.area else ""
            found.append(OnRecord(entry.get_kind_display(), name, entry.geometry))
    features = MapFeature.objects.filter(superseded_at=None, geometry__covers=point).order_by("layer", "id")
    for feature in features:
        if isinstance(feature.geometry, Polygon | MultiPolygon):
            name = in_reading_case(feature.name) or " ".join(filter(None, (feature.get_layer_display(), feature.class_code)))
            found.append(OnRecord(feature.get_layer_display(), name, _several(feature.geometry)))
    if ground := between_barriers(point):
        found.append(OnRecord("between barriers", "Between barriers", ground))
    return found
