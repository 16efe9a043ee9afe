"""What a chart is made of: its drawing, its table of the same figures, and what a click or a brush makes of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date

from jaded_ledger.core.charts.axes import Axis, day_ticks, ticks
from jaded_ledger.core.criteria.display import figure_shown
from jaded_ledger.core.criteria.traits import Kind, Trait

WIDTH = 720
LEFT, RIGHT, TOP, BOTTOM = 78, 16, 10, 46
FOR_NAMES = 170
"""What is left of the axes where names stand, and not figures."""


@dataclass(frozen=True)
class Tick:
    """A mark on an axis, in pixels from the left or the top of the drawing, and what stands beside it."""

    at: float
    text: str


@dataclass(frozen=True)
class Box:
    """A bar or a field of a grid. ``adds`` is the criterion that a click makes; ``low`` and ``high`` are its ends as they are typed."""

    x: float
    y: float
    width: float
    height: float
    reads: str
    adds: str = ""
    low: str = ""
    high: str = ""


@dataclass(frozen=True)
class Drawing:
    """Axes and marks, in pixels. ``behind`` are the outlines of what this is compared with; ``dots`` is a path of single points."""

    height: int
    x_title: str
    y_title: str
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    boxes: tuple[Box, ...] = ()
    behind: tuple[Box, ...] = ()
    dots: str = ""
    line: str = ""
    names: tuple[Tick, ...] = ()
    """Words at the left of rows, in the place of a vertical axis."""

    width: int = WIDTH

    @property
    def plot(self) -> tuple[int, int, int, int]:
        """Left, top, right and bottom of what the axes enclose."""
        return FOR_NAMES if self.names else LEFT, TOP, self.width - RIGHT, self.height - BOTTOM

    @property
    def plot_height(self) -> int:
        return self.height - TOP - BOTTOM


@dataclass(frozen=True)
class Chart:
    """A chart with its title, what is to be said of it, and its figures as a table.

    ``brush`` says what a brush makes: a range of one trait (``x``), of two (``xy``), or nothing.
    """

    title: str
    notes: tuple[str, ...]
    drawings: tuple[Drawing, ...]
    head: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    brush: str = ""
    scales: dict[str, Scale] = field(default_factory=dict)
    """For a brush over two traits: how each axis leads back to values."""


@dataclass(frozen=True)
class Scale:
    """How a place on an axis leads back to a trait's value."""

    trait: Trait
    low: float
    high: float

    @property
    def is_date(self) -> bool:
        return self.trait.kind is Kind.DATE


def plot_width(left: int = LEFT) -> int:
    """Return how wide the axes are, in pixels."""
    return WIDTH - left - RIGHT


def number(value: float | date) -> float:
    """Return a figure or a day as an axis counts it."""
    return float(value.toordinal()) if isinstance(value, date) else float(value)


def marks_of(trait: Trait, axis: Axis, most: int = 6) -> list[tuple[float, str]]:
    """Return the marks of a trait's axis: how far along each is, and its figure or day."""
    if trait.kind is Kind.DATE:
        low, high = (date.fromordinal(max(1, int(end))) for end in (axis.low, axis.high))
        days = day_ticks(low, high, most)
        by_year = all((day.month, day.day) == (1, 1) for day in days)
        return [(axis.at(day.toordinal()), str(day.year) if by_year else f"{day:%b %Y}") for day in days]
    least = 10.0**-trait.decimals
    return [(axis.at(value), figure_shown(trait, plain_figure(value))) for value in ticks(axis.low, axis.high, most, least)]


def counts_of(most: float, length: float, *, is_share: bool = False) -> tuple[Axis, list[tuple[float, str]]]:
    """Return a vertical axis of counts (or of percents) up to a largest one, and its marks."""
    top = ticks(0, most * 1.02, 6, 0.0 if is_share else 1.0)[-1]
    axis = Axis(0, max(top, most) or 1, length)
    return axis, [
        (axis.at(value), f"{value:,.4g} %" if is_share else f"{value:,.0f}") for value in ticks(0, axis.high, 6, 0 if is_share else 1)
    ]


def plain_figure(value: float) -> int | float:
    return int(value) if value == int(value) else value


def across(marks: Iterable[tuple[float, str]], left: int = LEFT) -> tuple[Tick, ...]:
    """Return the marks of a horizontal axis."""
    return tuple(Tick(round(left + at, 2), text) for at, text in marks)


def upward(marks: Iterable[tuple[float, str]], height: int) -> tuple[Tick, ...]:
    """Return the marks of a vertical axis."""
    return tuple(Tick(round(height - BOTTOM - at, 2), text) for at, text in marks)


def titled(trait: Trait) -> str:
    """Return what an axis is called: the trait, with its unit."""
    return f"{trait.label}, {trait.unit}" if trait.unit and trait.unit not in trait.label else trait.label


def of_all(known: int, parcels: int) -> str:
    """Return how many of so many parcels are in a chart, and how many are not because it is not known of them."""
    unknown = parcels - known
    return f"{known:,} of {parcels:,} parcels" + (f"; of {unknown:,} it is not known" if unknown else "")


def plain_rows(rows: Iterable[Sequence[object]]) -> tuple[tuple[str, ...], ...]:
    return tuple(tuple(f"{cell:,}" if isinstance(cell, int) else str(cell) for cell in row) for row in rows)
