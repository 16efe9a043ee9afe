"""A result for pairs of two figures' values: what if the price were higher, or the repairs."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from jaded_ledger.core.deals.expressions import Cell, FigureUnit
from jaded_ledger.core.deals.figures import axis_steps, sensitivity
from jaded_ledger.core.deals.inputs import INPUTS, Exit, InputError, checked, read_number
from jaded_ledger.core.deals.reading import by_period, figure_text, label_by, wanted_text
from jaded_ledger.core.deals.sheet import ExitSheet
from jaded_ledger.core.deals.worksheet import Period
from jaded_ledger.web.sentences import sentence_of
from jaded_ledger.worksheets.computed import Computed

_SPAN = re.compile(r"\s*(?:\bto\b|\.\.|–|(?<=[0-9km%])\s*-)\s*")
_USUAL_ROWS, _MOST_ROWS = 5, 25


@dataclass(frozen=True)
class WorksheetView:
    """Which table of what changes is asked: a figure down, one across, and the result in it."""

    down: str = ""
    across: str = ""
    of: str = ""
    span: str = ""
    """From where to where the figure down goes, as it was typed: "205k to 260k"; blank for some steps about its own value."""
    step: str = ""


def axes_of(found: Computed) -> dict[str, Cell]:
    """Return the figures that a table of what changes can have at its sides: every known input of the exits, and the repairs."""
    keys = [key for key in INPUTS if key in found.figures.sheet.cells]
    cells = {key: found.figures.sheet.cells[key] for key in ("repairs", *keys) if key in found.figures.sheet.cells}
    return {key: cell for key, cell in cells.items() if found.figures.number(cell) is not None}


def results_of(found: Computed) -> dict[str, tuple[ExitSheet, Cell]]:
    """Return the results that such a table can be of, by their keys, each with its exit."""
    cells: dict[str, tuple[ExitSheet, Cell]] = {}
    for one in found.figures.exits:
        projection = found.figures.projections.get(one.exit)
        over_years = (projection.rate, projection.worth) if projection else ()
        cells |= {cell.key: (one, cell) for cell in (one.main, *one.results, *over_years)}
    return cells


def what_if(found: Computed, asked: WorksheetView) -> dict[str, Any]:
    """Return the table of a result for pairs of two figures' values, with what can be chosen for each."""
    axes, results = axes_of(found), results_of(found)
    first = found.figures.exits[0]
    usual = _usual_axes(first)
    down = axes.get(asked.down) or next((axes[key] for key in usual if key in axes), None)
    across = axes.get(asked.across) or next((axes[key] for key in usual if key in axes and axes[key] is not down), None)
    exit_, result = results.get(asked.of, (first, first.main))
    by = found.figures.worksheet.by
    choices: dict[str, Any] = {
        "axes": [(key, label_by(cell, by)) for key, cell in axes.items()],
        "results": [(key, f"{one.exit.label}: {label_by(cell, by)}") for key, (one, cell) in results.items()],
        "of": result.key, "exit": exit_.exit.label, "label": label_by(result, by),
    }  # fmt: skip
    choices |= {"span": asked.span, "step": asked.step}
    if down is None or across is None:
        return choices | {"rows": []}
    own = found.figures.number(down)
    downs, acrosses = axis_steps(found.figures, down, count=2), axis_steps(found.figures, across, count=1)
    if asked.span.strip():
        try:
            downs = _span(asked, down, by)
        except InputError as error:
            choices |= {"wrong": sentence_of(error)}
    if downs is None or acrosses is None:
        return choices | {"rows": []}
    table = sensitivity(found.figures, result, (down, downs), (across, acrosses))

    def text(value: float, cell: Cell) -> str:
        return wanted_text(by_period(value, cell.unit, by), cell.unit)

    rows = [
        (text(value, down), [(figure_text(by_period(one, result.unit, by), result.unit), _sign(one)) for one in row], value == own)
        for value, row in zip(downs, table, strict=True)
    ]
    heads = [(text(value, across), value == acrosses[1]) for value in acrosses]
    return choices | {
        "down": down.key, "across": across.key, "down_label": label_by(down, by), "across_label": label_by(across, by), "heads": heads,
        "rows": rows,
    }  # fmt: skip


def _span(asked: WorksheetView, cell: Cell, by: Period) -> list[float]:
    """Return the values of a figure from where to where it was asked, step by step. Raises InputError."""
    ends = _SPAN.split(asked.span.strip())
    if len(ends) != 2:
        raise InputError(f"“{asked.span.strip()[:30]}” is no range; write it as 205k to 260k")
    parts = by.parts if cell.unit is FigureUnit.MONEY_A_YEAR else 1
    low, high = sorted(read_number(end, cell.label) * parts for end in ends)
    step = read_number(asked.step, "the step") * parts if asked.step.strip() else (high - low) / _USUAL_ROWS
    if step <= 0 or high == low:
        raise InputError("a step is more than 0, and a range has two ends; write them as 205k to 260k and 5k")
    count = int((high - low) / step + 1e-9) + 1
    if count > _MOST_ROWS:
        raise InputError(f"that is {count:,} rows, and {_MOST_ROWS} fit; choose a step of {(high - low) / (_MOST_ROWS - 1):,.0f} or more")
    values = [low + place * step for place in range(count)]
    one = INPUTS.get(cell.key)
    return [checked(one, value) for value in values] if one else values


def _sign(value: float | None) -> str:
    return "" if value is None else "less" if value < 0 else "more"


def _usual_axes(exit_: ExitSheet) -> tuple[str, ...]:
    if exit_.exit in (Exit.RENTAL, Exit.REFINANCE):
        return ("price", "rental.change")
    return {Exit.SPLIT: ("split.value-each", "price"), Exit.TITLES: ("titles.value-each", "repairs")}.get(exit_.exit, ("repairs", "arv"))
