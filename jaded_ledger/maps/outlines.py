"""Outlines that people draw or bring: mended where they cross themselves, refused where they enclose nothing; circles on the ellipsoid."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator

from django.contrib.gis.geos import GeometryCollection, GEOSException, GEOSGeometry, LinearRing, MultiPolygon, Point, Polygon
from django.db import connection

from jaded_ledger.core.bounded_programs import EndedError, run_bounded
from jaded_ledger.core.outline_mending import mend
from jaded_ledger.maps.messages import AreaError

MOST_CORNERS = 20_000
WIDEST = 60
"""So many degrees an area spans at most: more than any state but Alaska's westernmost islands."""
FARTHEST_NORTH = 85
_AT_ONCE = 40
"""An outline of so few corners is mended in a few milliseconds however it crosses itself; others in a process that can be ended."""
_SECONDS = 5
_CROSSES_TOO_OFTEN = "the outline crosses itself too often to be mended; draw it again with fewer crossings"
LEAST_METERS = 1.0
"""The least that an area may enclose, in square meters, and a circle's radius in meters."""
LONGEST_RADIUS = 500_000.0
_OF_CIRCLE = 256
"""So many corners of a circle lie inside it by less than 8 parts in 100,000 of its radius."""


def polygons_of(text: str) -> GEOSGeometry:
    """Return the geometry of a GeoJSON text (RFC 7946), in degrees. Raises AreaError."""
    try:
        geometry = json.loads(text)
        if not isinstance(geometry, dict) or geometry.get("type") not in ("Polygon", "MultiPolygon"):
            raise AreaError("an area is a polygon or several, as GeoJSON has them")
        parts = geometry["coordinates"] if geometry["type"] == "MultiPolygon" else [geometry["coordinates"]]
        return MultiPolygon([Polygon(*(LinearRing(_closed(ring)) for ring in part)) for part in parts], srid=4326)
    except AreaError:
        raise
    except (GEOSException, KeyError, TypeError, ValueError, IndexError, RecursionError):
        raise AreaError("the outline can't be read: it has at least three corners, each a longitude and a latitude in degrees") from None


def _closed(ring: list[list[float]]) -> list[tuple[float, float]]:
    """Return a ring that ends where it begins."""
    corners = [(float(longitude), float(latitude)) for longitude, latitude, *_ in ring]
    if not all(math.isfinite(one) for corner in corners for one in corner):
        raise ValueError("a corner is no place")
    return corners if corners[0] == corners[-1] else [*corners, corners[0]]


def _polygons(geometry: GEOSGeometry) -> Iterator[Polygon]:
    if isinstance(geometry, Polygon):
        yield geometry
    elif isinstance(geometry, GeometryCollection):
        for part in geometry:
            yield from _polygons(part)


def mended(geometry: GEOSGeometry) -> tuple[MultiPolygon, str]:
    """Return an outline as an area is kept, and what had to be done to it, blank for nothing. Raises AreaError for one that can't be."""
    if geometry.num_coords > MOST_CORNERS:
        raise AreaError(f"the outline has {geometry.num_coords:,} corners; an area has at most {MOST_CORNERS:,}")
    if geometry.empty:
        raise AreaError("the outline encloses nothing; draw at least three corners that do not lie in a line")
    west, south, east, north = geometry.extent
    if not (-180 <= west <= east <= 180 and -90 <= south <= north <= 90):
        raise AreaError("the outline lies off the map: it is not in degrees of longitude and latitude")
    if east - west > WIDEST or north - south > WIDEST or max(-south, north) > FARTHEST_NORTH:
        raise AreaError(f"the outline is more than {WIDEST} degrees wide, or reaches to a pole; draw a smaller one")
    is_mended = not geometry.valid
    parts = list(_polygons(_made_valid(geometry) if is_mended else geometry))
    found = MultiPolygon(parts, srid=4326)
    if not parts or square_meters(found) < LEAST_METERS:
        raise AreaError("the outline encloses nothing; draw at least three corners that do not lie in a line")
    note = f"Its outline crossed itself; it was mended, and has {len(parts)} part{'s' if len(parts) > 1 else ''} now." if is_mended else ""
    return found, note


def _made_valid(geometry: GEOSGeometry) -> GEOSGeometry:
    """Return an outline that crosses itself without its crossings. Raises AreaError where that takes too long."""
    outline = bytes(geometry.wkb)
    if geometry.num_coords <= _AT_ONCE:
        found = mend(outline)
    else:
        try:
            found = run_bounded("jaded_ledger.core.outline_mending", outline, _SECONDS)
        except EndedError:
            raise AreaError(_CROSSES_TOO_OFTEN) from None
    valid = GEOSGeometry(memoryview(found), srid=4326)
    if valid.num_coords > MOST_CORNERS:
        raise AreaError(_CROSSES_TOO_OFTEN)
    return valid


def square_meters(geometry: GEOSGeometry) -> float:
    """Return how large an area is, on the ellipsoid."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT ST_Area(%s::geometry::geography)", [geometry.hexewkb.decode()])
        return cursor.fetchone()[0]


def circle(center: Point, meters: float) -> MultiPolygon:
    """Return the places up to so many meters from a point, on the ellipsoid. Raises AreaError for no radius, or one too long."""
    if not LEAST_METERS <= meters <= LONGEST_RADIUS:
        raise AreaError(f"a circle reaches from {LEAST_METERS:,.0f} to {LONGEST_RADIUS:,.0f} meters from its center")
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT ST_X(corner), ST_Y(corner) FROM generate_series(0, %s) AS step,"
            " LATERAL (SELECT ST_Project(%s::geometry::geography, %s, -radians(360.0 * step / %s))::geometry) AS at (corner) ORDER BY step",
            [_OF_CIRCLE - 1, center.hexewkb.decode(), meters, _OF_CIRCLE],
        )
        corners = cursor.fetchall()
    return MultiPolygon(Polygon([*corners, corners[0]]), srid=4326)
