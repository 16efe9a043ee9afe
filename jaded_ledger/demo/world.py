"""The demo world as a whole: its day, its seed, its three counties."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from random import Random
from typing import Protocol

from jaded_ledger.demo.ground import Block, Feature, Region

SEED = 20261124
TODAY = date(2026, 11, 24)
PARCELS = 12_500


class Plan(Protocol):
    """The ground plan of one town of a county. Larger worlds are more towns of the same plan, side by side."""

    def blocks(self, rng: Random, parcels: int) -> Iterator[Block]: ...

    def features(self) -> list[Feature]: ...

    def regions(self) -> list[Region]: ...


@dataclass(frozen=True)
class County:
    """A county of the demo. ``share`` is how many of a world's 12,500 parcels it has; so many make one town."""

    key: str
    name: str
    fips: str
    mask: str
    assessment_ratio: str
    relisting_gap_days: int
    days_behind: int
    share: int
    west: float
    zip_base: int
    deeds_since: date
    own_columns: tuple[str, ...]
    plan: Plan

    @property
    def recorded_through(self) -> date:
        return TODAY - timedelta(days=self.days_behind)

    @property
    def row(self) -> dict[str, object]:
        """The county as the records keep it. Its code is not in use."""
        return {
            "name": self.name, "state": "WI", "fips": self.fips, "parcel_number_mask": self.mask,
            "assessment_ratio": self.assessment_ratio, "relisting_gap_days": self.relisting_gap_days,
        }  # fmt: skip

    def parcels_of(self, world: int) -> int:
        """Return how many parcels of a world of so many are this county's."""
        return max(1, round(world * self.share / PARCELS))

    def number(self, block: int, lot: int, unit: int = 0) -> str:
        """Return a parcel's number by its place in the plan."""
        match self.key:
            case "tamarack":
                pages = 900
                first, page = 12 + block // pages, block % pages + 1
                return f"{first % 100:02d}-{page:03d}-{lot:03d}" + (f"-{unit:03d}" if unit else "")
            case "pike-hollow":
                return f"{100 + block // 900:03d}-{block % 900 + 1:03d}-{lot:02d}"
        return f"{1 + block // 3240:02d}{block // 36 % 90 + 1:02d}{block % 36 + 1:02d}{lot:03d}"


def counties() -> tuple[County, ...]:
    """Return the counties of the demo."""
    from jaded_ledger.demo import alder_bay, corvid_falls, odell_marsh

    return (
        County(
            "tamarack",
            "Tamarack",
            "55998",
            "NN-NNN-NNN[-UUU]",
            "1",
            30,
            6,
            7_200,
            -86.95,
            53_300,
            date(1990, 1, 2),
            ("Harbour Dist",),
            alder_bay.PLAN,
        ),
        County(
            "pike-hollow",
            "Pike Hollow",
            "55996",
            "NNN-NNN-NN",
            "0.8",
            45,
            24,
            3_400,
            -87.29,
            53_320,
            date(1992, 1, 2),
            ("Occ Code",),
            corvid_falls.PLAN,
        ),
        County(
            "odell-marsh",
            "Odell Marsh",
            "55994",
            "TTRRSSNNN",
            "1",
            30,
            12,
            1_900,
            -87.63,
            53_335,
            date(2009, 1, 2),
            ("Land Desc", "Tillable Ac", "MFL Expires", "Access"),
            odell_marsh.PLAN,
        ),
    )


def county(key: str) -> County:
    """Return one of them by its key."""
    return next(one for one in counties() if one.key == key)
