"""The matches of a search in a part of the map: each by its parcel's id, or where they are many counted on a grid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.contrib.gis.db.models import Extent
from django.contrib.gis.geos import Polygon
from django.db import connection
from django.db.models import Count, Exists, F, FloatField, Func, OuterRef, QuerySet
from django.http import QueryDict

from jaded_ledger.find.answer import Answer
from jaded_ledger.maps.tiles import PARCELS_FROM
from jaded_ledger.records.models import AreaEntry, County, Parcel, ParcelFacts, ParcelShape

MOST_DRAWN = 20_000
"""More matches than this are counted on the grid however close the map is."""
CELL = 48
"""The side of a cell of the grid, in the map's pixels."""
_METERS_PER_PIXEL = 2 * 20_037_508.342789244 / 256
"""At zoom 0, along the equator (OGC 17-083r4, WebMercatorQuad)."""
_WORLD = 20_037_508.35


Degrees = tuple[float, float, float, float]
"""West, south, east, north."""


class NoViewError(ValueError):
    """What was sent is no part of a map."""


@dataclass(frozen=True)
class View:
    """A part of the map, in meters of web mercator (EPSG:3857), and how close it is."""

    west: float
    south: float
    east: float
    north: float
    zoom: float

    @property
    def box(self) -> Polygon:
        """In degrees, as outlines are stored."""
        box = Polygon.from_bbox((self.west, self.south, self.east, self.north))
        box.srid = 3857
        box.transform(4326)
        return box

    @property
    def meters_per_pixel(self) -> float:
        """How long a pixel is, in meters of web mercator."""
        return _METERS_PER_PIXEL / 2**self.zoom

    @property
    def cell(self) -> float:
        """The side of a cell of the grid, in meters."""
        return CELL * _METERS_PER_PIXEL / 2 ** round(self.zoom)


def view_of(query: QueryDict, name: str = "box") -> View:
    """Return the part of the map that a request is about: ``box`` as west,south,east,north, and ``zoom``. Raises NoViewError."""
    try:
        west, south, east, north = (float(side) for side in query.get(name, "").split(","))
        zoom = float(query.get("zoom", ""))
    except ValueError:
        raise NoViewError("the box is four figures, west,south,east,north, and the zoom is one") from None
    if not (-_WORLD <= west < east <= _WORLD and -_WORLD <= south < north <= _WORLD and 0 <= zoom <= 30):
        raise NoViewError("the box lies off the map")
    return View(west, south, east, north, zoom)


def shapes_in(box: Polygon) -> QuerySet[ParcelShape]:
    """Return the outlines that reach into a box."""
    return ParcelShape.objects.filter(superseded_at=None, outline__bboverlaps=box)


def points_in(box: Polygon) -> QuerySet[Parcel]:
    """Return the parcels in a box of which no outline is on record, only a point."""
    drawn = ParcelShape.objects.filter(superseded_at=None, parcel=OuterRef("pk"))
    return Parcel.objects.filter(~Exists(drawn), retired_on=None, point__coveredby=box)


def _cells(shapes: QuerySet[ParcelShape], cell: float) -> list[tuple[int, int, int]]:
    """Return how many outlines have their middle in each cell of a grid: column, row, count."""
    # Its box is kept with an outline; that of it in web mercator takes no projecting of every corner.
    middle = "floor((ST_{0}Min(%(expressions)s) + ST_{0}Max(%(expressions)s)) / 2 / %(cell)s)"
    at = {side.casefold(): Func(F("drawn"), template=middle.format(side), cell=repr(cell), output_field=FloatField()) for side in "XY"}
    counted = shapes.order_by().values(**at).annotate(count=Count("pk")).values_list("x", "y", "count")
    return [(int(x), int(y), count) for x, y, count in counted]


def _reaching_into(box: Polygon) -> QuerySet[Any]:
    """Return the ids of the parcels that reach into a box, or whose point lies in it."""
    return shapes_in(box).order_by().values("parcel").union(points_in(box).order_by().values("pk"), all=True)


def matches_in(view: View, matches: QuerySet[ParcelFacts], seen: View | None = None) -> dict[str, Any]:
    """Return the matches in a part of the map: ``ids``, or ``cells`` (column, row, count) with the side of one in meters.

    More is asked about than is seen, so that a short move shows what is right at once: ``here`` counts the matches that are seen.
    """
    box = view.box
    # A tile of 512 pixels is one zoom behind the map, which counts by 256.
    if view.zoom >= PARCELS_FROM + 1:
        # From the few outlines in view to their facts: the planner can tell how few they are, and not of any search how many match.
        found = list(matches.filter(pk__in=_reaching_into(box)).order_by().values_list("pk", flat=True)[: MOST_DRAWN + 1])
        if len(found) <= MOST_DRAWN:
            return {"ids": found, "here": matches.filter(pk__in=_reaching_into((seen or view).box)).order_by().count()}
    shapes = shapes_in(box).filter(parcel__in=matches.values("pk"))
    return {"cells": _cells(shapes, view.cell), "cell": view.cell}


def extent_of(answer: Answer) -> Degrees | None:
    """Return the box about the matches of a search; of so many that each outline can't be looked at, that about their counties.

    Where nothing matches it is that about the counties, too. None where neither outlines nor borders are on record.
    """
    found = about_outlines(answer.matches) if answer.balance.matches <= MOST_DRAWN else None
    return found or _about_counties(answer.counties) or _about_all()


def about_outlines(matches: QuerySet[ParcelFacts]) -> Degrees | None:
    """Return the box about the outlines of parcels."""
    shapes = ParcelShape.objects.filter(superseded_at=None, parcel__in=matches.values("pk"))
    return shapes.aggregate(extent=Extent("outline"))["extent"]


def _about_counties(counties: Sequence[County]) -> Degrees | None:
    borders = AreaEntry.objects.filter(superseded_at=None, kind="county", county__in=counties)
    return borders.aggregate(extent=Extent("geometry"))["extent"]


def _about_all() -> Degrees | None:
    """Return the box about all outlines, by what the planner knows of them: reading a million takes half a minute."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT ST_XMin(box), ST_YMin(box), ST_XMax(box), ST_YMax(box)"
            " FROM ST_EstimatedExtent('records_parcelshape', 'outline') AS box WHERE box IS NOT NULL"
        )
        return cursor.fetchone()
