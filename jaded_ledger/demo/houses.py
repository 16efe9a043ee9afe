"""What stands on a lot: its kind, rooms and sizes, and what it is worth at the end of 2026."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date
from random import Random

from jaded_ledger.demo.ground import Lot

LAND_USE = {
    "single-family": "101", "duplex": "102", "triplex": "103", "fourplex": "104", "apartments": "111",
    "condominium": "131", "townhouse": "133", "residential-lot": "100", "commercial": "201", "industrial": "301",
    "agricultural": "401", "woodland": "501", "exempt": "801",
}  # fmt: skip
HOMES = {"single-family": 1, "duplex": 2, "triplex": 3, "fourplex": 4, "townhouse": 1, "condominium": 1, "apartments": 12}
_YEARLY_GROWTH = 0.034
_BARE = ("residential-lot", "woodland")


@dataclass
class House:
    """A property's own figures. Money is in dollars at market; None is what was never measured."""

    kind: str
    beds: int | None = None
    baths: float | None = None
    living_area: int | None = None
    year_built: int | None = None
    stories: float | None = None
    basement: int | None = None
    garage: int | None = None
    main_floor_beds: int | None = None
    has_pool: bool = False
    condition: str = "average"
    lot_sqft: float | None = None
    land_value: float = 0
    improvement_value: float = 0

    @property
    def homes(self) -> int:
        return HOMES.get(self.kind, 0)

    @property
    def worth(self) -> float:
        return self.land_value + self.improvement_value

    def worth_on(self, day: date) -> float:
        """Return what it was worth on another day."""
        return self.worth * price_index(day)


def price_index(day: date) -> float:
    """Prices on a day against those of the end of 2026: growth, a fall after 2007, a rise after 2020."""
    level = math.exp(-_YEARLY_GROWTH * (date(2026, 11, 1) - day).days / 365.25)
    if date(2008, 6, 1) <= day < date(2014, 1, 1):
        level *= 0.84
    return level * (0.9 if day < date(2020, 9, 1) else 1.0)


def _kind(lot: Lot, rng: Random, *, unit: int) -> str:
    if unit:
        return "condominium"
    if lot.units:
        return "commercial"
    kinds, weights = zip(*lot.district.mix, strict=True)
    return str(rng.choices(kinds, weights)[0])


def build(lot: Lot, rng: Random, today: date, *, unit: int) -> House:
    """Return what stands on a lot, or one unit of the condominium on it."""
    district, kind = lot.district, _kind(lot, rng, unit=unit)
    house = House(kind, lot_sqft=lot.square_feet)
    land_rate = min(district.land_rate, 0.11) if kind in ("agricultural", "woodland") else district.land_rate
    house.land_value = round(lot.square_feet * land_rate * rng.uniform(0.85, 1.2), -2)
    if kind in _BARE:
        return house
    house.year_built = min(rng.randint(district.first_year, district.last_year), today.year - 1)
    if house.homes:
        _furnish(house, lot, rng, unit=unit)
    else:
        area = round(rng.uniform(0.2, 0.7) * min(lot.square_feet, 30_000))
        house.living_area = area if kind != "agricultural" or rng.random() < 0.7 else None
        house.improvement_value = round((house.living_area or 900) * rng.uniform(0.3, 0.6) * district.price_per_sqft, -2)
    return house


def _furnish(house: House, lot: Lot, rng: Random, *, unit: int) -> None:
    """Give a house of one home or more its rooms, its condition and its worth."""
    district, homes = lot.district, house.homes
    area = district.base_area * rng.lognormvariate(0, 0.2) * (1 if homes == 1 else 0.78 * homes)
    house.living_area = round(area)
    house.beds = max(1, round(area / 520)) if homes == 1 else homes * rng.choice((2, 2, 3))
    house.baths = min(0.5 * max(2, round(area / 420)), 4.5) if homes == 1 else float(homes)
    house.stories = rng.choice((1.0, 1.5, 2.0)) if homes == 1 else 2.0 + (homes > 4)
    house.basement = round(area / house.stories * 0.9) if rng.random() < 0.8 and not unit else None
    house.garage = rng.choice((0, 1, 1, 2, 2)) if not unit else 1
    house.main_floor_beds = house.beds if house.stories == 1 else rng.randrange(0, 2)
    house.has_pool = homes == 1 and rng.random() < 0.02
    house.condition = rng.choices(("poor", "fair", "average", "good", "excellent"), (4 * district.trouble, 14, 52, 24, 6))[0]
    worth = area * district.price_per_sqft * rng.uniform(0.8, 1.2) * (1 - 0.001 * max(0, 2026 - (house.year_built or 2026)) / 2)
    worth *= {"poor": 0.72, "fair": 0.88, "good": 1.06, "excellent": 1.15}.get(house.condition, 1.0)
    worth *= 0.74 if homes > 2 else 1
    house.improvement_value = max(8_000, round(worth - house.land_value, -2))
    if unit:
        house.lot_sqft, house.land_value = None, house.land_value // max(1, lot.units)
