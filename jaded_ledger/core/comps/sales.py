"""Sales in columns, and the house that they are compared with."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
Rows = NDArray[np.intp]
"""Numbers of rows."""
Mask = NDArray[np.bool_]

METERS_PER_DEGREE = 111_320.0
"""Along a meridian, and along the equator; within a county's reach the earth is as good as flat."""
DAYS_PER_MONTH = 365.25 / 12

TRAITS = (
    "property_class", "living_area", "lot_sqft", "beds", "baths", "basement_area", "garage", "stories", "year_built", "condition",
    "waterfront", "pool", "road_class", "frontage", "zoning", "neighborhood", "resale",
)  # fmt: skip
"""What is compared, and whether a sale was a resale for more soon after a purchase. Choices and words stand as the numbers that tell
them apart, yes and no as 1 and 0."""


@dataclass(frozen=True)
class House:
    """A property that is valued, as of a day. A trait that is unknown is missing; so may its place be, in degrees (WGS 84)."""

    day: date
    longitude: float | None = None
    latitude: float | None = None
    traits: Mapping[str, float] = field(default_factory=dict)

    def value(self, trait: str) -> float:
        """Return a trait; not a number where it is unknown."""
        return self.traits.get(trait, math.nan)

    def knows(self, trait: str) -> bool:
        return trait in self.traits


@dataclass(frozen=True)
class Sales:
    """Sales, the earliest first: of which parcel, on which day (as ``date.toordinal`` counts), for how many dollars, and what was sold.

    ``traits`` holds a column for each of ``TRAITS``. What is unknown is not a number.
    """

    parcel: NDArray[np.int64]
    day: NDArray[np.int64]
    price: Numbers
    longitude: Numbers
    latitude: Numbers
    traits: Mapping[str, Numbers]

    def __len__(self) -> int:
        return len(self.price)

    def __iter__(self) -> Iterator[int]:
        return iter(range(len(self)))

    def take(self, rows: Rows | Mask | slice) -> Sales:
        """Return some of the sales, in the order in which they are asked."""
        return Sales(
            self.parcel[rows], self.day[rows], self.price[rows], self.longitude[rows], self.latitude[rows],
            {trait: column[rows] for trait, column in self.traits.items()},
        )  # fmt: skip

    def before(self, day: date, days: int) -> Sales:
        """Return what sold in so many days before a day, the day itself left out."""
        last = day.toordinal()
        return self.take(slice(int(np.searchsorted(self.day, last - days)), int(np.searchsorted(self.day, last))))

    def house(self, row: int) -> House:
        """Return what was sold as a house that is valued on the day of its sale."""
        longitude, latitude = float(self.longitude[row]), float(self.latitude[row])
        is_placed = not math.isnan(longitude + latitude)
        known = {trait: float(column[row]) for trait, column in self.traits.items() if not math.isnan(column[row])}
        day = date.fromordinal(int(self.day[row]))
        return House(day, longitude if is_placed else None, latitude if is_placed else None, known)

    def meters_from(self, house: House) -> Numbers:
        """Return how far each lies from a house; not a number where one of the two has no place."""
        if house.longitude is None or house.latitude is None:
            return np.full(len(self), np.nan)
        east = (self.longitude - house.longitude) * (METERS_PER_DEGREE * math.cos(math.radians(house.latitude)))
        north = (self.latitude - house.latitude) * METERS_PER_DEGREE
        return np.hypot(east, north)

    def months_before(self, day: date) -> Numbers:
        return (day.toordinal() - self.day) / DAYS_PER_MONTH

    @property
    def unit_price(self) -> Numbers:
        """Dollars a square foot of living area; not a number where that is unknown."""
        return self.price / self.traits["living_area"]


Row = tuple[int, date, float, float | None, float | None, Mapping[str, float | None]]


def sales_of(rows: Sequence[Row]) -> Sales:
    """Return sales from rows: parcel, day, price, longitude, latitude, traits. They may come in any order."""
    ordered = sorted(rows, key=lambda row: (row[1], row[0]))

    def column(place: int) -> Numbers:
        return np.array([row[place] for row in ordered], dtype=np.float64)

    return Sales(
        np.array([row[0] for row in ordered], dtype=np.int64),
        np.array([row[1].toordinal() for row in ordered], dtype=np.int64),
        column(2), column(3), column(4),
        {trait: np.array([row[5].get(trait) for row in ordered], dtype=np.float64) for trait in TRAITS},
    )  # fmt: skip
