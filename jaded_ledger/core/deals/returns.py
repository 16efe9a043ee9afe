"""What money that goes out and comes in over the years earns. Flows are a year apart, the first today; rates are fractions a year.

Sources: Brealey, Myers and Allen, *Principles of Corporate Finance*, on net present value and the internal rate of return.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import accumulate, pairwise
from typing import Any

import numpy as np

_LEAST, _MOST = -0.9999, 1_000.0
_STEPS = 200


def present_value(rate: Any, flows: Sequence[Any]) -> Any:
    """Return what flows are worth today at a rate: Σ flow ÷ (1 + rate)^year. Not a number at a rate of −100 % or less.

    Parameters
    ----------
    rate : fraction a year, a number or an array
    flows : dollars by year, today's first; each a number, or an array of the rate's shape

    Source: `numpy_financial.npv` gives the same.

    >>> round(float(present_value(0.08, [-40_000, 5_000, 8_000, 12_000, 30_000])), 2)
    3065.22
    """
    growth = np.where(np.asarray(rate, dtype=np.float64) > -1, 1 + np.asarray(rate, dtype=np.float64), np.nan)
    found = 0.0
    for year, flow in enumerate(flows):
        found = found + flow / growth**year
    return np.asarray(found)[()]


def internal_rate(flows: Sequence[Any]) -> float:
    """Return the rate at which flows are worth nothing today, found by halving; not a number where there is none, or may be several.

    ``flows`` are dollars by year, today's first; the rate is a fraction a year. Source: `numpy_financial.irr` gives the same.

    There is one where the flows change their sign once (Descartes' rule of signs), or their running total does (Norstrøm 1972, *A
    sufficient condition for a unique nonnegative internal rate of return*); either has to begin with money that goes out.

    >>> round(100 * internal_rate([-100, 39, 59, 55, 20]), 2)
    28.09
    """
    numbers = [float(flow) for flow in flows]
    if any(math.isnan(flow) for flow in numbers) or not numbers or numbers[0] >= 0:
        return math.nan
    if _changes(numbers) == 1:
        return _root(numbers, _LEAST)
    return _root(numbers, 0.0) if _changes(list(accumulate(numbers))) == 1 else math.nan


def _changes(numbers: Sequence[float]) -> int:
    """Return how often numbers turn from below 0 to 0 or more, or back."""
    return sum((one < 0) is not (other < 0) for one, other in pairwise(numbers))


def _root(flows: Sequence[float], low: float) -> float:
    high = _MOST
    if not _at(low, flows) >= 0 > _at(high, flows):
        return math.nan
    for _ in range(_STEPS):
        middle = (low + high) / 2
        if _at(middle, flows) > 0:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _at(rate: float, flows: Sequence[float]) -> float:
    """Return the present value, from the last year back, which neither overflows nor loses the small."""
    value = 0.0
    for flow in reversed(flows):
        value = flow + value / (1 + rate)
    return value
