"""In which unit a file counts, by what stands in it: acres or square feet, dollars or thousands, percent or shares, day or month first."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from typing import Any

from jaded_ledger.intake.cells import UnreadableValueError, number_of
from jaded_ledger.intake.columns import Column
from jaded_ledger.intake.mapping import ColumnMap

Cells = Mapping[str, Sequence[Any]]
_ENOUGH = 8
"""So many figures tell a unit."""
_SMALLEST_LOT = 640
"""Square feet that half of a county's lots exceed; acres that none of them is (a section of land has so many)."""
_ACRES = 100
"""Half of a county's lots are smaller than so many acres, and none than so many square feet."""
_SMALLEST_HOUSE = 300
"""Square feet of living area that half of all houses exceed."""
_THOUSANDS = 5_000
"""Dollars that half of all houses sell for, and the price in thousands that next to none does."""
_SHARE = 1
_PRICES = {"deeds": ("price",), "roll": ("market_value",)}
_DAY = re.compile(r"\s*(\d{1,2})[/.-](\d{1,2})[/.-](\d{4})\b")
_MONTHS = 12


@dataclass(frozen=True)
class Doubt:
    """A column of the file that may be in another unit than it is read in, with a sentence that says why and what to do."""

    column: str
    said: str


def _figures(cells: Iterable[Any]) -> list[float]:
    found = []
    for cell in cells:
        try:
            figure = float(number_of(str(cell).strip())) if cell not in (None, "") else 0.0
        except UnreadableValueError:
            continue
        if figure:
            found.append(figure)
    return found


def _half(cells: Iterable[Any]) -> float | None:
    """Return the median of a column's figures; None where too few tell."""
    figures = _figures(cells)
    return median(figures) if len(figures) >= _ENOUGH else None


def _days(cells: Iterable[Any]) -> list[tuple[int, int]]:
    found = (_DAY.match(str(cell)) for cell in cells if cell)
    return [(int(one[1]), int(one[2])) for one in found if one]


def is_day_first(cells: Iterable[Any]) -> bool:
    """Return whether dates such as 24/11/2026 put the day first: some can't be read otherwise, and all can be read so."""
    days = _days(cells)
    return any(first > _MONTHS for first, _ in days) and all(second <= _MONTHS for _, second in days)


def with_units(kind: str, described: Mapping[str, Column], found: ColumnMap, cells: Cells) -> ColumnMap:
    """Return a guessed mapping that reads each column in the unit that its values are in, where they tell."""
    columns, times, day_first = dict(found.columns), dict(found.times), list(found.day_first)
    filled = set(columns.values())
    for name, target in found.columns.items():
        half = _half(cells[name])
        column = described.get(target or "")
        if column is None:
            continue
        if column.is_day and is_day_first(cells[name]):
            day_first.append(column.name)
        elif half is None:
            continue
        elif target == "lot_sqft" and half < _ACRES and "lot_acres" in described and "lot_acres" not in filled:
            columns[name] = "lot_acres"
        elif target == "lot_acres" and half > _SMALLEST_LOT and "lot_sqft" not in filled:
            columns[name] = "lot_sqft"
        elif target in _PRICES.get(kind, ()) and half < _THOUSANDS and max(_figures(cells[name])) < 20 * _THOUSANDS:
            times[column.name] = "1000"
        elif _is_percent(column) and max(_figures(cells[name])) < _SHARE:
            times[column.name] = "100"
    return replace(found, columns=columns, times=times, day_first=tuple(day_first))


def _is_percent(column: Column) -> bool:
    return column.name == "rate" or column.name.endswith(("_pct", "_percent"))


def doubts_about(kind: str, described: Mapping[str, Column], found: ColumnMap, cells: Cells) -> list[Doubt]:
    """Return what somebody should look at before a file is imported: figures and dates whose unit their values make doubtful."""
    doubts = []
    for name, held in cells.items():
        target = found.target(name) or ""
        column = described.get(target)
        if column is None:
            continue
        if said := _day_doubt(found, column, held) if column.is_day else _figure_doubt(kind, column, _half(held), found.times.get(target)):
            doubts.append(Doubt(name, f"{name}: {said}"))
    return doubts


def _day_doubt(found: ColumnMap, column: Column, cells: Sequence[Any]) -> str:
    days = _days(cells)
    is_either = len(set(days)) >= _ENOUGH and all(first <= _MONTHS and second <= _MONTHS for first, second in days)
    if column.name in found.day_first:
        return "dates are read day first, as 24/11/2026 is."
    if is_either:
        return "every date can be read month first or day first, and is read month first. Check one that you know."
    return "some dates can only be read day first, others only month first." if _are_mixed(days) else ""


def _are_mixed(days: Sequence[tuple[int, int]]) -> bool:
    return any(first > _MONTHS for first, _ in days) and any(second > _MONTHS for _, second in days)


def _figure_doubt(kind: str, column: Column, half: float | None, times: str | None) -> str:
    if half is None:
        return ""
    if times == "1000" and column.name in _PRICES.get(kind, ()):
        return f"half of the figures are below ${half:,.0f}, so they are read as thousands. Choose “counted in ones” if they are dollars."
    if times == "100" and _is_percent(column):
        return "all figures are below 1, so 0.25 is read as 25%."
    if times:
        return ""
    if column.name in ("lot_sqft", "LotSizeSquareFeet") and half < _SMALLEST_LOT:
        return f"half of the lots are below {half:,.4g} square feet. Choose acres if they are acres."
    if column.name in ("lot_acres", "LotSizeAcres") and half > _SMALLEST_LOT:
        return f"half of the lots are above {half:,.4g} acres. Choose square feet if they are square feet."
    if column.name in ("living_area", "LivingArea") and half < _SMALLEST_HOUSE:
        return f"half of the houses are below {half:,.4g} square feet. Check whether they are square meters, or another figure."
    if column.name in _PRICES.get(kind, ()) and half < _THOUSANDS:
        return f"half of the figures are below ${half:,.0f}. Choose “counted in thousands” if they are thousands of dollars."
    return ""
