"""Thirty thousand labels, against bare ReportLab drawing the same text in the same places."""

from __future__ import annotations

from collections.abc import Iterator
from io import BytesIO

from reportlab.pdfgen.canvas import Canvas

from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.label_pdf import LabelFit, write_labels
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.sheets import LARGEST_TYPE, LEADING, PADDING, SHEETS
from jaded_ledger.core.mail.typesetting import FONT
from jaded_ledger.records.models import RecordedAddress, RecordedName
from tests.benchmarks.measure import Row, compare

COUNT = 30_000


def _pieces() -> list[Piece]:
    names = list(RecordedName.objects.values_list("mailing_name", flat=True)[:COUNT])
    streets = list(RecordedAddress.objects.exclude(zip5="").values_list("street", "city", "zip5")[:COUNT])
    nowhere = Address(AddressKind.STREET, "")
    return [
        Piece(number, (name, street, f"{city} WI {zip5}"), nowhere)
        for number in range(COUNT)
        for name in [names[number % len(names)]]
        for street, city, zip5 in [streets[number % len(streets)]]
    ]


def _bare(pieces: list[Piece]) -> bytes:
    sheet, out = SHEETS["letter-30"], BytesIO()
    canvas = Canvas(out, pagesize=sheet.page, pageCompression=1)
    for number, piece in enumerate(pieces):
        if number and number % 30 == 0:
            canvas.showPage()
        canvas.setFont(FONT, LARGEST_TYPE)
        row, column = divmod(number % 30, 3)
        x, y = sheet.left + column * sheet.pitch[0] + PADDING, sheet.page[1] - sheet.top - row * sheet.pitch[1] - 25
        for line in piece.lines:
            canvas.drawString(x, y, line)
            y -= LARGEST_TYPE * LEADING
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _ours(pieces: list[Piece]) -> bytes:
    sheet = SHEETS["letter-30"]
    room = LabelFit(sheet)
    return write_labels(room.labels(piece for piece in pieces if room(piece.lines) is None), sheet)


def rows() -> Iterator[Row]:
    pieces = _pieces()
    yield compare("30,000 labels", 1.5, lambda: _ours(pieces), lambda: _bare(pieces), times=3)
