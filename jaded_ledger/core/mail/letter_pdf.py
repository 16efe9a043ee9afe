"""Letters and postcards as a PDF, each on its page, or on the two sides of its card."""

from __future__ import annotations

from collections.abc import Iterable
from io import BytesIO

from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.letter_layout import LaidPage, Paper
from jaded_ledger.core.mail.typesetting import draw_line


def write_letters(pages: Iterable[LaidPage], paper: Paper, title: str = "Letters") -> bytes:
    """Return the PDF; it asks for no scaling, so that the address shows in its window (ISO 32000-1, 12.2)."""
    out = BytesIO()
    canvas = Canvas(out, pagesize=paper.size, pageCompression=1)
    canvas.setTitle(title)
    canvas.setViewerPreference("PrintScaling", "None")
    high = paper.size[1]
    for page in pages:
        for line in page.lines:
            # As one: where a name is read from right to left, its place follows from the whole line.
            draw_line(canvas, line.runs[0].x, high - line.y, "".join(run.text for run in line.runs), line.size)
        canvas.showPage()
    canvas.save()
    return out.getvalue()
