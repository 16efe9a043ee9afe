"""Likeness: how much each comp counts, by how near it is, how much of its price had to be adjusted, and how long ago it sold."""

from __future__ import annotations

import math
from collections.abc import Sequence
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
_MILES = (0.25, 0.5, 1.0, 2.0, 4.0)
_ADJUSTMENTS = (0.05, 0.1, 0.2, 0.4)
LEAST_EFFECTIVE = 4.0
"""The fewest comps that a value uses where the pool has them, by Kish's effective number."""
_SMOOTH = 0.1
"""Misses (in logs) well under this count by their square, those well over it by their size."""
_WORSE = 0.003
"""Weights never miss by so much more than the median of the same comps does, as a share of the price."""
_CLIP = -20.0
_ROUNDING = 1e-12
_HALVINGS = 24


class Origin(StrEnum):
    """Where a constant comes from."""

    MEASURED = "measured"
    SHIPPED = "shipped"
    NEIGHBOR = "as the next milder condition"
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
    def text(self) -> str:
        return (
            f"a comp counts 2.7 times less {self.miles:g} mile away, with {self.adjustment:.0%} of its price to adjust, "
            f"or {self.months:.0f} months old"
        ).replace("%", " %")


SHIPPED_LIKENESS = Likeness(1.0, 0.2)
SHIPPED_FOR_LAND = Likeness(3.0, 0.3)


def weights_of(closeness: Numbers) -> Numbers:
    """Return how much comps count by their closeness, as parts of one along the last axis: flattened until enough of them count.

    Enough is ``LEAST_EFFECTIVE`` by Kish's effective size, one over the sum of squared parts (*Survey Sampling*, 1965), or all of fewer.
    """
    logs = np.maximum(closeness - closeness.max(axis=-1, keepdims=True), _CLIP)
    enough = min(LEAST_EFFECTIVE, closeness.shape[-1])
    parts = _parts(logs)
    if np.all(is_flat := _effective(parts) >= enough):
        return parts
    low, high = np.zeros_like(is_flat, dtype=np.float64), np.ones_like(is_flat, dtype=np.float64)
    for _ in range(_HALVINGS):
        power = (low + high) / 2
        is_enough = _effective(_parts(power * logs)) >= enough
        low, high = np.where(is_enough, power, low), np.where(is_enough, high, power)
    return np.where(is_flat, parts, _parts(low * logs))


def weighted_median(values: Numbers, weights: Numbers) -> Numbers:
    """Return the value below and above which half of the weights lie, along the last axis; between two of them by the line through both.

    Of equal weights it is the plain median.
    """
    order = np.argsort(values, axis=-1, kind="stable")
    sorted_values, parts = np.take_along_axis(values, order, axis=-1), np.take_along_axis(weights, order, axis=-1)
    middles = np.cumsum(parts, axis=-1) - parts / 2
    above = (middles < 0.5 - _ROUNDING).sum(axis=-1, keepdims=True)
    ends = np.clip(np.concatenate([above - 1, above], axis=-1), 0, values.shape[-1] - 1)
    low, high = np.moveaxis(np.take_along_axis(sorted_values, ends, axis=-1), -1, 0)
    before, after = np.moveaxis(np.take_along_axis(middles, ends, axis=-1), -1, 0)
    between: Numbers = np.where(after > before, (0.5 - before) / np.where(after > before, after - before, 1), 0.0)
    found: Numbers = low + between * (high - low)
    return found


def _parts(logs: Numbers) -> Numbers:
    counts = np.exp(logs)
    parts: Numbers = counts / counts.sum(axis=-1, keepdims=True)
    return parts


def _effective(parts: Numbers) -> Numbers:
    count: Numbers = 1 / (parts**2).sum(axis=-1, keepdims=True)
    return count


def measure_likeness(sales: Sales, left: Numbers, parts: Numbers) -> Likeness:
    """Return the flattest likeness that values past sales about as well as the best one does, each by those up to its day.

    ``left`` is what the terms leave of each log price, ``parts`` what each term makes of it. Where no past sale has enough before
    it, the shipped one.
    """
    tried = np.unique(np.linspace(len(sales) // 4, len(sales) - 1, _TRIED).astype(np.intp))
    differences, found = np.nan_to_num(parts, nan=np.inf), []
    typical = np.nan_to_num(np.nanstd(parts, axis=0))
    east, north = sales.longitude * (METERS_PER_DEGREE * np.cos(np.radians(sales.latitude))), sales.latitude * METERS_PER_DEGREE
    for row in tried:
        before = np.flatnonzero((sales.day <= sales.day[row]) & (sales.parcel != sales.parcel[row]))
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
    return flattest(
        [
            _trial(likeness, own, others, likeness.closeness(miles, apart, months))
            for likeness in (Likeness(far, much, origin=Origin.MEASURED) for far, much in product(_MILES, _ADJUSTMENTS))
        ]
    )


@dataclass(frozen=True)
class Trial:
    """How well a likeness valued past sales: the loss of each (0 for one that was hit), and how many comps counted, on average.

    ``median_miss`` is its own, ``plain_miss`` that of the plain median of the same comps, both in logs.
    """

    likeness: Likeness
    losses: Numbers
    effective: float
    median_miss: float
    plain_miss: float


def _trial(likeness: Likeness, own: Numbers, others: Numbers, closeness: Numbers) -> Trial:
    """Return how well past sales are valued when the likest of their neighbors are weighed by their closeness."""
    order = np.argsort(-closeness, axis=1, kind="stable")[:, :COUNTED]
    weights, logs = weights_of(np.take_along_axis(closeness, order, axis=1)), np.take_along_axis(others, order, axis=1)

    def median_miss(text: Numbers) -> float:
        return float(np.median(np.abs(own - text)))

    # Weighted means differ more smoothly from likeness to likeness than weighted medians, which jump from comp to comp.
    losses = np.hypot(own - (logs * weights).sum(axis=1), _SMOOTH) - _SMOOTH
    return Trial(
        likeness,
        losses,
        float(_effective(weights).mean()),
        median_miss(weighted_median(logs, weights)),
        median_miss(np.median(logs, axis=1)),
    )


def flattest(trials: Sequence[Trial]) -> Likeness:
    """Return the likeness by which most comps count, among those that lose no more than one standard error against the best.

    The error is that of the paired differences of their losses (the one-standard-error rule; Breiman et al., *Classification and Regression
    Trees*, 1984), so that sharp weights are taken only where past sales clearly ask for them. Those that lose to the plain median are out,
    unless all do.
    """
    fair = [one for one in trials if one.median_miss <= one.plain_miss + _WORSE]
    if not fair:
        return max(trials, key=lambda one: one.effective).likeness
    best = min(fair, key=lambda one: float(one.losses.mean()))

    def is_as_good(one: Trial) -> bool:
        more = one.losses - best.losses
        error = float(more.std(ddof=1)) / math.sqrt(len(more)) if len(more) > 1 else 0.0
        return float(more.mean()) <= error

    return max((one for one in fair if is_as_good(one)), key=lambda one: one.effective).likeness


def differing(of_sales: Numbers, of_house: Numbers, typical: Numbers) -> Numbers:
    """Return by how much each term's part of a price differs; where one side is unknown (infinite), by as much as sales usually do.

    Parameters
    ----------
    of_sales : shape (sales, terms), in logarithms of price
    of_house, typical : shape (terms,)

    Returns
    -------
    Shape (sales, terms).
    """
    known = np.isfinite(of_sales) & np.isfinite(of_house)
    return np.where(known, np.where(known, of_sales, 0) - np.where(np.isfinite(of_house), of_house, 0), typical)
