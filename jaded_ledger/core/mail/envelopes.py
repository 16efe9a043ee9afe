"""Envelopes as a PDF, a page each: the return address at the top left, the recipient's in the zone that machines read.

No. 10 is 9½ × 4⅛ in; 6 × 9 is 9 × 6 in. The zone is that of USPS Domestic Mail Manual 202 (letters) from memory: half an inch from the
left and right edge, its bottom ⅝ in and its top 2¾ in above the lower edge; ⅝ in at the foot stays free for the barcode.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from io import BytesIO

from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.label_pdf import NOTE_TYPE, unprintable
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.mail.sheets import INCH, LEADING
from jaded_ledger.core.mail.typesetting import draw_line, text_width

SIDE, ZONE_BOTTOM, ZONE_TOP = 0.5 * INCH, 0.625 * INCH, 2.75 * INCH
TYPE, RETURN_TYPE, SMALLEST = 12.0, 9.0, 8.0


@dataclass(frozen=True)
class Envelope:
    """An envelope: how wide and how high, and where the recipient's lines begin, in points from the left."""

    key: str
    name: str
    size: tuple[float, float]
    left: float


ENVELOPES = {
    one.key: one
    for one in (
        Envelope("no-10", "No. 10 envelope, 9½ × 4⅛ in", (9.5 * INCH, 4.125 * INCH), 4 * INCH),
        Envelope("6x9", "6 × 9 in envelope", (9 * INCH, 6 * INCH), 4 * INCH),
    )
}


def type_size(lines: Sequence[str], envelope: Envelope) -> float:
    """Return the largest size at which lines stand within the zone; 0 where none does."""
    width = envelope.size[0] - SIDE - envelope.left
    size = TYPE
    while size >= SMALLEST:
        if len(lines) * size * LEADING <= ZONE_TOP - ZONE_BOTTOM and all(text_width(line, size) <= width for line in lines):
            return size
        size -= 0.5
    return 0.0


def fits_envelope(envelope: Envelope) -> Callable[[tuple[str, ...]], tuple[Reason, str] | None]:
    """Return what says why lines can't stand on an envelope."""

    def fits(lines: tuple[str, ...]) -> tuple[Reason, str] | None:
        if wrong := unprintable(lines):
            return wrong
        return None if type_size(lines, envelope) else (Reason.TOO_LONG, "wider than the envelope’s zone for the address")

    return fits


def baselines(lines: Sequence[str], size: float) -> list[float]:
    """Return each line's baseline above the lower edge, the block in the middle of the zone."""
    leading = size * LEADING
    first = (ZONE_TOP + ZONE_BOTTOM + len(lines) * leading) / 2 - size * 0.95
    return [first - place * leading for place in range(len(lines))]


def write_envelopes(
    addresses: Sequence[tuple[str, ...]], envelope: Envelope, sender: Sequence[str] = (), notes: Sequence[str] = ()
) -> bytes:
    """Return the PDF, a page an envelope; it asks for no scaling (ISO 32000-1, 12.2). ``notes`` are the small lines."""
    out = BytesIO()
    canvas = Canvas(out, pagesize=envelope.size, pageCompression=1)
    canvas.setTitle("Envelopes")
    canvas.setViewerPreference("PrintScaling", "None")
    high = envelope.size[1]
    for place, lines in enumerate(addresses):
        for number, line in enumerate(sender):
            draw_line(canvas, SIDE, high - 0.35 * INCH - number * RETURN_TYPE * LEADING - RETURN_TYPE * 0.95, line, RETURN_TYPE)
        size = type_size(lines, envelope)
        for line, baseline in zip(lines, baselines(lines, size), strict=True):
            draw_line(canvas, envelope.left, baseline, line, size)
        if notes and notes[place]:
            draw_line(canvas, SIDE, ZONE_TOP - NOTE_TYPE, notes[place], NOTE_TYPE)
        canvas.showPage()
    canvas.save()
    return out.getvalue()
