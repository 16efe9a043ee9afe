"""The ground's height and slope at places, from the elevations that staff brought.

Slope is Horn's (Proceedings of the IEEE 69, 1981), from the eight cells around a place's own.
"""

from __future__ import annotations

import math
from array import array
from collections.abc import Mapping

from django.contrib.gis.gdal import GDALRaster, SpatialReference
from django.contrib.gis.gdal.srs import AxisOrder, CoordTransform
from django.contrib.gis.geos import Point

from jaded_ledger.core.ground import Terrain
from jaded_ledger.core.lengths import METERS_PER_FOOT
from jaded_ledger.core.outlines import ground_at
from jaded_ledger.records.models import MapFile

Degrees = tuple[float, float]


_TYPES = {1: "B", 2: "H", 3: "h", 4: "I", 5: "i", 6: "f", 7: "d"}
"""How GDAL's types of cells are written in Python's arrays."""


class _Elevations:
    """One file of elevations, read cell by cell."""

    def __init__(self, file: MapFile) -> None:
        self._raster = GDALRaster(str(file.path))
        self._band = self._raster.bands[0]
        srs = self._raster.srs
        assert srs is not None  # without one the file was not taken
        self._is_in_degrees = bool(srs.geographic)
        here = SpatialReference(srs.wkt, axis_order=AxisOrder.TRADITIONAL)
        self._from_degrees = CoordTransform(SpatialReference(4326, axis_order=AxisOrder.TRADITIONAL), here)

    def at(self, place: Degrees) -> Terrain | None:
        """Return the terrain at a place; None where the file does not cover it, or has no value there."""
        point = Point(*place, srid=4326)
        point.transform(self._from_degrees)
        origin, scale = self._raster.origin, self._raster.scale
        column, row = math.floor((point.x - origin.x) / scale.x), math.floor((point.y - origin.y) / scale.y)
        if not (1 <= column < self._raster.width - 1 and 1 <= row < self._raster.height - 1):
            return None
        read = self._band.data(offset=(column - 1, row - 1), size=(3, 3), as_memoryview=True)
        cells = [float(cell) for cell in array(_TYPES[self._band.datatype()], bytes(read))]
        if any(cell == self._band.nodata_value or not math.isfinite(cell) for cell in cells):
            return None
        wide, high = abs(scale.x), abs(scale.y)
        if self._is_in_degrees:
            ground = ground_at(place)
            wide, high = wide * ground.east * METERS_PER_FOOT, high * ground.north * METERS_PER_FOOT
        return Terrain(round(cells[4] / METERS_PER_FOOT), round(_slope(cells, wide, high), 1))


def _slope(cells: list[float], wide: float, high: float) -> float:
    """Return the slope in the middle of nine cells, row by row from the northwest, in percent; ``wide`` and ``high`` are a cell's."""
    a, b, c, d, _, f, g, h, i = cells
    east = ((c + 2 * f + i) - (a + 2 * d + g)) / (8 * wide)
    north = ((a + 2 * b + c) - (g + 2 * h + i)) / (8 * high)
    return 100 * math.hypot(east, north)


def terrains_of(places: Mapping[int, Degrees]) -> dict[int, Terrain]:
    """Return the terrain at places, by their keys, from the newest file that covers each."""
    found: dict[int, Terrain] = {}
    for file in MapFile.objects.filter(kind=MapFile.Kind.ELEVATION, removed_at=None):
        west, south, east, north = file.bounds.extent
        inside = {pk: at for pk, at in places.items() if pk not in found and west <= at[0] <= east and south <= at[1] <= north}
        if not inside:
            continue
        elevations = _Elevations(file)
        found |= {pk: terrain for pk, at in inside.items() if (terrain := elevations.at(at))}
    return found
