"""Labels as a PDF that asks to be printed at its actual size."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import BytesIO
from typing import NamedTuple

from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.pieces import Piece, Reason
from jaded_ledger.core.mail.sheets import LEADING, PADDING, DoesNotFitError, Fitted, Sheet, baselines, fit
from jaded_ledger.core.mail.typesetting import draw_line, lacking, text_width

NOTE_TYPE = 6.0
"""The size of the small line at a label's foot, in points."""


class Label(NamedTuple):
    """A piece as it stands on a sheet."""

    piece: Piece
    fitted: Fitted
    note: str = ""


@dataclass(frozen=True)
class Printing:
    """How labels are printed: from which position of the first sheet on, from 1, and how far off the printer is, in points.

    A printer that prints too far left by some points is met by an offset to the right of as many; the second is downwards.
    """

    start: int = 1
    offset: tuple[float, float] = (0.0, 0.0)


def unprintable(lines: tuple[str, ...]) -> tuple[Reason, str] | None:
    """Return why lines can't be printed at all, or None."""
    if unknown := "".join(dict.fromkeys(character for line in lines for character in lacking(line))):
        return Reason.CAN_NOT_PRINT, ", ".join(f"{character} (U+{ord(character):04X})" for character in unknown[:5])
    return None


class LabelFit:
    """Whether lines fit on a sheet's labels; what was fitted is kept. ``note`` is whether a small line stands at the foot."""

    def __init__(self, sheet: Sheet, *, note: bool = False) -> None:
        self._sheet = sheet
        self._room = sheet if not note else _shorter(sheet)
        self._fitted: dict[tuple[str, ...], Fitted] = {}

    def __call__(self, lines: tuple[str, ...]) -> tuple[Reason, str] | None:
        if wrong := unprintable(lines):
            return wrong
        try:
            self._fitted[lines] = fit(lines, self._room, text_width)
        except DoesNotFitError as error:
            return Reason.TOO_LONG, str(error)
        return None

    def labels(self, pieces: Iterable[Piece], notes: Sequence[str] = ()) -> list[Label]:
        """Return the labels of pieces whose lines were asked about, with the small line of each."""
        return [Label(piece, self._fitted[piece.lines], notes[place] if notes else "") for place, piece in enumerate(pieces)]


def _shorter(sheet: Sheet) -> Sheet:
    """Return a sheet whose labels lack the height of the small line."""
    return Sheet(**{**sheet.__dict__, "label": (sheet.label[0], sheet.label[1] - NOTE_TYPE * LEADING)})


def sheets_needed(labels: int, sheet: Sheet, start: int) -> int:
    """Return how many sheets so many labels take when the first begins at a position (from 1)."""
    return -(-(labels + start - 1) // sheet.count) if labels else 0


def _canvas(out: BytesIO, sheet: Sheet, title: str) -> Canvas:
    """Return a canvas whose viewer preferences ask for no scaling (ISO 32000-1, 12.2: PrintScaling /None)."""
    canvas = Canvas(out, pagesize=sheet.page, pageCompression=1)
    canvas.setTitle(title)
    canvas.setViewerPreference("PrintScaling", "None")
    return canvas


def label_lines(label: Label, sheet: Sheet) -> list[tuple[float, str, float]]:
    """Return each line of a label: its baseline from the label's top, its text and its size, in points."""
    room = _shorter(sheet) if label.note else sheet
    size = label.fitted.size
    found = [(baseline, line, size) for line, baseline in zip(label.fitted.lines, baselines(label.fitted, room), strict=True)]
    if label.note:
        found.append((sheet.label[1] - NOTE_TYPE * 0.6, label.note, NOTE_TYPE))
    return found


def write_labels(labels: Sequence[Label], sheet: Sheet, printing: Printing = Printing()) -> bytes:
    """Return the PDF."""
    out = BytesIO()
    canvas = _canvas(out, sheet, "Mailing labels")
    page_height, (right, down) = sheet.page[1], printing.offset
    for number, label in enumerate(labels, start=printing.start - 1):
        position = number % sheet.count
        if position == 0 and number > printing.start - 1:
            canvas.showPage()
        left, top = sheet.corner(position)
        for baseline, line, size in label_lines(label, sheet):
            draw_line(canvas, left + PADDING + right, page_height - top - baseline - down, line, size)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def write_alignment(sheet: Sheet, offset: tuple[float, float] = (0.0, 0.0)) -> bytes:
    """Return a sheet to lay over the labels: each label's edge, and a cross with a ruler in millimeters at the first and the last."""
    out = BytesIO()
    canvas = _canvas(out, sheet, "Alignment sheet")
    height, (width, tall) = sheet.page[1], sheet.label
    canvas.setLineWidth(0.25)
    for position in range(sheet.count):
        left, top = sheet.corner(position)
        canvas.rect(left + offset[0], height - top - tall - offset[1], width, tall)
    for position in (0, sheet.count - 1):
        left, top = sheet.corner(position)
        x, y = left + width / 2 + offset[0], height - top - tall / 2 - offset[1]
        for step in range(-10, 11):
            mark, long = step * 72.0 / 25.4, 4.0 if step % 5 == 0 else 2.0
            canvas.line(x + mark, y - long, x + mark, y + long)
            if abs(mark) < tall / 2:
                canvas.line(x - long, y + mark, x + long, y + mark)
    draw_line(
        canvas, sheet.corner(0)[0] + PADDING, 14.0, f"{sheet.name}: print at actual size, hold it over a sheet against the light.", 7.0
    )
    canvas.showPage()
    canvas.save()
    return out.getvalue()
