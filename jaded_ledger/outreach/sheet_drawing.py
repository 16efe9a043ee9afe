"""The first sheet of a run as shapes for the preview: the same places, sizes and lines as in the PDF."""

from __future__ import annotations

from dataclasses import dataclass

from jaded_ledger.core.mail.sheets import PADDING, Sheet, baselines
from jaded_ledger.outreach.labels import LabelRun


@dataclass(frozen=True)
class DrawnLine:
    x: str
    y: str
    text: str


@dataclass(frozen=True)
class DrawnLabel:
    """One place on the sheet; ``lines`` is empty where nothing is printed. Lengths in points."""

    x: str
    y: str
    size: str
    lines: tuple[DrawnLine, ...]


@dataclass(frozen=True)
class SheetDrawing:
    sheet: Sheet
    width: str
    height: str
    label_width: str
    label_height: str
    labels: tuple[DrawnLabel, ...]


def _points(length: float) -> str:
    return f"{length:.2f}"


def draw_sheet(run: LabelRun) -> SheetDrawing:
    """Return the run's first sheet."""
    sheet = run.sheet
    drawn = []
    for position in range(sheet.count):
        left, top = sheet.corner(position)
        number = position - (run.start - 1)
        lines: tuple[DrawnLine, ...] = ()
        size = 0.0
        if 0 <= number < len(run.labels):
            fitted = run.labels[number].fitted
            size = fitted.size
            lines = tuple(
                DrawnLine(_points(left + PADDING), _points(top + baseline), line)
                for line, baseline in zip(fitted.lines, baselines(fitted, sheet), strict=True)
            )
        drawn.append(DrawnLabel(_points(left), _points(top), _points(size), lines))
    return SheetDrawing(
        sheet, _points(sheet.page[0]), _points(sheet.page[1]), _points(sheet.label[0]), _points(sheet.label[1]), tuple(drawn)
    )
