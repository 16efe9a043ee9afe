"""The range that comps tell: low, median, high, and the value, in which the likest comps count most."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from jaded_ledger.core.comps.sales import Numbers

_FAR = 1.2
_TURNS = 5
_LEAST = -20.0


@dataclass(frozen=True)
class Range:
    """What comps tell of a value, in dollars: how many, the lowest, the median and the highest, and the value they add up to.

    ``shares`` are the parts of one that the comps count for in the value, in their order.
    """

    count: int
    low: float
    median: float
    high: float
    value: float
    shares: tuple[float, ...]

    @property
    def spread(self) -> float:
        """How far the highest lies over the lowest, in percent of the median."""
        return 100 * (self.high - self.low) / self.median

    def difference(self, price: float) -> float:
        """Return how far a price lies over the value, in percent; under it is negative."""
        return 100 * (price / self.value - 1)


def shares_of(values: Numbers, closeness: Numbers, noise: float) -> Numbers:
    """Return how much each of some values counts, as parts of one: by its closeness, and less where it lies far off the others.

    ``noise`` is how far values usually lie off, as a share of them. Values within 1.2 times of it count whole (Huber's M-estimate of
    location, *Annals of Mathematical Statistics* 35(1), 1964).
    """
    counts = np.exp(np.maximum(closeness - closeness.max(), _LEAST))
    shares: Numbers = counts / counts.sum()
    for _ in range(_TURNS):
        center = float((shares * values).sum())
        far = np.abs(np.log(values / center)) / (_FAR * noise)
        shares = counts / np.maximum(1, far)
        shares = shares / shares.sum()
    return shares


def range_of(values: Sequence[float] | Numbers, closeness: Sequence[float] | Numbers, noise: float) -> Range | None:
    """Return the range of comps' adjusted prices; None of none."""
    if not len(values):
        return None
    found, counts = np.asarray(values, dtype=np.float64), np.asarray(closeness, dtype=np.float64)
    shares = shares_of(found, counts, noise)
    value = math.fsum(float(share) * float(one) for share, one in zip(shares, found, strict=True))
    return Range(len(found), float(found.min()), float(median(found.tolist())), float(found.max()), value, tuple(shares.tolist()))
