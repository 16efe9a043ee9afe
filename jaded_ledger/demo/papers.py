"""Papers of the demo's court cases: a page each, of courts that never sat."""

from __future__ import annotations

import io
from datetime import date
from functools import lru_cache

from reportlab.lib.pagesizes import LETTER
from reportlab.pdfgen.canvas import Canvas

TO_READ = frozenset({"Petition to foreclose tax liens", "Judgment vesting title in the county"})
"""The titles of papers that can be read; of all others only the register tells."""
_LEFT, _TOP, _LINE = 72, 720, 18


@lru_cache(4_000)
def paper_of(court: str, case_number: str, filed: date, title: str) -> bytes:
    """Return a paper as PDF; the same always has the same bytes."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=LETTER, invariant=1, pageCompression=1)
    canvas.setTitle(f"{title}, {case_number}")
    canvas.setFont("Times-Bold", 14)
    canvas.drawString(_LEFT, _TOP, court.upper())
    canvas.setFont("Times-Roman", 12)
    lines = (
        f"Case no. {case_number}", f"Filed {filed:%B} {filed.day}, {filed.year}", "", title.upper(), "",
        "This paper belongs to an invented case of the demonstration. No such court has sat,",
        "and nobody named in its register has lived.",
    )  # fmt: skip
    for place, line in enumerate(lines, 2):
        canvas.drawString(_LEFT, _TOP - place * _LINE, line)
    canvas.showPage()
    canvas.save()
    return out.getvalue()
