"""A held property over the years, as a table and a chart: all cash year by year, and what is the owner's own beside it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jaded_ledger.core.charts.axes import ticks
from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.projection import ALL, DEBT, EXPENSE, FLOW, INCOME, OWED, RENT, SALE, TOTAL, TURNOVER, VALUE, Projection
from jaded_ledger.core.deals.reading import figure_text, why_none
from jaded_ledger.worksheets.computed import Computed

WIDTH, HEIGHT = 560, 170
_LEFT, _RIGHT, _TOP, _FLOOR = 62, 12, 10, 146
_SHOWN = (RENT, EXPENSE, INCOME, TURNOVER, DEBT, FLOW, VALUE, OWED, SALE, ALL, TOTAL)


@dataclass(frozen=True)
class YearsChart:
    """The chart in pixels of its own box: a bar for each year's cash flow, and lines for value and what is still owed."""

    bars: tuple[dict[str, Any], ...]
    value: str
    owed: str
    ticks: tuple[tuple[float, str], ...]
    years: tuple[tuple[float, str], ...]
    zero: float
    says: str
    width: int = WIDTH
    height: int = HEIGHT


def _scaled(numbers: list[float]) -> tuple[float, float]:
    return min(0.0, *numbers), max(1.0, *numbers)


def _chart(found: Computed, projection: Projection) -> YearsChart | None:
    rows = {name: [None if cell is None else found.figures.number(cell) for cell in projection.row(name)] for name in (FLOW, VALUE, OWED)}
    known = [value for row in rows.values() for value in row if value is not None]
    if not known or None in rows[VALUE]:
        return None
    low, high = _scaled(known)
    room, step = _FLOOR - _TOP, (WIDTH - _LEFT - _RIGHT) / (projection.years + 1)

    def down(value: float) -> float:
        return round(_FLOOR - (value - low) / (high - low) * room, 1)

    def along(year: int) -> float:
        return round(_LEFT + step * (year + 0.5), 1)

    def path(name: str) -> str:
        return "M" + " L".join(f"{along(year)} {down(value)}" for year, value in enumerate(rows[name]) if value is not None)

    bars = []
    for year, flow in enumerate(rows[FLOW]):
        if flow is not None:
            top, end = sorted((down(flow), down(0)))
            bars.append({
                "x": round(along(year) - step * 0.3, 1), "y": top, "width": round(step * 0.6, 1), "height": round(max(end - top, 0.8), 1),
                "sign": "less" if flow < 0 else "more", "label": f"year {year}: cash flow {figure_text(flow, FigureUnit.MONEY)}",
            })  # fmt: skip
    every = max(1, projection.years // 10)
    first, last = rows[VALUE][0], rows[VALUE][-1]
    return YearsChart(
        tuple(bars), path(VALUE), path(OWED),
        tuple((down(value), figure_text(value, FigureUnit.MONEY)) for value in ticks(low, high, most=5)),
        tuple((along(year), str(year)) for year in range(0, projection.years + 1, every)), down(0),
        f"Value from {figure_text(first, FigureUnit.MONEY)} to {figure_text(last, FigureUnit.MONEY)} over {projection.years} years",
    )  # fmt: skip


def years_of(found: Computed) -> list[dict[str, Any]]:
    """Return each exit that is held, year by year."""
    shown = []
    for exit_, projection in found.figures.projections.items():
        rows = []
        for name in _SHOWN:
            cells = projection.row(name)
            texts = [("", "") if cell is None else (figure_text(found.figures.number(cell), FigureUnit.MONEY), cell.key) for cell in cells]
            if name == TURNOVER and all(text in ("", "$0") for text, _ in texts):
                continue
            rows.append((name, texts))
        shown.append({
            "exit": exit_.label, "years": list(range(projection.years + 1)), "rows": rows, "chart": _chart(found, projection),
            "rate": figure_text(found.figures.number(projection.rate), FigureUnit.PERCENT), "rate_key": projection.rate.key,
            "rate_why": why_none(projection.rate, found.figures.values),
            "worth": figure_text(found.figures.number(projection.worth), FigureUnit.MONEY), "worth_key": projection.worth.key,
        })  # fmt: skip
    return shown
