"""Pike Hollow County: the mill town of Corvid Falls on both banks of its river, three villages, and country."""

from __future__ import annotations

from collections.abc import Iterator
from random import Random

from jaded_ledger.core.ground import Layer
from jaded_ledger.demo.ground import Block, District, Feature, Grid, Lot, Region, box, until

_SCHOOLS = "CORVID FALLS CITY"
MILL = District(
    "Mill Side", "Corvid Falls", "City of Corvid Falls", _SCHOOLS, 0, 1879, 1928, 74, 1120,
    (("duplex", 44), ("single-family", 30), ("triplex", 6), ("fourplex", 4), ("residential-lot", 9), ("commercial", 4),
     ("industrial", 2), ("exempt", 1)), land_rate=2.1, trouble=3.0,
)  # fmt: skip
HILL = District(
    "Weavers Hill", "Corvid Falls", "City of Corvid Falls", _SCHOOLS, 1, 1905, 1958, 92, 1240,
    (("single-family", 60), ("duplex", 26), ("triplex", 3), ("residential-lot", 6), ("commercial", 3), ("exempt", 2)),
    land_rate=2.4, trouble=1.9,
)  # fmt: skip
VILLAGES = District(
    "The Villages", "Pike Landing", "Village of Pike Landing", "PIKE LANDING AREA", 3, 1910, 1988, 101, 1310,
    (("single-family", 78), ("duplex", 6), ("residential-lot", 10), ("commercial", 4), ("exempt", 2)), land_rate=1.8, trouble=1.2,
)  # fmt: skip
FARMS = District(
    "Pike Hollow Country", "Corvid Falls", "Town of Pike Hollow", "PIKE LANDING AREA", 5, 1880, 2008, 118, 1560,
    (("agricultural", 44), ("single-family", 34), ("woodland", 14), ("residential-lot", 8)),
    zoning="A-1", land_rate=0.16, is_rural=True,
)  # fmt: skip

_GRIDS = (
    Grid(MILL, (
        "SPINDLE ST", "LOOM ST", "BOBBIN LN", "DYEWORKS RD", "SHUTTLE ST", "CARDER ST", "FULLING MILL RD", "WEFT ST", "WARP ST",
        "TEASEL ALY",
    ), 2_000, 2_400, 10, 7, (420, 240), (30, 32, 35, 40), 54, 0.03, ("MILL COMPANY PLAT", "SPINDLE ADDITION")),
    Grid(HILL, (
        "RAVEN ST", "JACKDAW ST", "ROOK LN", "MAGPIE ST", "CHOUGH AVE", "NUTCRACKER LN", "JAY ST", "TREEPIE CT",
    ), 8_600, 2_200, 8, 5, (500, 250), (42, 45, 50, 55), 58, -0.06, ("WEAVERS HILL", "ROOKERY PLAT"), "PL"),
    Grid(VILLAGES, ("LANDING RD", "FERRY ST", "EEL WEIR LN", "PERCH ST", "REED ST"), -4_600, 7_600, 5, 4, (560, 300),
         (70, 80, 90), 60, 0.1, ("PIKE LANDING PLAT",), "ST"),
)  # fmt: skip
_ROADS = ("COUNTY ROAD K", "WILLOW BOTTOM RD", "STAGE RD", "STATE HIGHWAY 77", "SHEEPFOLD RD")


def _farms(rng: Random) -> Iterator[Block]:
    page = 0
    while True:
        lots = []
        for place in range(14):
            frontage, depth = rng.choice(((660.0, 1320.0), (1320.0, 1320.0), (330.0, 660.0), (260.0, 420.0)))
            x, y = -18_500.0 + 1_500 * (page % 26), 12_300 + (page // 26) * 11_000 + place * 760
            if frontage > 740:
                frontage = 740.0
            number = 2_000 + page * 30 + place * 2
            lots.append(Lot(box(x, y, x + depth, y + frontage), FARMS, _ROADS[page % 5], number, "", frontage, depth))
        yield Block(tuple(lots))
        page += 1


class _CorvidFalls:
    def blocks(self, rng: Random, parcels: int) -> Iterator[Block]:
        return until([*(grid.blocks(rng) for grid in _GRIDS), _farms(rng)], parcels)

    def features(self) -> list[Feature]:
        river = ((7_450, -3_000), (8_250, -3_000), (8_200, 5_200), (9_400, 12_000), (8_600, 12_000), (7_500, 5_200))
        return [
            *(road for grid in _GRIDS for road in grid.roads()),
            *(
                Feature(Layer.ROAD, _ROADS[page % 5], "rural", ((-18_540.0 + 1_500 * page, 12_100), (-18_540.0 + 1_500 * page, 44_900)))
                for page in range(26)
            ),
            Feature(Layer.WATER, "PIKE RIVER", "river", river, is_area=True, is_barrier=True),
            Feature(Layer.FLOOD_ZONE, "", "AE", box(6_900, 1_800, 7_500, 5_400), is_area=True),
            Feature(Layer.RAIL, "MILL SPUR", "", ((1_800, 2_100), (7_200, 2_300)), is_barrier=True),
            Feature(Layer.HIGHWAY, "STATE HIGHWAY 77", "highway", ((-20_000, 6_600), (21_900, 6_600)), is_barrier=True),
            Feature(Layer.PARK, "MILLPOND GREEN", "", box(2_000, 1_200, 4_400, 1_900), is_area=True),
        ]

    def regions(self) -> list[Region]:
        return [*(grid.region for grid in _GRIDS), Region(FARMS, (), 500)]


PLAN = _CorvidFalls()
