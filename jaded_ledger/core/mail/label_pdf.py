"""Labels as a PDF that asks to be printed at its actual size."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from io import BytesIO

from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.pieces import Piece, Refusal
from jaded_ledger.core.mail.sheets import PADDING, DoesNotFitError, Fitted, Sheet, baselines, fit
from jaded_ledger.core.mail.typesetting import draw_line, lacking, text_width

TOO_LONG = "too long for the label"
CAN_NOT_PRINT = "has characters that can’t be printed"


@dataclass(frozen=True)
class Label:
    """A piece as it stands on a sheet."""

    piece: Piece
    fitted: Fitted


def lay_out(pieces: Iterable[Piece], numbers: dict[int, str], sheet: Sheet) -> tuple[list[Label], list[Refusal]]:
    """Fit pieces on labels; return the labels, and a refusal for each piece that no label can hold whole, or that can't be printed.

    ``numbers`` are parcel numbers by id, for the refusals.
    """
    labels, refused = [], []
    for piece in pieces:
        if unknown := "".join(dict.fromkeys(character for line in piece.lines for character in lacking(line))):
            told = ", ".join(f"{character} (U+{ord(character):04X})" for character in unknown[:5])
            refused.append(Refusal(piece.parcel_id, numbers.get(piece.parcel_id, ""), CAN_NOT_PRINT, told))
            continue
        try:
            labels.append(Label(piece, fit(piece.lines, sheet, text_width)))
        except DoesNotFitError as error:
            refused.append(Refusal(piece.parcel_id, numbers.get(piece.parcel_id, ""), TOO_LONG, str(error)))
    return labels, refused


def sheets_needed(labels: int, sheet: Sheet, start: int) -> int:
    """Return how many sheets so many labels take when the first begins at a position (from 1)."""
    return -(-(labels + start - 1) // sheet.count) if labels else 0


def write_labels(labels: Sequence[Label], sheet: Sheet, start: int = 1) -> bytes:
    """Return the PDF. ``start`` is the first free position of the first sheet, from 1.

    The viewer preferences ask for no scaling (ISO 32000-1, 12.2: PrintScaling /None).
    """
    out = BytesIO()
    canvas = Canvas(out, pagesize=sheet.page, pageCompression=1)
    canvas.setTitle("Mailing labels")
    canvas.setViewerPreference("PrintScaling", "None")
    page_height = sheet.page[1]
    for number, label in enumerate(labels, start=start - 1):
        position = number % sheet.count
        if position == 0 and number > start - 1:
            canvas.showPage()
        left, top = sheet.corner(position)
        for line, baseline in zip(label.fitted.lines, baselines(label.fitted, sheet), strict=True):
            draw_line(canvas, left + PADDING, page_height - top - baseline, line, label.fitted.size)
    canvas.showPage()
    canvas.save()
    return out.getvalue()
