"""The value of an input at which something is just met: in closed form where it grows evenly with the input, else by halving."""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import pairwise

_FAR = 1e9
_EVEN = 1e-9
_HALVINGS = 200
_BETWEEN = (0.0, 1.0, 10.0, 100.0, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, _FAR)


def solve(gap: Callable[[float], float], start: float, least: float, *, is_money: bool) -> float | None:
    """Return the value from ``least`` on at which a gap closes; None where none does. ``start`` is near where it is looked for.

    ``gap`` returns how far what is wanted is exceeded (below 0: missed). Money is rounded to that cent at which it is not missed.
    """
    found = _even(gap, start if math.isfinite(start) and start else 1_000.0)
    if found is None:
        found = _halved(gap, least)
    if found is None or not least <= found <= _FAR:
        return None
    return _to_the_cent(gap, found) if is_money else found


def _to_the_cent(gap: Callable[[float], float], value: float) -> float:
    """Return the cent next to a value at which nothing is missed."""
    nearest = round(value, 2)
    return next((one for one in (nearest, round(nearest - 0.01, 2), round(nearest + 0.01, 2)) if gap(one) >= 0), nearest)


def _even(gap: Callable[[float], float], size: float) -> float | None:
    """Return where an even gap closes, which three values tell; None where it is not even or does not change at all."""
    at = [gap(0.0), gap(size), gap(2 * size)]
    if any(math.isnan(one) for one in at):
        return None
    slope = (at[1] - at[0]) / size
    if not slope or abs(at[2] - at[0] - 2 * (at[1] - at[0])) > _EVEN * max(1.0, abs(at[0]), abs(at[1]), abs(at[2])):
        return None
    return -at[0] / slope


def _halved(gap: Callable[[float], float], least: float) -> float | None:
    """Return where a gap closes between two values of a rising sequence at which it has different signs."""
    points = [least, *(one for one in _BETWEEN if one > least)]
    known = [(one, gap(one)) for one in points]
    known = [(one, at) for one, at in known if not math.isnan(at)]
    for (low, at_low), (high, at_high) in pairwise(known):
        if at_low == 0:
            return low
        if (at_low > 0) is (at_high > 0):
            continue
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            if (gap(middle) > 0) is (at_low > 0):
                low = middle
            else:
                high = middle
        return (low + high) / 2
    return None
