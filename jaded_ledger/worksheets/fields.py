"""An input as the field in which it is typed, and a figure as the text that is shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jaded_ledger.core.deals.expressions import Cell, FigureUnit, Values
from jaded_ledger.core.deals.inputs import INPUTS
from jaded_ledger.core.deals.known import Given, Origin
from jaded_ledger.core.deals.reading import by_period, figure_text, label_by, typed_text, why_none
from jaded_ledger.core.deals.worksheet import Period
from jaded_ledger.worksheets.computed import Computed

_AFFIXES = {
    FigureUnit.MONEY: ("$", ""), FigureUnit.MONEY_A_YEAR: ("$", ""),
    FigureUnit.PERCENT: ("", " %"), FigureUnit.MONTHS: ("", " months"), FigureUnit.YEARS: ("", " y"),
    FigureUnit.SQUARE_FEET: ("", " sq ft"),
    FigureUnit.FEET: ("", " ft"), FigureUnit.RATIO: ("", ""), FigureUnit.COUNT: ("", ""), FigureUnit.YEAR: ("", ""),
}  # fmt: skip
VALUE = "input:arv"
"""The name of the field of the value after repair."""


@dataclass(frozen=True)
class Field:
    """An input as it stands in its field: by which name it is sent, what is typed in it, and whose word it is."""

    name: str
    label: str
    typed: str
    unit: FigureUnit
    origin: str = ""
    said: str = ""
    meaning: str = ""
    hint_text: str = ""
    """How it may be typed, shown while nothing is."""

    @property
    def hint(self) -> str:
        """What is to be said of it in a word or two, and what it means."""
        text = f"{self.label}: {self.origin}" if self.origin else self.label
        return ". ".join(filter(None, (text + (f", {self.said}" if self.said else ""), self.meaning[:1].upper() + self.meaning[1:])))

    @property
    def prefix(self) -> str:
        return _AFFIXES[self.unit][0]

    @property
    def suffix(self) -> str:
        return _AFFIXES[self.unit][1]

    @property
    def size(self) -> int:
        return max(len(self.typed), len(self.hint_text), 2)


@dataclass(frozen=True)
class Figure:
    """A figure as it is shown: its text, and why there is none. Its key opens it to its arithmetic."""

    key: str
    label: str
    text: str
    why: str = ""
    sign: str = ""


def field_of(found: Computed, cell: Cell) -> Field:
    """Return an input as its field; one of a year by the month where the worksheet is told so."""
    given, by = found.figures.given.get(cell.key, Given(np.nan, Origin.ASSUMED)), found.figures.worksheet.by
    value = by_period(None if np.isnan(given.value) else float(given.value), cell.unit, by)
    name = f"input:{cell.key}:{by}" if cell.unit is FigureUnit.MONEY_A_YEAR and by is Period.MONTH else f"input:{cell.key}"
    meaning = INPUTS[cell.key].meaning
    return Field(name, label_by(cell, by), typed_text(value, cell.unit), cell.unit, str(given.origin), given.said, meaning)


def figure_of(found: Computed, cell: Cell, values: Values | None = None) -> Figure:
    """Return a figure as it is shown, among other values than the worksheet's where those are given."""
    by, among = found.figures.worksheet.by, values or found.figures.values
    value = by_period(among.number(cell), cell.unit, by)
    sign = "" if value is None or cell.unit not in (FigureUnit.MONEY, FigureUnit.MONEY_A_YEAR) else "less" if value < 0 else "more"
    return Figure(cell.key, label_by(cell, by), figure_text(value, cell.unit), why_none(cell, among), sign)
