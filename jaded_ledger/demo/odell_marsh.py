"""Odell Marsh County: farms, woods and hunting land by the section, cottages around a lake, one hamlet."""

from __future__ import annotations

import math
from collections.abc import Iterator
from random import Random

from jaded_ledger.core.ground import Layer
from jaded_ledger.demo.ground import Block, District, Feature, Grid, Lot, Point, Region, box, until

_SCHOOLS = "ODELL CONSOLIDATED"
SECTIONS = District(
    "Odell Sections", "Odell", "Town of Odell", _SCHOOLS, 0, 1875, 2012, 112, 1610,
    (("agricultural", 40), ("woodland", 38), ("single-family", 16), ("residential-lot", 6)), zoning="AG", land_rate=0.1, is_rural=True,
    trouble=0.7,
)  # fmt: skip
LAKE = District(
    "Lake Odell", "Odell", "Town of Lake Odell", _SCHOOLS, 1, 1938, 2006, 210, 1020,
    (("single-family", 84), ("residential-lot", 14), ("commercial", 2)), zoning="RR", land_rate=6.0, is_rural=True, is_waterfront=True,
)  # fmt: skip
HAMLET = District(
    "Odell Corners", "Odell", "Village of Odell", _SCHOOLS, 2, 1890, 1975, 96, 1290,
    (("single-family", 76), ("duplex", 4), ("residential-lot", 10), ("commercial", 8), ("exempt", 2)), land_rate=1.2, is_rural=True,
)  # fmt: skip
_HAMLET = Grid(
    HAMLET, ("CHURCH RD", "CREAMERY ST", "DEPOT ST", "BITTERN ST", "RAIL ST"), -3_000, 1_200, 5, 3, (560, 320), (80, 95, 110), 60, 0.0,
    ("ODELL CORNERS PLAT",), "ST",
)  # fmt: skip
_CENTER: Point = (10_500.0, 9_000.0)
_RADIUS = 5_200.0
_SECTION = 5_280.0
_ROADS = ("BITTERN RD", "CRANE MARSH RD", "COUNTY ROAD O", "TAMRACK FEN RD", "SAWYER RD", "TOWN HALL RD")


def _around(angle: float, radius: float) -> Point:
    return (_CENTER[0] + radius * math.cos(angle), _CENTER[1] + radius * math.sin(angle))


def _cottages(rng: Random) -> Iterator[Block]:
    """Lots from the road to the water, all around the lake, by the dozen."""
    angle, number, end = 0.0, 10, 2 * math.pi * 0.985
    while angle < end:
        lots = []
        for _ in range(12):
            frontage, depth = rng.choice((70.0, 80.0, 95.0, 120.0)), 210.0
            step = frontage / (_RADIUS + depth / 2)
            if angle + step > end:
                break
            outline = (
                _around(angle, _RADIUS), _around(angle, _RADIUS + depth), _around(angle + step, _RADIUS + depth), _around(angle + step,
                _RADIUS),
            )  # fmt: skip
            lots.append(Lot(outline, LAKE, "LAKE ODELL DR", number, "LAKE ODELL SHORES", frontage, depth))
            angle, number = angle + step, number + 4
        if not lots:
            return
        yield Block(tuple(lots))


def _sections(rng: Random) -> Iterator[Block]:
    """Sections of a mile, cut into forties, some of them halved; those that the lake or the hamlet takes are left out."""
    place = 0
    while True:
        column, row = place % 7, place // 7
        west, south = -19_600 + column * (_SECTION + 66), 200 + row * (_SECTION + 66)
        place += 1
        center = (west + _SECTION / 2, south + _SECTION / 2)
        if math.dist(center, _CENTER) < _RADIUS + 4_300 or (-6_500 < center[0] < 1_500 and center[1] < 5_000):
            continue
        lots = []
        for quarter in range(16):
            x, y = west + quarter % 4 * 1320.0, south + quarter // 4 * 1320.0
            number = 4_000 + place * 64 + quarter * 4
            road = _ROADS[place % len(_ROADS)]
            cuts = rng.choice(((1320.0,), (660.0, 660.0), (660.0, 660.0), (330.0, 330.0, 660.0), (200.0, 460.0, 660.0)))
            for part, width in enumerate(cuts):
                at = x + sum(cuts[:part])
                lots.append(Lot(box(at, y, at + width, y + 1320.0), SECTIONS, road, number + part, "", width, 1320.0))
        yield Block(tuple(lots))


class _OdellMarsh:
    def blocks(self, rng: Random, parcels: int) -> Iterator[Block]:
        return until([_HAMLET.blocks(rng), _cottages(rng), _sections(rng)], parcels)

    def features(self) -> list[Feature]:
        shore = tuple(_around(step / 48 * 2 * math.pi, _RADIUS - 8) for step in range(48))
        marsh = tuple(_around(step / 24 * 2 * math.pi, _RADIUS + 260) for step in range(24))
        return [
            *_HAMLET.roads(),
            Feature(Layer.ROAD, "LAKE ODELL DR", "local", tuple(_around(step / 48 * 2 * math.pi, _RADIUS + 240) for step in range(48))),
            *(
                Feature(
                    Layer.ROAD, _ROADS[row % 6], "rural", ((-19_700, 167 + row * (_SECTION + 66)), (17_700, 167 + row * (_SECTION + 66)))
                )
                for row in range(1, 6)
            ),
            Feature(Layer.WATER, "LAKE ODELL", "lake", shore, is_area=True, is_barrier=True),
            Feature(Layer.FLOOD_ZONE, "", "A", marsh, is_area=True),
            Feature(Layer.HIGHWAY, "STATE HIGHWAY 412", "highway", ((-20_000, -1_200), (21_900, -1_200)), is_barrier=True),
            Feature(Layer.PARK, "CRANE MARSH WILDLIFE AREA", "", box(16_000, 18_000, 19_000, 21_500), is_area=True),
        ]

    def regions(self) -> list[Region]:
        around = tuple(_around(step / 48 * 2 * math.pi, _RADIUS + 230) for step in range(48))
        return [_HAMLET.region, Region(LAKE, around, 380), Region(SECTIONS, (), 300)]


PLAN = _OdellMarsh()
