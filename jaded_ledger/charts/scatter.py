"""Two traits against each other: a dot for each match, or beyond two thousand of them a grid of squares."""

from __future__ import annotations

from datetime import date
from math import sqrt
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db.models import Aggregate, Count, ExpressionWrapper, F, FloatField, Func, IntegerField, QuerySet, Value
from django.db.models.functions import Cast, Floor

from jaded_ledger.charts.drawings import (
    BOTTOM,
    LEFT,
    TOP,
    Box,
    Chart,
    Drawing,
    Scale,
    across,
    marks_of,
    of_all,
    plain_rows,
    plot_width,
    titled,
    upward,
)
from jaded_ledger.core.charts.axes import Axis
from jaded_ledger.core.criteria.bins import edges_between
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.figures import drawn_figure_of, figure_of, known_of, median_of
from jaded_ledger.find.spread import bar_of, value_text
from jaded_ledger.records.models import ParcelFacts

HEIGHT = 420
MOST_DOTS = 2_000
_COLUMNS, _ROWS = 52, 30
_EPOCH = 719_163
"""1 January 1970 as an ordinal: PostgreSQL counts a day's seconds from there."""


class _Quantiles(Aggregate):
    function = "PERCENTILE_CONT"
    template = "%(function)s(ARRAY[0, 0.005, 0.995, 1]) WITHIN GROUP (ORDER BY %(expressions)s)"
    output_field = ArrayField(FloatField())


class _Epoch(Func):
    """A day as seconds since 1970."""

    function = "EXTRACT"
    template = "%(function)s(EPOCH FROM %(expressions)s)"
    output_field = FloatField()


def _axis_value(trait: Trait) -> Any:
    """Return a trait's value as an axis counts it: figures as they are, days as their ordinals."""
    if trait.kind is Kind.DATE:
        return Cast(ExpressionWrapper(_Epoch(figure_of(trait)) / 86_400.0 + _EPOCH, output_field=FloatField()), FloatField())
    return drawn_figure_of(trait)


def scatter(matches: QuerySet[ParcelFacts], x: Trait, y: Trait, parcels: int) -> Chart:
    """Return two traits of so many matches against each other. The outermost hundredth, where it is far away, lies beyond the axes."""
    title = f"{y.label} by {x.label}"
    both = matches.annotate(x=_axis_value(x), y=_axis_value(y)).filter(x__isnull=False, y__isnull=False)
    ends = both.aggregate(x_ends=_Quantiles("x"), y_ends=_Quantiles("y"), known=Count("pk"))
    known = ends["known"]
    if not known:
        return Chart(title, (of_all(0, parcels),), ())
    along, up = _axis(ends["x_ends"], plot_width()), _axis(ends["y_ends"], HEIGHT - TOP - BOTTOM)
    within = both.filter(x__gte=along.low, x__lte=along.high, y__gte=up.low, y__lte=up.high)
    notes = [of_all(known, parcels)]
    boxes: tuple[Box, ...] = ()
    dots = ""
    shown = within.count()
    if shown <= MOST_DOTS:
        places = within.order_by("x", "y").values_list("x", "y")
        dots = "".join(f"M{LEFT + along.at(a):g} {HEIGHT - BOTTOM - up.at(b):g}h0" for a, b in places)
    else:
        boxes = _grid(within, along, up)
        notes.append("the larger a square, the more parcels stand there")
    if beyond := known - shown:
        notes.append(f"{beyond:,} lie beyond the axes")
    drawing = Drawing(HEIGHT, titled(x), titled(y), across(marks_of(x, along, 8)), upward(marks_of(y, up), HEIGHT), boxes, dots=dots)
    head = (x.label, "parcels", f"median {y.label}")
    return Chart(
        title,
        tuple(notes),
        (drawing,),
        head,
        _medians(matches, x, y, along),
        "xy",
        {"x": Scale(x, along.low, along.high), "y": Scale(y, up.low, up.high)},
    )


def _axis(ends: list[float], length: float) -> Axis:
    # No engine's last digit of a float is to tell where an axis ends.
    least, low, high, most = (round(end, 6) for end in ends)
    # What is far away would press all others together.
    spread = high - low
    return Axis(least if low - least <= spread else low, most if most - high <= spread else high, length)


def _grid(within: QuerySet[ParcelFacts], along: Axis, up: Axis) -> tuple[Box, ...]:
    def place(name: str, axis: Axis, cells: int) -> Any:
        step = (axis.high - axis.low) / cells or 1.0
        return Cast(Floor((F(name) - Value(axis.low)) / Value(step)), IntegerField())

    counted = within.annotate(column=place("x", along, _COLUMNS), row=place("y", up, _ROWS)).values("column", "row").annotate(n=Count("pk"))
    found: dict[tuple[int, int], int] = {}
    for column, row, count in counted.order_by().values_list("column", "row", "n"):
        # What stands at the very end belongs to the last cell.
        cell = (min(column, _COLUMNS - 1), min(row, _ROWS - 1))
        found[cell] = found.get(cell, 0) + count
    most = max(found.values())
    width, height = along.length / _COLUMNS, up.length / _ROWS
    boxes = []
    for (column, row), count in sorted(found.items()):
        side = max(1.5, min(width, height) * sqrt(count / most))
        middle = LEFT + (column + 0.5) * width, HEIGHT - BOTTOM - (row + 0.5) * height
        boxes.append(Box(round(middle[0] - side / 2, 1), round(middle[1] - side / 2, 1), round(side, 1), round(side, 1), f"{count:,}"))
    return tuple(boxes)


def _medians(matches: QuerySet[ParcelFacts], x: Trait, y: Trait, along: Axis) -> tuple[tuple[str, ...], ...]:
    """Return the picture as a table: between round ends of the one trait, how many parcels, and the median of the other."""
    is_date = x.kind is Kind.DATE
    low, high = (date.fromordinal(int(end)) if is_date else end for end in (along.low, along.high))
    edges = edges_between(low, high, x)
    both = known_of(matches, x).annotate(other=figure_of(y)).filter(other__isnull=False)
    counted = both.annotate(bar=bar_of(x, edges)).values("bar").annotate(n=Count("pk"), middle=median_of(y)).order_by("bar")
    rows = []
    for bar, count, middle in counted.values_list("bar", "n", "middle"):
        first = value_text(x, edges[bar]) if bar else f"before {value_text(x, edges[1])}"
        rows.append((f"from {first}" if bar else first, count, value_text(y, middle)))
    return plain_rows(rows)
