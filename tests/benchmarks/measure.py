"""A budget's row, and how its two sides are timed."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One budget: the work, the two medians in milliseconds, and the ratio that is the target."""

    work: str
    ours: float
    theirs: float
    target: float

    @property
    def ratio(self) -> float:
        return self.ours / self.theirs


def compare(work: str, target: float, ours: Callable[[], object], theirs: Callable[[], object], times: int = 7) -> Row:
    """Run both in turn, so that whatever else the machine does falls on both alike; the first of each warms up."""
    taken: tuple[list[float], list[float]] = ([], [])
    for number in range(times + 1):
        for spent, run in zip(taken, (ours, theirs), strict=True):
            started = time.perf_counter()
            run()
            if number:
                spent.append(1000 * (time.perf_counter() - started))
    return Row(work, statistics.median(taken[0]), statistics.median(taken[1]), target)
