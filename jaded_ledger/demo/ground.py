"""What ground plans are made of: districts, lots, blocks cut into lots, and the shapes around them.

Positions are in feet from the south-west corner of a town. Towns of a larger world stand two to a row.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from random import Random

from jaded_ledger.core.ground import Layer
from jaded_ledger.core.outlines import ground_at

# Where no land is, so that nothing real is drawn: in the middle of a lake, in Wisconsin's waters.
SOUTH = 43.60
_SCALE = ground_at((0.0, SOUTH + 0.03))
"""Feet to a degree in the middle of the first town; further north lots come out a little narrower."""
TOWN = (42_000.0, 48_000.0)
"""Width and height of one town's ground; it begins half its width west of the corner that positions are counted from."""
WEST_EDGE, SOUTH_EDGE = -20_000.0, -3_000.0
Point = tuple[float, float]


@dataclass(frozen=True)
class District:
    """A part of a county built in one period, and what its places are called."""

    name: str
    city: str
    municipality: str
    school_district: str
    zip_offset: int
    first_year: int
    last_year: int
    price_per_sqft: float
    """Typical price of a house per square foot in 2026."""
    base_area: int
    mix: tuple[tuple[str, int], ...]
    """Classes of property and how many in a hundred."""
    zoning: str = "R-2"
    land_rate: float = 4.5
    is_rural: bool = False
    is_waterfront: bool = False
    trouble: float = 1.0
    """How much commoner trouble is here than elsewhere."""


@dataclass(frozen=True)
class Lot:
    """One lot: its outline (closed by repeating nothing), its street and number. ``units`` above 0 is a condominium."""

    corners: tuple[Point, ...]
    district: District
    street: str
    house_number: int
    subdivision: str
    frontage: float
    depth: float
    units: int = 0

    @property
    def square_feet(self) -> float:
        around = pairwise([*self.corners, self.corners[0]])
        return abs(sum(x1 * y2 - x2 * y1 for (x1, y1), (x2, y2) in around)) / 2


@dataclass(frozen=True)
class Block:
    """Lots that share a page of the assessor's map."""

    lots: tuple[Lot, ...]


@dataclass(frozen=True)
class Feature:
    """A road, a rail, a water and so on, as a line or an area."""

    layer: Layer
    name: str
    feature_class: str
    points: tuple[Point, ...]
    is_area: bool = False
    is_barrier: bool = False


@dataclass(frozen=True)
class Region:
    """The ground of a district."""

    district: District
    corners: tuple[Point, ...]
    homes: int = field(default=0)
    """About how many dwellings stand there."""


def turned(points: Sequence[Point], about: Point, angle: float) -> tuple[Point, ...]:
    """Return points turned about a point, counter-clockwise, by an angle in radians."""
    cos, sin = math.cos(angle), math.sin(angle)
    return tuple(
        (about[0] + (x - about[0]) * cos - (y - about[1]) * sin, about[1] + (x - about[0]) * sin + (y - about[1]) * cos) for x, y in points
    )


def box(west: float, south: float, east: float, north: float) -> tuple[Point, ...]:
    """Return a rectangle's corners."""
    return ((west, south), (east, south), (east, north), (west, north))


@dataclass(frozen=True)
class Grid:
    """Blocks of one district: where they lie, how they are turned, and how lots are cut."""

    district: District
    streets: tuple[str, ...]
    west: float
    south: float
    columns: int
    rows: int
    block: tuple[float, float]
    frontages: tuple[float, ...]
    road: float
    turn: float
    subdivisions: tuple[str, ...]
    avenues: str = "AVE"

    @property
    def corner(self) -> Point:
        return (self.west, self.south)

    @property
    def size(self) -> Point:
        """Width and height of the whole grid with its roads."""
        return (self.columns * (self.block[0] + self.road), self.rows * (self.block[1] + self.road))

    @property
    def region(self) -> Region:
        width, height = self.size
        west, south = self.west - self.road, self.south - self.road
        return Region(
            self.district,
            turned(box(west, south, self.west + width, self.south + height), self.corner, self.turn),
            self.columns * self.rows * 18,
        )

    def blocks(self, rng: Random) -> Iterator[Block]:
        width, height = self.block
        for row in range(self.rows):
            for column in range(self.columns):
                west = self.west + column * (width + self.road)
                south = self.south + row * (height + self.road)
                subdivision = self.subdivisions[(row * 2 + column // 4) % len(self.subdivisions)]
                depth = height / 2
                lots = []
                # The southern row fronts the street below it and is on its north side: even numbers.
                for side, street_index in ((0, row), (1, row + 1)):
                    at, number = 0.0, 100 * (column + 1) + 2 - side
                    for frontage in _row_of_lots(rng, width, self.frontages):
                        x, y = west + at, south + side * depth
                        lots.append(
                            Lot(
                                turned(box(x, y, x + frontage, y + depth), self.corner, self.turn), self.district,
                                self.streets[street_index % len(self.streets)], number, subdivision, frontage, depth,
                            )
                        )  # fmt: skip
                        at += frontage
                        number += 2 * rng.choice((1, 2, 2, 3)) if number % 100 < 88 else 2
                yield Block(tuple(lots))

    def roads(self) -> Iterator[Feature]:
        """Yield the streets between the blocks, every fourth avenue a collector."""
        width, height = self.size
        half = self.road / 2
        for row in range(self.rows + 1):
            y = self.south + row * (self.block[1] + self.road) - half
            line = turned([(self.west - half, y), (self.west + width - half, y)], self.corner, self.turn)
            yield Feature(Layer.ROAD, self.streets[row % len(self.streets)], "local", line)
        for column in range(self.columns + 1):
            x = self.west + column * (self.block[0] + self.road) - half
            line = turned([(x, self.south - half), (x, self.south + height - half)], self.corner, self.turn)
            yield Feature(Layer.ROAD, f"{_ordinal(column + 1)} {self.avenues}", "collector" if column % 4 == 0 else "local", line)


def _ordinal(number: int) -> str:
    ending = "TH" if 10 <= number % 100 <= 20 else {1: "ST", 2: "ND", 3: "RD"}.get(number % 10, "TH")
    return f"{number}{ending}"


def _row_of_lots(rng: Random, width: float, frontages: tuple[float, ...]) -> list[float]:
    """Cut a block's side into lots; the last takes what is left, and is joined to its neighbor when too narrow."""
    cut: list[float] = []
    left = width
    while left > 0:
        frontage = min(rng.choice(frontages), left)
        if left - frontage < frontages[0] * 0.8:
            frontage = left
        cut.append(frontage)
        left -= frontage
    return cut


def until(sources: Sequence[Iterator[Block]], parcels: int) -> Iterator[Block]:
    """Yield blocks until there are so many parcels, condominium units among them."""
    left = parcels
    for source in sources:
        for block in source:
            kept = []
            for lot in block.lots:
                if 1 + lot.units <= left:
                    kept.append(lot)
                    left -= 1 + lot.units
            if kept:
                yield Block(tuple(kept))
            if left <= 0:
                return


@dataclass(frozen=True)
class Placed:
    """Where a town stands: from feet to degrees."""

    west: float
    town: int

    def position(self, point: Point) -> list[float]:
        """Return longitude and latitude."""
        east, north = self.town % 2 * TOWN[0], self.town // 2 * TOWN[1]
        return [
            round(self.west + (point[0] + east) / _SCALE.east, 7),
            round(SOUTH + (point[1] + north) / _SCALE.north, 7),
        ]

    def ring(self, corners: Sequence[Point]) -> list[list[float]]:
        """Return an outline as a closed ring."""
        ring = [self.position(corner) for corner in corners]
        return [*ring, ring[0]]
