"""A small map as a picture of lines (SVG), drawn on the server: parcels, what lies around them, areas, and marks on some parcels."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.contrib.gis.geos import GEOSGeometry, Polygon
from django.db import connection

MOST_PARCELS = 4_000
"""With more parcels than this only those are drawn that wear a mark."""
# PostGIS writes paths with y downward, as SVG has it, when given y upward.
_AS_PATH = "ST_AsSVG(ST_TransScale({0}, -%(west)s, -%(north)s, %(scale)s, %(scale)s), 1, 1)"
_WAYS = f"""
SELECT feature.layer, initcap(feature.name), ST_Dimension(seen.shape) = 2, {_AS_PATH.format("seen.shape")}
  FROM records_mapfeature feature, LATERAL (SELECT ST_ClipByBox2D(feature.drawn, %(box)s::geometry::box2d) AS shape) seen
 WHERE feature.superseded_at IS NULL AND feature.geometry && %(degrees)s::geometry AND NOT ST_IsEmpty(seen.shape)
 ORDER BY ST_Dimension(seen.shape) DESC, feature.id
"""  # noqa: S608 - it is all our own
_PARCELS = f"""
SELECT shape.parcel_id, parcel.number, {_AS_PATH.format("shape.drawn")}
  FROM records_parcelshape shape JOIN records_parcel parcel ON parcel.id = shape.parcel_id
 WHERE shape.superseded_at IS NULL AND parcel.parent_id IS NULL AND shape.outline && %(degrees)s::geometry
   AND (%(marked)s::bigint[] IS NULL OR shape.parcel_id = ANY(%(marked)s::bigint[]))
 ORDER BY shape.parcel_id
"""  # noqa: S608
_COUNT = "SELECT count(*) FROM records_parcelshape shape WHERE shape.superseded_at IS NULL AND shape.outline && %(degrees)s::geometry"
_SHAPE = f"SELECT {_AS_PATH.format('ST_Transform(%(shape)s::geometry, 3857)')}"


@dataclass(frozen=True)
class DrawnWay:
    """A road, a shore, a park or a zone."""

    layer: str
    name: str
    is_area: bool
    path: str


@dataclass(frozen=True)
class DrawnParcel:
    """A parcel's outline with what it is marked as, blank for nothing."""

    parcel_id: int
    number: str
    path: str
    mark: str = ""


@dataclass(frozen=True)
class DrawnShape:
    """An area that is laid over the parcels; ``css`` is how it is drawn."""

    path: str
    css: str


@dataclass(frozen=True)
class SmallMap:
    """The picture, in pixels of its own box. ``told`` says in words what it shows."""

    width: int
    height: int
    ways: Sequence[DrawnWay]
    parcels: Sequence[DrawnParcel]
    shapes: Sequence[DrawnShape] = ()
    label: str = ""
    legend: Mapping[str, str] = field(default_factory=dict)
    """By mark, in words, what it stands for."""
    west: float = 0.0
    north: float = 0.0
    scale: float = 1.0
    """Where the picture's upper left corner lies in web mercator, and how many pixels make a unit of it."""


def _window(around: Iterable[GEOSGeometry], width: int, height: int, margin: float) -> tuple[Polygon, float]:
    """Return the part of the map, in web mercator, that holds some shapes in the picture's proportions, and pixels to a unit of it."""
    extents = [shape.transform(3857, clone=True).extent for shape in around]
    west, south = (min(extent[side] for extent in extents) for side in (0, 1))
    east, north = (max(extent[side] for extent in extents) for side in (2, 3))
    scale = min(width / max((east - west) * (1 + margin), 1.0), height / max((north - south) * (1 + margin), 1.0))
    x, y = (west + east) / 2, (south + north) / 2
    box = Polygon.from_bbox((x - width / scale / 2, y - height / scale / 2, x + width / scale / 2, y + height / scale / 2))
    box.srid = 3857
    return box, scale


def small_map(
    around: Sequence[GEOSGeometry],
    marks: Mapping[int, str],
    shapes: Sequence[tuple[GEOSGeometry, str]] = (),
    *,
    size: tuple[int, int] = (760, 380),
    margin: float = 0.12,
    label: str = "",
    legend: Mapping[str, str] | None = None,
) -> SmallMap:
    """Draw what lies around some shapes, in degrees (WGS 84), with marks on parcels by their ids, and shapes over them."""
    width, height = size
    box, scale = _window(around, width, height, margin)
    west, _, _, north = box.extent
    given: dict[str, Any] = {
        "west": west,
        "north": north,
        "scale": scale,
        "box": box.hexewkb.decode(),
        "degrees": box.transform(4326, clone=True).hexewkb.decode(),
    }
    with connection.cursor() as cursor:
        cursor.execute(_WAYS, given)
        ways = [DrawnWay(*row) for row in cursor.fetchall()]
        cursor.execute(_COUNT, given)
        is_many = cursor.fetchone()[0] > MOST_PARCELS
        cursor.execute(_PARCELS, given | {"marked": list(marks) if is_many else None})
        parcels = [DrawnParcel(*(*row, marks.get(row[0], ""))) for row in cursor.fetchall()]
        drawn = []
        for shape, css in shapes:
            cursor.execute(_SHAPE, given | {"shape": shape.hexewkb.decode()})
            drawn.append(DrawnShape(cursor.fetchone()[0], css))
    # What is marked is drawn last, over its neighbors' borders.
    parcels.sort(key=lambda parcel: bool(parcel.mark))
    return SmallMap(width, height, ways, parcels, drawn, label, legend or {}, west, north, scale)
