"""A mailing as files: labels or envelopes as PDF, from the pieces that were kept, so that they can be printed again as they were."""

from __future__ import annotations

import csv
import io
import zipfile
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache

from jaded_ledger.contacts.exports import Export
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.mail.envelopes import ENVELOPES, write_envelopes
from jaded_ledger.core.mail.label_pdf import LabelFit, Printing, write_labels
from jaded_ledger.core.mail.letter_docx import write_docx
from jaded_ledger.core.mail.letter_layout import PAPERS, LaidPage, lay_out
from jaded_ledger.core.mail.letter_pdf import write_letters
from jaded_ledger.core.mail.letters import Letter, Place
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.sheets import MM, SHEETS
from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.mailings.letter_fields import CODE
from jaded_ledger.mailings.letters import read
from jaded_ledger.mailings.mail_settings import sender_of
from jaded_ledger.mailings.mailing_terms import WRITTEN
from jaded_ledger.mailings.mailings import Form, code_of_piece, note_of
from jaded_ledger.mailings.models import Mailing, MailPiece

NOWHERE = Address(AddressKind.STREET, "")
_COLUMNS = ("reply code", "name", "second line", "street", "city, state, ZIP", "parcel", "parcels", "property")


def batches(mailing: Mailing) -> Iterator[list[MailPiece]]:
    """Yield the pieces of a mailing in the order of the stack, so many a file as it says."""
    size = mailing.batch or mailing.pieces_made
    for first in range(0, mailing.pieces_made, max(size, 1)):
        rows = mailing.pieces.filter(number__gt=first, number__lte=first + size)
        yield list(rows.select_related("letter").order_by("number"))


def is_archive(mailing: Mailing) -> bool:
    """Whether it is several files, in a zip."""
    return bool(mailing.batch) and mailing.pieces_made > mailing.batch


def file_name(mailing: Mailing) -> str:
    """Return what its file is called."""
    return f"{mailing.form}-{mailing.code}-{mailing.made_on}.{'zip' if is_archive(mailing) else 'pdf'}"


def letter_of(piece: MailPiece) -> Letter:
    """Return the letter that a piece was sent with."""
    assert piece.letter is not None
    return _read(piece.letter.text, piece.letter.letter_id, piece.letter.name)


@lru_cache(64)
def _read(text: str, key: int, name: str) -> Letter:
    return read(text, key, name)


def laid_out(piece: MailPiece, mailing: Mailing, sender: Sequence[str]) -> tuple[LaidPage, ...]:
    """Return the sides of a piece as it was sent."""
    values = {**piece.values, CODE: code_of_piece(mailing, piece.number)}
    note = note_of(mailing, piece.number) if mailing.note else ""
    return lay_out(letter_of(piece), values, piece.lines, PAPERS[mailing.stock], sender, note)


def pdf_of(mailing: Mailing, pieces: Sequence[MailPiece], export: Export, start: int = 1) -> bytes:
    """Return a batch of a mailing as PDF."""
    sender = sender_of(export.scope)
    if mailing.form in WRITTEN:
        paper = PAPERS[mailing.stock]
        laid = (page for piece in pieces for page in laid_out(piece, mailing, sender))
        return write_letters(laid, paper, mailing.name)
    notes = [note_of(mailing, piece.number) if mailing.note else "" for piece in pieces]
    if mailing.form == Form.ENVELOPES:
        lines = [tuple(piece.lines) for piece in pieces]
        return write_envelopes(lines, ENVELOPES[mailing.stock], sender if mailing.return_address else (), notes)
    room = LabelFit(SHEETS[mailing.stock], note=bool(mailing.note))
    shown = [Piece(piece.parcel_id, tuple(piece.lines), NOWHERE) for piece in pieces]
    for piece in shown:
        room(piece.lines)
    offset = (mailing.printer.right * MM, mailing.printer.down * MM) if mailing.printer else (0.0, 0.0)
    return write_labels(room.labels(shown, notes), SHEETS[mailing.stock], Printing(start, offset))


def files_of(mailing: Mailing, export: Export) -> Iterator[tuple[str, bytes]]:
    """Yield the files of a mailing, each with its name. Only the first sheet of labels may have been begun."""
    for place, pieces in enumerate(batches(mailing), start=1):
        name = f"{mailing.form}-{mailing.code}-{place:03}, {pieces[0].number} to {pieces[-1].number}.pdf"
        yield name, pdf_of(mailing, pieces, export, mailing.start if place == 1 else 1)


def zipped(files: Iterable[tuple[str, bytes]]) -> Iterator[bytes]:
    """Yield a zip of files as it grows, one after the other."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in files:
            archive.writestr(name, content)
            yield out.getvalue()[:0]
    yield out.getvalue()


def merge_columns(mailing: Mailing) -> dict[Place, str]:
    """Return what the fields of a mailing's letters are called in its merge data.

    A field that has two wordings for what is unknown has two columns, the second with a number after its name.
    """
    found: dict[Place, str] = {}
    taken: Counter[str] = Counter()
    for sent in mailing.sent_letters.all():
        for place in _read(sent.text, sent.letter_id, sent.name).places:
            if place not in found:
                taken[place.field] += 1
                name = place.field.replace("-", "_")
                found[place] = name if taken[place.field] == 1 else f"{name}_{taken[place.field]}"
    return found


def documents(mailing: Mailing) -> Iterator[tuple[str, bytes]]:
    """Yield a mailing's letters as documents with merge fields, which the columns of its merge data fill, each with its name."""
    columns = merge_columns(mailing)
    for sent in mailing.sent_letters.all():
        yield f"{sent.name}.docx", write_docx(_read(sent.text, sent.letter_id, sent.name), columns)


def merge_data(mailing: Mailing, export: Export) -> Iterator[str]:
    """Yield the pieces that may leave as CSV, a row each, for a program that merges them into letters."""

    class Echo:
        def write(self, text: str) -> str:
            return text

    columns = merge_columns(mailing)
    writer = csv.writer(Echo(), lineterminator="\r\n")
    yield writer.writerow((*_COLUMNS, *(["letter"] if columns else []), *columns.values()))
    rows = mailing.pieces.select_related("parcel", "parcel__facts__address", "letter").order_by("number")[: export.rows]
    for piece in rows.iterator(chunk_size=2_000):
        name, *second, street, last = piece.lines
        address = piece.parcel.facts.address if hasattr(piece.parcel, "facts") else None
        cells = [f"{mailing.code}-{piece.number}", name, " ".join(second), street, last, piece.parcel.number, str(len(piece.parcels)),
                 address.text if address else ""]  # fmt: skip
        if columns and piece.letter:
            values = {**piece.values, CODE: code_of_piece(mailing, piece.number)}
            cells += [piece.letter.name, *(values.get(place.field) or place.otherwise or "" for place in columns)]
        yield writer.writerow([guarded(cell) for cell in cells])
