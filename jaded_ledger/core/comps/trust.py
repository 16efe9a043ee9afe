"""How far a range can be trusted: how much the same method missed on past sales, each told from those before it only."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cache

import numpy as np

from jaded_ledger.core.comps.adjustments import adjusted_values
from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.lines import LineKind, PoolLine
from jaded_ledger.core.comps.pool import candidates, narrow, widen
from jaded_ledger.core.comps.ranges import range_of
from jaded_ledger.core.comps.sales import House, Numbers, Rows, Sales

ENOUGH = 30
"""Under this many past sales nothing is said."""
CLOSE = 0.1
"""A miss up to this share of the price counts as close."""


@dataclass(frozen=True)
class Miss:
    """How much a way of telling missed on past sales: how many it told, the median miss and how many were close, in percent."""

    way: str
    count: int
    median: float
    close: float


@dataclass(frozen=True)
class Trust:
    """How far a range can be trusted. ``steps`` are the ways on the way to the method, the method itself the last; None: too few sales."""

    steps: tuple[Miss, ...]
    sales: int

    @property
    def method(self) -> Miss | None:
        return self.steps[-1] if self.steps and self.steps[-1].count >= ENOUGH else None


NEIGHBORHOOD = "median $/sq ft of the neighborhood"
POOL = "median $/sq ft of the pool"
ADJUSTED = "median of the adjusted comps"
METHOD = "the likest count most"
MONTHLY = Callable[[date], Constants]


def first_of_month(day: date) -> date:
    """Return the first day of a day's month: constants are measured once a month."""
    return day.replace(day=1)


def values_by_way(
    sales: Sales, house: House, lines: Sequence[PoolLine], constants: Constants, parcel: int | None = None
) -> dict[str, float]:
    """Return what each way tells of a house's value, from what sold before its day; a way that can't tell is missing."""
    among = candidates(sales, house, parcel)
    size = "living_area" if house.knows("living_area") else "lot_sqft"
    own, found = house.value(size), {}
    near = among.traits["neighborhood"] == house.value("neighborhood")
    found[NEIGHBORHOOD] = own * _median(among.price[near] / among.traits[size][near])
    wide, _ = widen(among, house, lines)
    pool = narrow(among, house, wide, constants)
    if len(pool):
        comps = among.take(pool.rows)
        values, closeness = adjusted_values(comps, house, constants)
        found[POOL] = own * _median(comps.price / comps.traits[size])
        found[ADJUSTED] = _median(values)
        result = range_of(values, closeness)
        assert result is not None
        found[METHOD] = result.value
    return {way: value for way, value in found.items() if not np.isnan(value)}


def _median(values: Numbers) -> float:
    known = values[~np.isnan(values)]
    return float(np.median(known)) if len(known) else float("nan")


def back_test(sales: Sales, wanted: Rows | Iterable[int], lines: Sequence[PoolLine], constants_at: MONTHLY) -> Trust:
    """Tell past sales, each from what sold before its day with the constants of its month's first day, and compare with their prices.

    Lines that name a drawn area are of one subject only, and left out.
    """
    relative = [line for line in lines if line.kind not in (LineKind.INSIDE, LineKind.OUTSIDE)]
    at = cache(constants_at)
    misses: dict[str, list[float]] = {NEIGHBORHOOD: [], POOL: [], ADJUSTED: [], METHOD: []}
    rows = list(wanted)
    for row in rows:
        house = sales.house(row)
        for way, value in values_by_way(sales, house, relative, at(first_of_month(house.day)), int(sales.parcel[row])).items():
            misses[way].append(abs(value / float(sales.price[row]) - 1))
    return Trust(
        tuple(
            Miss(way, len(found), 100 * float(np.median(found)), 100 * sum(one <= CLOSE for one in found) / len(found))
            for way, found in misses.items()
            if found
        ),
        len(rows),
    )
