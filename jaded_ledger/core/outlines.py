"""A parcel's outline on the ground: in feet about a point, and side by side."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from jaded_ledger.core.lengths import METERS_PER_FOOT

Position = tuple[float, float]
"""Longitude and latitude in degrees (WGS 84)."""
Point = tuple[float, float]
"""Feet east and north of an origin."""
_SEMI_MAJOR, _ECCENTRICITY_SQUARED = 6_378_137.0, 0.006_694_379_990_14
"""WGS 84 (NGA.STND.0036): meters, and first eccentricity squared."""
_STRAIGHT = math.radians(4)
"""A bend smaller than this is a surveyor's, not a corner."""


@dataclass(frozen=True)
class Ground:
    """The plane around a point, good to a few parts in ten thousand within a mile of it."""

    origin: Position
    east: float
    """Feet to a degree of longitude."""
    north: float
    """Feet to a degree of latitude."""

    def point(self, position: Sequence[float]) -> Point:
        return ((position[0] - self.origin[0]) * self.east, (position[1] - self.origin[1]) * self.north)


def ground_at(origin: Position) -> Ground:
    """Return the plane around a point, from the ellipsoid's radii of curvature there.

    Formulas for the length of a degree: Snyder, Map Projections: A Working Manual (USGS Professional Paper 1395), 4-18 to 4-20.
    """
    latitude = math.radians(origin[1])
    curved = 1 - _ECCENTRICITY_SQUARED * math.sin(latitude) ** 2
    along_meridian = _SEMI_MAJOR * (1 - _ECCENTRICITY_SQUARED) / curved**1.5
    along_parallel = _SEMI_MAJOR / math.sqrt(curved) * math.cos(latitude)
    to_feet = math.radians(1) / METERS_PER_FOOT
    return Ground(origin, along_parallel * to_feet, along_meridian * to_feet)


@dataclass(frozen=True)
class Side:
    """One side of an outline, from corner to corner; ``length`` is along it, in feet."""

    start: Point
    end: Point
    length: float


def sides(ring: Sequence[Point]) -> tuple[Side, ...]:
    """Return the sides of a closed ring (its last point repeats the first), bends too slight for a corner joined.

    >>> [round(side.length) for side in sides([(0, 0), (30, 0), (60, 0.5), (60, 120), (0, 120), (0, 0)])]
    [60, 120, 60, 120]
    """
    points = [*dict.fromkeys(ring)]
    if len(points) < 3:
        return ()
    corners = [
        place for place, point in enumerate(points) if _turn(points[place - 1], point, points[(place + 1) % len(points)]) > _STRAIGHT
    ]
    if len(corners) < 3:
        corners = list(range(len(points)))
    found = []
    for place, first in enumerate(corners):
        last = corners[(place + 1) % len(corners)]
        steps = (last - first) % len(points)
        along = [points[(first + step) % len(points)] for step in range(steps + 1)]
        length = sum(math.dist(one, other) for one, other in pairwise(along))
        found.append(Side(points[first], points[last], length))
    return tuple(found)


def _turn(before: Point, at: Point, after: Point) -> float:
    """Return by how much the way turns at a point, in radians from 0 to pi."""
    arriving = math.atan2(at[1] - before[1], at[0] - before[0])
    leaving = math.atan2(after[1] - at[1], after[0] - at[0])
    return abs((leaving - arriving + math.pi) % (2 * math.pi) - math.pi)
