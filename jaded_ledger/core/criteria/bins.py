"""Where a histogram of a trait's values is cut: at round figures, at the first days of months and years."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from itertools import count

from jaded_ledger.core.criteria.search import FigureRange
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.criteria.values import value_text
from jaded_ledger.core.dates import CalendarUnit, Length, shift

MOST_BARS = 24
_ROUND = (1, 2, 5)
_MONTHS = (1, 3, 6, 12, 24, 60, 120, 240, 600, 1200)
_DAY = timedelta(days=1)

Figure = int | float
Edge = Decimal | date


def _steps(trait: Trait) -> Iterator[Decimal]:
    """Yield round steps, the smallest first: none is finer than what the trait's values are kept to."""
    for power in count(-trait.decimals):
        yield from (Decimal(digit).scaleb(power) for digit in _ROUND)


def _figure_edges(low: Decimal, high: Decimal, trait: Trait) -> list[Edge]:
    step = next(one for one in _steps(trait) if (high - low) / one < MOST_BARS - 2)
    first, last = low // step * step, high // step * step
    if first > low:
        first -= step
    return [first + step * number for number in range(int((last - first) / step) + 2)]


def _day_edges(low: date, high: date) -> list[Edge]:
    months = (high.year - low.year) * 12 + high.month - low.month + 1
    step = next((one for one in _MONTHS if months / one < MOST_BARS - 2), _MONTHS[-1])
    first = date(low.year, 1, 1) if step > 6 else date(low.year, (low.month - 1) // step * step + 1, 1)
    if step > 12:
        first = date(max(1, low.year // (step // 12) * (step // 12)), 1, 1)
    edges: list[Edge] = [first]
    while (last := edges[-1]) <= high:  # type: ignore[operator]
        edges.append(shift(last, Length(step, CalendarUnit.MONTH), 1))  # type: ignore[arg-type]
    return edges


def edges_between(low: Figure | date, high: Figure | date, trait: Trait) -> list[Edge]:
    """Return where values from a low to a high one are cut: each bar goes from an edge to before the next."""
    if isinstance(low, date) and isinstance(high, date):
        return _day_edges(low, high)
    return _figure_edges(Decimal(str(low)), Decimal(str(high)), trait)


def _before(edge: Edge, trait: Trait) -> Edge:
    """Return the last value before an edge."""
    return edge - _DAY if isinstance(edge, date) else edge - Decimal(1).scaleb(-trait.decimals)


def range_text(low: Edge | None, before: Edge | None, trait: Trait) -> str:
    """Return the text form of the values from one edge to before another; None leaves an end open.

    >>> from jaded_ledger.core.criteria.catalogue import CATALOGUE
    >>> range_text(Decimal(2), Decimal(5), CATALOGUE["beds"]), range_text(None, date(2020, 1, 1), CATALOGUE["last-sale"])
    ('2..4', 'before 2020-01-01')
    """
    high = None if before is None else _before(before, trait)
    if trait.kind is not Kind.DATE:
        if low == high and low is not None:
            return value_text(FigureRange(low, low)).partition("..")[0]  # type: ignore[arg-type]
        return value_text(FigureRange(low, high))  # type: ignore[arg-type]
    if low is None:
        return f"before {before}"
    return f"since {low}" if high is None else f"between {low} and {high}"
