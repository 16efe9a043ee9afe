"""An axis of a chart: from which value to which it goes, where it is marked, and where a value stands on it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from itertools import count
from math import floor, log10

from jaded_ledger.core.dates import CalendarUnit, Length, shift

_ROUND = (1.0, 2.0, 5.0)
_MONTHS = (1, 3, 6, 12, 24, 60, 120, 240, 600)


@dataclass(frozen=True)
class Axis:
    """Values from ``low`` to ``high`` drawn over ``length`` pixels; days count as their ordinals."""

    low: float
    high: float
    length: float

    def at(self, value: float) -> float:
        """Return how far from its beginning a value stands, in pixels; at an end what lies beyond it.

        >>> Axis(0, 200, 100).at(50), Axis(0, 200, 100).at(-1)
        (25.0, 0.0)
        """
        if self.high == self.low:
            return 0.0
        return round(self.length * min(1.0, max(0.0, (value - self.low) / (self.high - self.low))), 2)


def _steps(span: float) -> Iterator[float]:
    for power in count(floor(log10(span)) - 2 if span > 0 else 0):
        yield from (digit * 10.0**power for digit in _ROUND)


def ticks(low: float, high: float, most: int = 6, least: float = 0.0) -> list[float]:
    """Return at most so many round values from a low to a high one, evenly spaced, at least ``least`` apart.

    >>> ticks(0, 130), ticks(0, 3, least=1), ticks(5, 5)
    ([0.0, 50.0, 100.0], [0.0, 1.0, 2.0, 3.0], [5.0])
    """
    if high <= low:
        return [float(low)]
    for step in _steps(high - low):
        first = -(-low // step) * step
        marks = int((high - first) / step + 1e-9) + 1
        if step >= least and marks <= most:
            return [round(first + step * number, 10) for number in range(marks)]
    raise AssertionError("a step is found for every span")


def day_ticks(low: date, high: date, most: int = 7) -> list[date]:
    """Return at most so many first days of months or years from a low to a high day; the low one where none lies between.

    >>> [day.isoformat() for day in day_ticks(date(2010, 5, 3), date(2026, 11, 24))]
    ['2015-01-01', '2020-01-01', '2025-01-01']
    """
    for months in _MONTHS:
        first = _first_of(low, months)
        marks = [first]
        while (after := shift(marks[-1], Length(months, CalendarUnit.MONTH), 1)) <= high:
            marks.append(after)
        marks = [day for day in marks if low <= day <= high]
        if 0 < len(marks) <= most:
            return marks
    return [low]


def _first_of(day: date, months: int) -> date:
    if months < 12:
        return date(day.year, (day.month - 1) // months * months + 1, 1)
    years = months // 12
    return date(max(1, day.year // years * years), 1, 1)
