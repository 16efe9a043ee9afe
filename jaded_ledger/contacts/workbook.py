"""Rows as an Excel workbook (ECMA-376): real figures and days, the heading kept in sight, columns as wide as what they hold."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from datetime import date
from itertools import chain, islice

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet._write_only import WriteOnlyWorksheet

from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.find.results import Plain

MOST_ROWS = 1_048_576
"""What a sheet holds (common practice)."""
_MEASURED, _NARROWEST, _WIDEST = 200, 8, 60
_BLOCK = 1 << 18


class TooManyRowsError(ValueError):
    """More rows than a sheet holds."""


def _text(value: Plain) -> str:
    return ", ".join(map(str, value)) or NONE if isinstance(value, tuple) else str(value)


def _cell(sheet: WriteOnlyWorksheet, value: Plain) -> WriteOnlyCell | None:
    """Return a value as a cell of its type. A text is a text, whatever it begins with."""
    if value is None:
        return None
    if isinstance(value, str | tuple):
        found = WriteOnlyCell(sheet, ILLEGAL_CHARACTERS_RE.sub("", _text(value)))
        found.data_type = "s"
        return found
    found = WriteOnlyCell(sheet, value)
    if isinstance(value, date):
        found.number_format = "yyyy-mm-dd"
    return found


def workbook(rows: Iterator[list[Plain]]) -> Iterator[bytes]:
    """Yield a workbook of rows, the first of which are its headings. Raises TooManyRowsError."""
    book = Workbook(write_only=True)
    sheet = book.create_sheet("Owners")
    first = list(islice(rows, _MEASURED))
    for place, column in enumerate(zip(*first, strict=True), start=1):
        longest = max(len(_text(value)) if value is not None else 0 for value in column)
        sheet.column_dimensions[get_column_letter(place)].width = min(max(longest + 2, _NARROWEST), _WIDEST)
    sheet.freeze_panes = "A2"
    for number, row in enumerate(chain(first, rows), start=1):
        if number > MOST_ROWS:
            sheet.close()
            raise TooManyRowsError(f"a sheet holds {MOST_ROWS:,} rows; write this one as CSV")
        cells = [_cell(sheet, value) for value in row]
        if number == 1:
            for cell in cells:
                if cell is not None:
                    cell.font = Font(bold=True)
        sheet.append(cells)
    with tempfile.TemporaryFile() as file:
        book.save(file)
        file.seek(0)
        while block := file.read(_BLOCK):
            yield block
