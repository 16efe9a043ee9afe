"""Tamarack County: the lake port of Alder Bay, its wards and harbour front, post-war streets, new edge, and country."""

from __future__ import annotations

from collections.abc import Iterator
from random import Random

from jaded_ledger.core.ground import Layer
from jaded_ledger.demo.ground import Block, District, Feature, Grid, Lot, Region, box, until

_SCHOOLS = "ALDER BAY UNIFIED"
WARDS = District(
    "Harbour Wards", "Alder Bay", "City of Alder Bay", _SCHOOLS, 1, 1884, 1932, 158, 1180,
    (("single-family", 62), ("duplex", 20), ("triplex", 4), ("fourplex", 3), ("residential-lot", 5), ("commercial", 4),
     ("apartments", 1), ("exempt", 1)), trouble=1.3,
)  # fmt: skip
SHORE = District(
    "Harbour Front", "Alder Bay", "City of Alder Bay", _SCHOOLS, 1, 1968, 2019, 231, 1240,
    (("commercial", 60), ("industrial", 30), ("residential-lot", 10)), zoning="C-1", is_waterfront=True, trouble=0.6,
)  # fmt: skip
POST_WAR = District(
    "Quarry Heights", "Alder Bay", "City of Alder Bay", _SCHOOLS, 2, 1946, 1972, 171, 1290,
    (("single-family", 90), ("duplex", 4), ("residential-lot", 3), ("commercial", 2), ("exempt", 1)), zoning="R-1",
)  # fmt: skip
EDGE = District(
    "Gull Park", "Gull Park", "Village of Gull Park", "GULL PARK AREA", 4, 1991, 2023, 204, 2140,
    (("single-family", 82), ("townhouse", 6), ("residential-lot", 11), ("exempt", 1)), zoning="R-1", trouble=0.5,
)  # fmt: skip
COUNTRY = District(
    "Tamarack Country", "Alder Bay", "Town of Tamarack", "TAMARACK RURAL", 7, 1890, 2015, 149, 1680,
    (("single-family", 42), ("agricultural", 30), ("woodland", 16), ("residential-lot", 10), ("exempt", 2)),
    zoning="A-1", land_rate=0.35, is_rural=True,
)  # fmt: skip

_GRIDS = (
    Grid(WARDS, (
        "CAPSTAN ST", "LANTERN ST", "HERRING ROW", "COOPER AVE", "MAST LN", "TIDEWELL ST", "SALTER CT", "ROPEWALK ST",
        "GANNET AVE", "CHANDLER ST", "BOLLARD ST", "NETMENDER LN", "OAKUM ST", "KEELSON AVE", "BINNACLE ST", "FATHOM ST",
    ), 9_000, 2_000, 12, 12, (480, 250), (30, 33, 36, 40, 45), 60, 0.12,
        ("HARBOUR PLAT", "LANTERN ADDITION", "CHANDLERS ADDITION", "KELMS PLAT")),
    Grid(POST_WAR, (
        "LARCH AVE", "PIPIT DR", "QUARRY RD", "SORREL ST", "TEASEL LN", "WAXWING DR", "YARROW ST", "ALDERMAN AVE",
        "BRACKEN RD", "CURLEW DR", "DUNLIN ST",
    ), 1_500, 1_200, 10, 9, (640, 250), (58, 60, 64, 70), 64, 0.0, ("PIPIT GARDENS", "QUARRY HEIGHTS", "SORREL PARK"), "PL"),
    Grid(EDGE, (
        "HARROW POINT DR", "MERIDIAN CT", "STONECROP WAY", "WINDROW TRL", "FIELDFARE CIR", "PLOVER RUN", "SEDGE MEADOW DR",
        "LONG FURROW RD", "KESTREL PASS",
    ), 1_200, 5_600, 8, 8, (700, 280), (82, 88, 95, 104), 66, -0.05,
        ("HARROW POINT", "STONECROP FIELDS", "STONECROP FIELDS 2ND ADDITION"), "GATE"),
)  # fmt: skip
_ROADS = ("COUNTY ROAD T", "MARSH RD", "OLD PLANK RD", "STATE HIGHWAY 412", "TOWN LINE RD")
_SHORE_ROAD = "HARBOUR FRONT WALK"


def _shore_blocks(rng: Random) -> Iterator[Block]:
    """Deep lots between the front walk and the water: boat yards, stores, and fourteen buildings of flats."""
    for block in range(6):
        lots = []
        for place in range(8):
            frontage, depth = rng.choice((90.0, 110.0, 140.0)), rng.uniform(210, 260)
            x, y = 16_400 + rng.uniform(-10, 10), 2_200 + (block * 8 + place) * 150
            outline = ((x, y), (x + depth, y + rng.uniform(-8, 8)), (x + depth, y + frontage), (x, y + frontage))
            units = rng.randrange(12, 33) if (block * 8 + place) % 7 in (2, 5) else 0
            lots.append(Lot(outline, SHORE, _SHORE_ROAD, 10 + (block * 8 + place) * 10, "HARBOUR FRONT", frontage, depth, units))
        yield Block(tuple(lots))


def _country_blocks(rng: Random) -> Iterator[Block]:
    """Farms, woods and houses on acreage, west of the town, as many as are asked for."""
    page = 0
    while True:
        lots = []
        for place in range(16):
            frontage, depth = rng.choice(((330.0, 660.0), (660.0, 660.0), (660.0, 1320.0), (200.0, 330.0)))
            x, y = -1_400.0 * (page % 12 + 1), 1_000 + (page // 12) * 11_500 + place * 700
            number = 1_000 + page * 40 + place * 2 + page % 2
            road = _ROADS[page % len(_ROADS)]
            lots.append(Lot(box(x, y, x + depth, y + frontage), COUNTRY, road, number, "", frontage, depth))
        yield Block(tuple(lots))
        page += 1


class _AlderBay:
    def blocks(self, rng: Random, parcels: int) -> Iterator[Block]:
        return until([*(grid.blocks(rng) for grid in _GRIDS), _shore_blocks(rng), _country_blocks(rng)], parcels)

    def features(self) -> list[Feature]:
        shore = ((16_690.0, -3_000.0), (22_000.0, -3_000.0), (22_000.0, 45_000.0), (17_400.0, 45_000.0), (16_690.0, 9_600.0))
        return [
            *(road for grid in _GRIDS for road in grid.roads()),
            Feature(Layer.ROAD, _SHORE_ROAD, "arterial", ((16_360, 2_000), (16_360, 9_500))),
            *(
                Feature(
                    Layer.ROAD,
                    _ROADS[page % len(_ROADS)],
                    "rural",
                    ((-1_400.0 * (page + 1) - 40, 700), (-1_400.0 * (page + 1) - 40, 12_500)),
                )
                for page in range(12)
            ),
            Feature(Layer.HIGHWAY, "STATE HIGHWAY 412", "highway", ((-20_000, 4_700), (8_700, 4_700), (9_100, 9_800)), is_barrier=True),
            Feature(Layer.RAIL, "ALDER BAY & NORTHERN", "", ((8_760, -3_000), (8_760, 4_300), (10_400, 9_900)), is_barrier=True),
            Feature(Layer.WATER, "ALDER BAY", "lake", shore, is_area=True, is_barrier=True),
            Feature(Layer.FLOOD_ZONE, "", "AE", box(16_250, 1_900, 16_690, 9_600), is_area=True),
            Feature(Layer.PARK, "CHANDLERS GREEN", "", box(9_400, 900, 11_200, 1_800), is_area=True),
            Feature(Layer.PARK, "QUARRY PARK", "", box(1_500, 300, 4_200, 1_100), is_area=True),
        ]

    def regions(self) -> list[Region]:
        return [*(grid.region for grid in _GRIDS), Region(SHORE, box(16_380, 1_990, 16_690, 9_600), 320), Region(COUNTRY, (), 700)]


PLAN = _AlderBay()
