"""How a file is laid out: its form, and what a text file or a workbook leaves unsaid. Found in the file, corrected by hand."""

from __future__ import annotations

import codecs
import csv
import zipfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import islice
from pathlib import Path

import clevercsv
import openpyxl

from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.intake.encodings import ENCODINGS, find_encoding
from jaded_ledger.intake.limits import LIMITS, Limits, UnreadableFileError, reason_of


class Form(StrEnum):
    """What a file is."""

    TEXT = "text"
    WORKBOOK = "workbook"
    GEOJSON = "GeoJSON"
    SHAPEFILE = "Shapefile"
    PICTURES = "pictures"
    PAPERS = "papers"


DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", "^": "caret", "~": "tilde", ":": "colon"}
_OLD_WORKBOOK = b"\xd0\xcf\x11\xe0"
_SAMPLE = 20_000
_TOP = 20


@dataclass(frozen=True)
class Layout:
    """A file's form, and for text its encoding and delimiter, for a workbook its sheet, for both the header's line from 1."""

    form: Form
    encoding: str = ""
    delimiter: str = ""
    header_line: int = 1
    sheet: str = ""
    sheets: tuple[str, ...] = ()

    def corrected(self, said: dict[str, object]) -> Layout:
        """Return it with what was said of it, as far as it has a meaning for the form. Raises ValueError."""
        encoding, delimiter = str(said.get("encoding") or self.encoding), str(said.get("delimiter") or self.delimiter)
        sheet, line = str(said.get("sheet") or self.sheet), said.get("header_line") or self.header_line
        number = whole_number(str(line))
        if number is None or not 1 <= number <= LIMITS.columns:
            raise ValueError(f"header_line {str(line)[:20]!r} is not the number of a line")
        if self.form is Form.TEXT:
            if encoding not in ENCODINGS:
                raise ValueError(f"encoding {encoding!r} is none of {', '.join(ENCODINGS)}")
            if len(delimiter) != 1 or delimiter in '"\r\n':
                raise ValueError(f"delimiter {delimiter!r} is not a single character")
            return replace(self, encoding=encoding, delimiter=delimiter, header_line=number)
        if self.form is Form.WORKBOOK:
            if sheet not in self.sheets:
                raise ValueError(f"there is no sheet {sheet!r}; the workbook has {', '.join(self.sheets)}")
            return replace(self, sheet=sheet, header_line=number)
        return self

    def as_said(self) -> dict[str, object]:
        """Return what can be said of it by hand."""
        said = {"encoding": self.encoding, "delimiter": self.delimiter, "sheet": self.sheet}
        return {name: value for name, value in said.items() if value} | ({"header_line": self.header_line} if self.header_line > 1 else {})


def find_layout(path: Path, limits: Limits = LIMITS) -> Layout:
    """Return how a file is laid out, by what is in it. Raises UnreadableFileError, and OSError for one that can't be opened."""
    size = path.stat().st_size
    if size > limits.size:
        raise UnreadableFileError(path, f" has {size / 1e6:,.0f} MB; at most {limits.size / 1e6:,.0f} MB are taken. Split it.")
    with path.open("rb") as handle:
        top = handle.read(_SAMPLE * 4)
    ending = path.suffix.casefold()
    if top.startswith(b"PK") or ending == ".zip":
        return _layout_of_zip(path, limits)
    if ending == ".xlsx":
        raise UnreadableFileError(path, " can't be read as an Excel workbook: it is none.")
    if top.startswith(_OLD_WORKBOOK):
        raise UnreadableFileError(path, " is a workbook of the old kind (.xls). Save it as .xlsx or as CSV.")
    if ending in (".geojson", ".json") or top.lstrip(codecs.BOM_UTF8 + b" \t\r\n").startswith(b"{"):
        return Layout(Form.GEOJSON)
    if not top.strip():
        raise UnreadableFileError(path, " is empty: a header row was expected.")
    return _layout_of_text(path, top)


def check_zip(path: Path, files: zipfile.ZipFile, limits: Limits = LIMITS) -> None:
    """Refuse a zip that would grow out of all proportion. Raises UnreadableFileError."""
    members = files.infolist()
    expanded = sum(member.file_size for member in members)
    packed = max(1, path.stat().st_size)
    # The padded columns of a small table pack well; only what is large can do harm.
    if expanded > limits.expanded or (expanded > limits.harmless and expanded / packed > limits.ratio):
        raise UnreadableFileError(
            path,
            f" would unpack to {expanded / 1e6:,.0f} MB, {expanded / packed:,.0f} times its size; "
            f"at most {limits.expanded / 1e6:,.0f} MB and {limits.ratio} times are taken.",
        )
    if any(member.flag_bits & 1 for member in members):
        raise UnreadableFileError(path, " is locked with a password. Save it without one.")
    if len(members) > limits.rows:
        raise UnreadableFileError(path, f" holds {len(members):,} files; at most {limits.rows:,} are taken.")


def _layout_of_zip(path: Path, limits: Limits) -> Layout:
    try:
        with zipfile.ZipFile(path) as files:
            check_zip(path, files, limits)
            names = [name.casefold() for name in files.namelist()]
    except (zipfile.BadZipFile, NotImplementedError, ValueError) as error:
        raise UnreadableFileError(path, f" can't be read as a zip: {reason_of(error, path)}.") from error
    if "[content_types].xml" in names:
        return _layout_of_workbook(path)
    if any(name.endswith(".shp") for name in names):
        return Layout(Form.SHAPEFILE)
    return Layout(Form.PAPERS if any(name.endswith(".pdf") for name in names) else Form.PICTURES)


def _layout_of_workbook(path: Path) -> Layout:
    try:
        # Given open, for the reader would go by its name.
        with path.open("rb") as handle:
            book = openpyxl.load_workbook(handle, read_only=True, data_only=True)
            sheets = tuple(sheet.title for sheet in book.worksheets)
            book.worksheets[0].reset_dimensions()
            rows = islice(book.worksheets[0].iter_rows(values_only=True), _TOP)
            top = [[str(cell) for cell in row if cell is not None] for row in rows]
    except Exception as error:
        raise UnreadableFileError(path, f" can't be read as an Excel workbook: {reason_of(error, path)}.") from error
    return Layout(Form.WORKBOOK, header_line=_header_line(top), sheet=sheets[0], sheets=sheets)


def _layout_of_text(path: Path, top: bytes) -> Layout:
    encoding = find_encoding(path)
    sample = top.decode(encoding, errors="ignore").replace("\x00", "")[:_SAMPLE]
    if sum(1 for character in sample if character < " " and character not in "\t\r\n\f\x1a") > len(sample) / 50:
        raise UnreadableFileError(path, " is neither text (CSV), a workbook (.xlsx), GeoJSON nor a zip.")
    # The last line of a sample may be cut in two.
    whole = sample if len(sample) < _SAMPLE else sample.rpartition("\n")[0] or sample
    delimiter = find_delimiter(whole)
    rows: Iterator[list[str]] = csv.reader(whole.splitlines(keepends=True), delimiter=delimiter)
    try:
        first = [[cell for cell in row if cell.strip()] for row in islice(rows, _TOP)]
    except csv.Error:
        first = []
    return Layout(Form.TEXT, encoding, delimiter, _header_line(first))


def find_delimiter(sample: str) -> str:
    """Return what stands between the cells; a comma where nothing tells."""
    try:
        dialect = clevercsv.Sniffer().sniff(sample, delimiters="".join(DELIMITERS))
    except Exception:
        # On texts that are no table it fails in ways of its own.
        dialect = None
    return (dialect and dialect.delimiter) or ","


def _header_line(top: Sequence[Sequence[str]]) -> int:
    """Return the first line that is about as full as the fullest: a title or a note stands above many a table."""
    fullest = max(map(len, top), default=0)
    return next((number for number, cells in enumerate(top, start=1) if len(cells) > fullest * 0.6), 1)
