"""The layers of a map."""

from __future__ import annotations

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
