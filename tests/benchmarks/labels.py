"""Labels and letters against bare ReportLab, and a mailing's ledger against a loop by hand."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from io import BytesIO
from xml.sax.saxutils import escape

from django.db import connection
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph

from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.label_pdf import LabelFit, write_labels
from jaded_ledger.core.mail.letter_layout import PAPERS, lay_out
from jaded_ledger.core.mail.letter_pdf import write_letters
from jaded_ledger.core.mail.letters import letter_from
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.sheets import LARGEST_TYPE, LEADING, PADDING, SHEETS
from jaded_ledger.core.mail.typesetting import FONT
from jaded_ledger.mailings.mailings import plan_of
from jaded_ledger.mailings.models import Mailing
from jaded_ledger.records.models import ParcelFacts, RecordedAddress, RecordedName
from tests.benchmarks.measure import Row, compare

COUNT, ROWS, LETTERS = 30_000, 50_000, 5_000
_LETTER = letter_from(
    "Dear {owner},\n\n" + "You have owned {address} for years, and there are people who would like to own it next. " * 8 + "\n\n{code}",
    ("owner", "address", "code"),
)


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


_READ = """
    SELECT f.parcel_id, f.owner_id, n.mailing_name, f.owner_kind, f.do_not_contact, f.owned_since,
        a.street, a.unit, a.city, a.state, a.zip5, a.zip4
    FROM (SELECT * FROM records_parcelfacts ORDER BY parcel_id LIMIT %s) f
    LEFT JOIN records_recordedname n ON n.id = f.owner_name_id LEFT JOIN records_recordedaddress a ON a.id = f.mailing_address_id
"""


def _by_hand(today: date) -> int:
    """Count the pieces as a script would that knows nothing of reasons: one to an owner and a household, by what the columns say."""
    lately, owners, households, pieces = today - timedelta(365), set(), set(), 0
    with connection.cursor() as cursor:
        cursor.execute(_READ, [ROWS])
        rows = [row for row in cursor.fetchall() if row[2] and row[6] and row[8] and row[9] and row[10] and not row[4]]
    rows.sort(key=lambda row: (row[10], row[11], row[6].split(" ", 1)[-1], row[6], row[7]))
    for _, owner, _, _, _, since, street, unit, _, _, zip5, _ in rows:
        place = f"{street}|{zip5}|{unit.rpartition(' ')[2]}"
        if owner in owners or place in households or (since and since > lately):
            continue
        owners.add(owner)
        households.add(place)
        pieces += 1
    return pieces


def _ours(pieces: list[Piece]) -> bytes:
    sheet = SHEETS["letter-30"]
    room = LabelFit(sheet)
    return write_labels(room.labels(piece for piece in pieces if room(piece.lines) is None), sheet)


def _letters(pieces: list[Piece]) -> bytes:
    paper = PAPERS["letter"]
    return write_letters(
        (
            page for piece in pieces
            for page in lay_out(_LETTER, {"owner": piece.lines[0], "address": piece.lines[1], "code": piece.number}, piece.lines, paper)
        ),
        paper,
    )  # fmt: skip


def _bare_letters(pieces: list[Piece]) -> bytes:
    """Set the same words with ReportLab's own paragraphs, which break their lines too."""
    out, style = BytesIO(), ParagraphStyle("letter", fontName=FONT, fontSize=11, leading=14.85)
    canvas = Canvas(out, pagesize=PAPERS["letter"].size, pageCompression=1)
    for piece in pieces:
        text = canvas.beginText(64.8, 620)
        text.setFont(FONT, 11)
        for line in piece.lines:
            text.textLine(line)
        canvas.drawText(text)
        values = {"owner": piece.lines[0], "address": piece.lines[1], "code": piece.number}
        y = 540.0
        for spans in _LETTER.merged(values):
            said = Paragraph(escape("".join(span.text for span in spans)), style)
            _, high = said.wrap(482.4, 482.4)
            y -= high
            said.drawOn(canvas, 64.8, y)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def rows() -> Iterator[Row]:
    pieces = _pieces()
    scope = scope_of_command()
    parcels = ParcelFacts.objects.filter(pk__in=ParcelFacts.objects.order_by("pk").values("pk")[:ROWS])
    work = f"the ledger of a mailing to {ROWS:,} parcels, each reason and whether it fits"
    yield compare(work, 3.0, lambda: plan_of(Mailing(), parcels, {}, scope), lambda: _by_hand(scope.today), times=3)
    letters = pieces[:LETTERS]
    yield compare(
        f"{LETTERS:,} letters of one page, laid out and set", 1.5, lambda: _letters(letters), lambda: _bare_letters(letters), times=1
    )
    yield compare("30,000 labels", 1.5, lambda: _ours(pieces), lambda: _bare(pieces), times=3)
