"""Vector tiles of what is on record: parcels, and what lies around them. They carry geometry and identity, and no search.

The form is Mapbox Vector Tile 2.1, as PostGIS writes it; tiles are numbered as in OGC's Two Dimensional Tile Matrix Set
(WebMercatorQuad, OGC 17-083r4). Layers: ``parcels`` and ``points`` (of parcels without an outline) have the parcel's id as the
feature's; ``features`` has ``layer``, ``class`` and ``name``; ``areas`` has ``kind`` and ``name``.
"""

from __future__ import annotations

from django.db import connection

CLOSEST = 15
"""The closest zoom of a tile, which is 512 pixels wide; closer in, its lines are drawn larger."""
PARCELS_FROM = 12
"""Farther out a parcel is smaller than a pixel or two, and a tile would hold most of a county."""
_EXTENT, _BUFFER = 4096, 64
# ST_AsMVT passes over what is outside the tile, which ST_AsMVTGeom gives as null; a condition on it would have it reckoned twice.
_PARCELS = """
SELECT ST_AsMVT(part, 'parcels', %(extent)s, 'geom', 'id') FROM (
  SELECT shape.parcel_id AS id, ST_AsMVTGeom(shape.drawn, tile.box, %(extent)s, %(buffer)s, true) AS geom
    FROM records_parcelshape shape, tile
   WHERE shape.superseded_at IS NULL AND shape.outline && tile.degrees
) part
"""
_POINTS = """
SELECT ST_AsMVT(part, 'points', %(extent)s, 'geom', 'id') FROM (
  SELECT parcel.id, ST_AsMVTGeom(ST_Transform(parcel.point::geometry, 3857), tile.box, %(extent)s, %(buffer)s, true) AS geom
    FROM records_parcel parcel, tile
   WHERE parcel.retired_on IS NULL AND parcel.point && tile.degrees::geography
     AND NOT EXISTS (SELECT FROM records_parcelshape shape WHERE shape.parcel_id = parcel.id AND shape.superseded_at IS NULL)
) part
"""
_FEATURES = """
SELECT ST_AsMVT(part, 'features', %(extent)s, 'geom', 'id') FROM (
  SELECT feature.id, feature.layer, feature.class_code AS class, initcap(feature.name) AS name,
         ST_AsMVTGeom(feature.drawn, tile.box, %(extent)s, %(buffer)s, true) AS geom
    FROM records_mapfeature feature, tile
   WHERE feature.superseded_at IS NULL AND feature.geometry && tile.degrees
     AND (%(is_near)s OR feature.layer <> 'road')
) part
"""
_AREAS = """
SELECT ST_AsMVT(part, 'areas', %(extent)s, 'geom', 'id') FROM (
  SELECT entry.id, entry.kind, area.text AS name,
         ST_AsMVTGeom(ST_Transform(entry.geometry, 3857), tile.box, %(extent)s, %(buffer)s, true) AS geom
    FROM records_areaentry entry JOIN records_area area ON area.id = entry.area_id, tile
   WHERE entry.superseded_at IS NULL AND entry.geometry && tile.degrees
) part
"""
_TILE = """
WITH tile AS (
  SELECT box, ST_Transform(ST_Expand(box, (ST_XMax(box) - ST_XMin(box)) * %(buffer)s / %(extent)s), 4326) AS degrees
    FROM ST_TileEnvelope(%(zoom)s, %(column)s, %(row)s) AS box
)
SELECT {parts}
"""


def is_tile(zoom: int, column: int, row: int) -> bool:
    """Return whether there is such a tile.

    >>> is_tile(1, 1, 1), is_tile(1, 2, 0), is_tile(CLOSEST + 1, 0, 0)
    (True, False, False)
    """
    return 0 <= zoom <= CLOSEST and 0 <= column < 2**zoom and 0 <= row < 2**zoom


def tile(zoom: int, column: int, row: int) -> bytes:
    """Return a tile, which is empty where nothing is on record."""
    is_near = zoom >= PARCELS_FROM
    parts = (_PARCELS, _POINTS, _FEATURES, _AREAS) if is_near else (_FEATURES, _AREAS)
    # Tiles in a row are one tile with the layers of all.
    statement = _TILE.format(parts=" || ".join(f"COALESCE(({part}), '')" for part in parts))
    given = {"zoom": zoom, "column": column, "row": row, "extent": _EXTENT, "buffer": _BUFFER, "is_near": is_near}
    with connection.cursor() as cursor:
        cursor.execute(statement, given)
        return bytes(cursor.fetchone()[0])
