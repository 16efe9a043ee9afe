"""The range that comps tell: low, median, high, and the value, their weighted median, in which the likest comps count most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from jaded_ledger.core.comps.likeness import weighted_median, weights_of
from jaded_ledger.core.comps.sales import Numbers


@dataclass(frozen=True)
class Range:
    """What comps tell of a value, in dollars: how many, the lowest, the median and the highest, and the value.

    ``shares`` are the comps' weights in the value, as parts of one, in their order.
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


FEW = 3
"""A range of fewer comps says so."""


def doubts_about(as_is: Range | None, repaired: Range | None, *, is_repaired: bool) -> tuple[str, ...]:
    """Return what a reader should doubt in one of a property's two ranges, in sentences: few comps, and an after-repair value below as-is.

    ``is_repaired`` says which of the two is read. A range that does not exist has no doubts.
    """
    read, found = repaired if is_repaired else as_is, []
    if read is not None and read.count < FEW:
        found.append(f"Only {_comps(read.count)}: fewer than {FEW} say little.")
    if as_is is not None and repaired is not None and repaired.value < as_is.value:
        found.append(
            f"The value after repair (${repaired.value:,.0f} from {_comps(repaired.count)}) is below the value as is "
            f"(${as_is.value:,.0f} from {_comps(as_is.count)}). Check the comps of both."
        )
    return tuple(found)


def _comps(count: int) -> str:
    return f"{count} comp{'' if count == 1 else 's'}"


def range_of(values: Sequence[float] | Numbers, closeness: Sequence[float] | Numbers) -> Range | None:
    """Return the range of comps' adjusted prices; None of none. No price that lies far off moves the value much, as a median's.

    Parameters
    ----------
    values : dollars, of each comp
    closeness : of each comp how unlike the subject it is, 0 for its like; as long as ``values``
    """
    if not len(values):
        return None
    found, shares = np.asarray(values, dtype=np.float64), weights_of(np.asarray(closeness, dtype=np.float64))
    value = float(weighted_median(found, shares))
    return Range(len(found), float(found.min()), float(median(found.tolist())), float(found.max()), value, tuple(shares.tolist()))
