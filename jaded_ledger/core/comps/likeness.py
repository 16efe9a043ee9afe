"""Likeness: how much each comp counts, by how near it is, how much of its price had to be adjusted, and how long ago it sold."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from itertools import product

import numpy as np

from jaded_ledger.core.comps.sales import DAYS_PER_MONTH, METERS_PER_DEGREE, Numbers, Sales
from jaded_ledger.core.lengths import METERS_PER_MILE

UNKNOWN_MILES = 1.0
"""How far a comp without a place is taken to lie."""
COUNTED = 12
"""How many comps are taken, the likest."""
_TRIED = 250
"""How many past sales the likeness is measured on, among the likest of how many nearest of their neighbors."""
_NEIGHBORS = 40
_NEAREST = 200
_MILES = (0.1, 0.25, 0.5)
_ADJUSTMENTS = (0.05, 0.1, 0.2)


class Origin(StrEnum):
    """Where a constant comes from."""

    MEASURED = "measured"
    SHIPPED = "shipped"
    BY_HAND = "set by hand"


@dataclass(frozen=True)
class Likeness:
    """The distance, the adjustment (as a share of the price) and the age at which a comp counts e times less (2.7) than one without."""

    miles: float
    adjustment: float
    months: float = 24.0
    origin: Origin = Origin.SHIPPED

    def closeness(self, miles: Numbers, adjustments: Numbers, months: Numbers) -> Numbers:
        """Return the logarithm of how much comps count: 0 of one that is as like as can be, below 0 of all others."""
        far = np.where(np.isnan(miles), UNKNOWN_MILES, miles)
        return -far / self.miles - adjustments / self.adjustment - months / self.months

    @property
    def told(self) -> str:
        return (
            f"a comp counts 2.7 times less {self.miles:g} mile away, with {self.adjustment:.0%} of its price to adjust, "
            f"or {self.months:.0f} months old"
        ).replace("%", " %")


SHIPPED_LIKENESS = Likeness(0.25, 0.1)
SHIPPED_FOR_FEW = Likeness(1.0, 0.2)
"""Where a county has too few sales to measure it, they lie far apart, too."""
SHIPPED_FOR_LAND = Likeness(3.0, 0.3)


def measure_likeness(sales: Sales, left: Numbers, parts: Numbers) -> Likeness:
    """Return the likeness by which past sales would have been told best, each by those before it.

    ``left`` is what the terms leave of each log price, ``parts`` what each term makes of it. Where no past sale has enough before
    it, the shipped one.
    """
    tried = np.unique(np.linspace(len(sales) // 4, len(sales) - 1, _TRIED).astype(np.intp))
    differences, found = np.nan_to_num(parts, nan=np.inf), []
    typical = np.nan_to_num(np.nanstd(parts, axis=0))
    east, north = sales.longitude * (METERS_PER_DEGREE * np.cos(np.radians(sales.latitude))), sales.latitude * METERS_PER_DEGREE
    for row in tried:
        before = np.flatnonzero(sales.day < sales.day[row])
        if len(before) < _NEIGHBORS:
            continue
        miles = np.hypot(east[before] - east[row], north[before] - north[row]) / METERS_PER_MILE
        near = np.argsort(miles, kind="stable")[:_NEAREST]
        before, miles = before[near], miles[near]
        apart = np.sqrt((differing(differences[before], differences[row], typical) ** 2).sum(axis=1))
        months = (sales.day[row] - sales.day[before]) / DAYS_PER_MONTH
        likest = np.argsort(-SHIPPED_LIKENESS.closeness(miles, apart, months), kind="stable")[:_NEIGHBORS]
        found.append((left[row], left[before[likest]], miles[likest], apart[likest], months[likest]))
    if not found:
        return SHIPPED_LIKENESS
    own, others, miles, apart, months = (np.array(column) for column in zip(*found, strict=True))
    return min(
        (Likeness(far, much, origin=Origin.MEASURED) for far, much in product(_MILES, _ADJUSTMENTS)),
        key=lambda likeness: _miss(own, others, likeness.closeness(miles, apart, months)),
    )


def differing(of_sales: Numbers, of_house: Numbers, typical: Numbers) -> Numbers:
    """Return by how much each term's part of a price differs; where one side is unknown (infinite), by as much as sales usually do."""
    known = np.isfinite(of_sales) & np.isfinite(of_house)
    return np.where(known, np.where(known, of_sales, 0) - np.where(np.isfinite(of_house), of_house, 0), typical)


def _miss(own: Numbers, others: Numbers, closeness: Numbers) -> float:
    """Return the median miss of past sales when the likest of their neighbors are weighed by their closeness."""
    order = np.argsort(-closeness, axis=1, kind="stable")[:, :COUNTED]
    taken = np.exp(np.take_along_axis(closeness, order, axis=1) - closeness.max(axis=1, keepdims=True))
    told = (np.take_along_axis(others, order, axis=1) * taken).sum(axis=1) / taken.sum(axis=1)
    return float(np.median(np.abs(own - told)))
