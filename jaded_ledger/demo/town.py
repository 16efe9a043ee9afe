"""The ground plan of Alder Bay and the land around it: streets, blocks and lots, in feet from a corner of the town.

Larger worlds are more towns of the same plan, side by side.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from random import Random

# Where no land is, so that nothing real is drawn: in the middle of a lake, in Wisconsin's waters.
_WEST, _SOUTH = -87.30, 43.60
_FEET_PER_DEGREE = 364_567.0
PARCELS_PER_TOWN = 7_200

_CROSS_STREETS = (
    "CAPSTAN ST", "LANTERN ST", "HERRING ROW", "COOPER AVE", "MAST LN", "TIDEWELL ST", "SALTER CT", "ROPEWALK ST",
    "GANNET AVE", "CHANDLER ST", "BOLLARD ST", "NETMENDER LN", "OAKUM ST", "KEELSON AVE", "BINNACLE ST", "FATHOM ST",
)  # fmt: skip
_POST_WAR_STREETS = (
    "LARCH AVE", "PIPIT DR", "QUARRY RD", "SORREL ST", "TEASEL LN", "WAXWING DR", "YARROW ST", "ALDERMAN AVE",
    "BRACKEN RD", "CURLEW DR", "DUNLIN ST",
)  # fmt: skip
_EDGE_STREETS = (
    "HARROW POINT DR", "MERIDIAN CT", "STONECROP WAY", "WINDROW TRL", "FIELDFARE CIR", "PLOVER RUN", "SEDGE MEADOW DR",
    "LONG FURROW RD", "KESTREL PASS",
)  # fmt: skip
_SHORE = "HARBOUR FRONT WALK"
_COUNTRY = ("COUNTY ROAD T", "MARSH RD", "OLD PLANK RD", "STATE HIGHWAY 412", "TOWN LINE RD")


@dataclass(frozen=True)
class District:
    """A part of town built in one period."""

    name: str
    city: str
    municipality: str
    zip_offset: int
    first_year: int
    last_year: int
    price_per_sqft: float
    """Typical price of a house per square foot in 2026."""


WARDS = District("ward", "Alder Bay", "City of Alder Bay", 1, 1884, 1932, 158)
SHORE = District("shore", "Alder Bay", "City of Alder Bay", 1, 1968, 2019, 231)
POST_WAR = District("post-war", "Alder Bay", "City of Alder Bay", 2, 1946, 1972, 171)
EDGE = District("edge", "Gull Park", "Village of Gull Park", 4, 1991, 2023, 204)
COUNTRY = District("country", "Alder Bay", "Town of Tamarack", 7, 1890, 2015, 149)


@dataclass(frozen=True)
class Lot:
    """One lot: its outline (feet, closed by repeating nothing), its street and number. ``units`` above 0 is a condominium."""

    corners: tuple[tuple[float, float], ...]
    district: District
    street: str
    house_number: int
    subdivision: str
    frontage: float
    depth: float
    units: int = 0

    @property
    def square_feet(self) -> float:
        return self.frontage * self.depth


@dataclass(frozen=True)
class _Grid:
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
    turned: float
    subdivisions: tuple[str, ...]


_GRIDS = (
    _Grid(WARDS, _CROSS_STREETS, 9_000, 2_000, 13, 12, (480, 250), (30, 33, 36, 40, 45), 60, 0.12,
          ("HARBOUR PLAT", "LANTERN ADDITION", "CHANDLERS ADDITION", "KELMS PLAT")),
    _Grid(POST_WAR, _POST_WAR_STREETS, 1_500, 1_200, 10, 9, (640, 250), (58, 60, 64, 70), 64, 0.0,
          ("PIPIT GARDENS", "QUARRY HEIGHTS", "SORREL PARK")),
    _Grid(EDGE, _EDGE_STREETS, 1_200, 5_600, 8, 8, (700, 280), (82, 88, 95, 104), 66, -0.05,
          ("HARROW POINT", "STONECROP FIELDS", "STONECROP FIELDS 2ND ADDITION")),
)  # fmt: skip


def _turn(points: list[tuple[float, float]], about: tuple[float, float], angle: float) -> tuple[tuple[float, float], ...]:
    cos, sin = math.cos(angle), math.sin(angle)
    return tuple(
        (about[0] + (x - about[0]) * cos - (y - about[1]) * sin, about[1] + (x - about[0]) * sin + (y - about[1]) * cos) for x, y in points
    )


def _row_of_lots(rng: Random, width: float, frontages: tuple[float, ...]) -> list[float]:
    """Cut a block's side into lots; the last takes what is left, and is joined to its neighbour when too narrow."""
    cut: list[float] = []
    left = width
    while left > 0:
        frontage = min(rng.choice(frontages), left)
        if left - frontage < frontages[0] * 0.8:
            frontage = left
        cut.append(frontage)
        left -= frontage
    return cut


def _grid_blocks(grid: _Grid, rng: Random) -> Iterator[list[Lot]]:
    width, height = grid.block
    for row in range(grid.rows):
        for column in range(grid.columns):
            west = grid.west + column * (width + grid.road)
            south = grid.south + row * (height + grid.road)
            subdivision = grid.subdivisions[(row * 2 + column // 4) % len(grid.subdivisions)]
            depth = height / 2
            lots = []
            # The southern row fronts the street below it and is on its north side: even numbers.
            for side, street_index in ((0, row), (1, row + 1)):
                at, number = 0.0, 100 * (column + 1) + 2 - side
                for frontage in _row_of_lots(rng, width, grid.frontages):
                    x, y = west + at, south + side * depth
                    outline = [(x, y), (x + frontage, y), (x + frontage, y + depth), (x, y + depth)]
                    lots.append(
                        Lot(
                            _turn(outline, (grid.west, grid.south), grid.turned), grid.district,
                            grid.streets[street_index % len(grid.streets)], number, subdivision, frontage, depth,
                        )
                    )  # fmt: skip
                    at += frontage
                    number += 2 * rng.choice((1, 2, 2, 3)) if number % 100 < 88 else 2
            yield lots


def _shore_blocks(rng: Random) -> Iterator[list[Lot]]:
    """Deep lots between the front walk and the water: boat yards, stores, and fourteen buildings of flats."""
    for block in range(6):
        lots = []
        for place in range(8):
            frontage, depth = rng.choice((90.0, 110.0, 140.0)), rng.uniform(210, 260)
            x, y = 16_400 + rng.uniform(-10, 10), 2_200 + (block * 8 + place) * 150
            outline = [(x, y), (x + depth, y + rng.uniform(-8, 8)), (x + depth, y + frontage), (x, y + frontage)]
            units = rng.randrange(12, 33) if (block * 8 + place) % 7 in (2, 5) else 0
            lots.append(Lot(tuple(outline), SHORE, _SHORE, 10 + (block * 8 + place) * 10, "HARBOUR FRONT", frontage, depth, units))
        yield lots


def _country_blocks(rng: Random) -> Iterator[list[Lot]]:
    """Farms, woods and houses on acreage, west of the town, as many as are asked for."""
    page = 0
    while True:
        lots = []
        for place in range(16):
            frontage, depth = rng.choice(((330.0, 660.0), (660.0, 660.0), (660.0, 1320.0), (200.0, 330.0)))
            x, y = -1_400.0 * (page % 12 + 1), 1_000 + (page // 12) * 11_500 + place * 700
            outline = [(x, y), (x + depth, y), (x + depth, y + frontage), (x, y + frontage)]
            number = 1_000 + page * 40 + place * 2 + page % 2
            lots.append(Lot(tuple(outline), COUNTRY, _COUNTRY[page % len(_COUNTRY)], number, "", frontage, depth))
        yield lots
        page += 1


def blocks_of_town(number: int, rng: Random, parcels: int) -> Iterator[list[Lot]]:
    """Yield the blocks of one town until it has so many parcels (condominium units count)."""
    left = parcels
    sources = [*(_grid_blocks(grid, rng) for grid in _GRIDS), _shore_blocks(rng), _country_blocks(rng)]
    # A small world still has something of every district.
    while sources and left > 0:
        source = sources.pop(0)
        for lots in source:
            kept = []
            for lot in lots:
                size = 1 + lot.units
                if size <= left:
                    kept.append(lot)
                    left -= size
            if kept:
                yield kept
            if left <= 0:
                return


def degrees(corners: tuple[tuple[float, float], ...], town: int) -> list[list[float]]:
    """Return an outline as a closed ring of longitude and latitude; towns stand twelve to a row."""
    east, north = (town % 12) * 42_000, (town // 12) * 36_000
    ring = [
        [
            round(_WEST + (x + east) / (_FEET_PER_DEGREE * math.cos(math.radians(_SOUTH))), 7),
            round(_SOUTH + (y + north) / _FEET_PER_DEGREE, 7),
        ]
        for x, y in corners
    ]
    return [*ring, ring[0]]
