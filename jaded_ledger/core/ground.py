"""The layers of a map, and the ways that parcels lie near or far from."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum


class Layer(StrEnum):
    """What a map feature is. A barrier is what people don't cross on foot without a thought."""

    ROAD = "road"
    HIGHWAY = "highway"
    RAIL = "rail"
    WATER = "water"
    FLOOD_ZONE = "flood-zone"
    PARK = "park"
    BARRIER = "barrier"


@dataclass(frozen=True)
class Terrain:
    """The ground at a place: how high it lies, in feet, and how steep it is, in percent."""

    feet: int
    slope: float


class Way(StrEnum):
    """What people ask how far a parcel lies from: it is heard, crossed or looked at.

    Classes of roads are the functional ones of the Federal Highway Administration (Highway Functional Classification, 2013).
    """

    HIGHWAY = "highway"
    ARTERIAL = "arterial"
    COLLECTOR = "collector"
    RAIL = "rail"
    WATER = "water"


_METERS_PER_DEGREE = 110_500
"""Along a meridian at the equator, where a degree of latitude is shortest on WGS 84 (110,574 m), rounded down."""


def box_around(longitude: float, latitude: float, meters: float) -> tuple[float, float, float, float]:
    """Return a box, west, south, east and north in degrees, that holds all places up to so many meters from one.

    It is a little larger than it need be. Where it would reach over a pole or the antimeridian it goes all around.

    >>> [round(side, 3) for side in box_around(0, 0, 110_500)]
    [-1.0, -1.0, 1.0, 1.0]
    """
    high = meters / _METERS_PER_DEGREE
    south, north = latitude - high, latitude + high
    if south <= -89 or north >= 89:
        return -180.0, max(south, -90.0), 180.0, min(north, 90.0)
    # A parallel's degree is never shorter than this at any latitude of the box.
    wide = high / math.cos(math.radians(max(abs(south), abs(north))))
    if longitude - wide < -180 or longitude + wide > 180:
        return -180.0, south, 180.0, north
    return longitude - wide, south, longitude + wide, north
