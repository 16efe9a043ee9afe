"""What is brought for a list: a pasted column, or a file of any form of table, of which the column is read that names parcels."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Protocol

from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.editor_fields import LONGEST_LINE
from jaded_ledger.find.pasted_lines import PastedLines, match_lines
from jaded_ledger.intake.layouts import Form, Layout, find_layout
from jaded_ledger.intake.limits import Limits, UnreadableFileError
from jaded_ledger.intake.on_disk import on_disk
from jaded_ledger.intake.readers import NUL, read
from jaded_ledger.lists.messages import ListError

MOST_LINES = 20_000
_LIMITS = Limits(size=20_000_000, expanded=40_000_000)
"""A list's file is read while somebody waits, a county's by the worker."""
_TRIED_ROWS, _TRIED_COLUMNS = 40, 20


class File(Protocol):
    """A file as a request brings it."""

    name: str
    size: int

    def chunks(self) -> Iterator[bytes]: ...


@dataclass(frozen=True)
class ImportedMembers:
    """The lines that were brought, what they name, and which column of a file they stood in."""

    text: str
    found: PastedLines
    column: str = ""


def import_text(text: str, compiled: Compiled) -> ImportedMembers:
    """Return what pasted lines name. Raises CriteriaError for too many."""
    return ImportedMembers(text, match_lines(text, compiled, most=MOST_LINES))


def import_file(file: File, compiled: Compiled) -> ImportedMembers:
    """Return what a file names: text with any delimiter, or a workbook. Raises ListError."""
    if file.size > _LIMITS.size:
        raise ListError(f"{file.name} is larger than {_LIMITS.size // 1_000_000} MB; take it in under Records if it is a county's")
    with on_disk(file.name, file.chunks()) as path:
        try:
            table = list(islice(_table(path), MOST_LINES + 2))
        except UnreadableFileError as error:
            raise ListError(f"{error.of(file.name).rstrip('.')}; save the column of parcel numbers or addresses as CSV or .xlsx") from error
    if len(table) > MOST_LINES + 1:
        raise ListError(f"{file.name} has more than {MOST_LINES:,} lines; split it")
    (first, joined), found = max(_tried(table, compiled), key=_worth, default=((0, False), None))
    if found is None or not found.parcels:
        raise ListError(f"no column of {file.name} names a parcel on record: parcel numbers, listing numbers or addresses are looked for")
    lines = [_cell(row, first, joined=joined) for row in table]
    # A heading names no parcel, and has no figure in it.
    column = lines[0] if lines and not any(character.isdigit() for character in lines[0]) else ""
    for number, line in enumerate(lines, start=1):
        if len(line) > LONGEST_LINE:
            raise ListError(f"row {number:,} of {file.name} has {len(line):,} characters in the column that names parcels; shorten it")
    try:
        text = "\n".join(lines[1:] if column else lines)
        return ImportedMembers(text, match_lines(text, compiled, most=MOST_LINES), column or f"column {first + 1}")
    except CriteriaError as error:
        raise ListError(str(error)) from error


def _table(path: Path) -> Iterator[list[str]]:
    """Yield the rows of a table, its heading too, as texts. Raises UnreadableFileError."""
    layout: Layout = find_layout(path, _LIMITS)
    if layout.form is Form.TEXT:
        with path.open(encoding=layout.encoding, errors="replace", newline="") as handle:
            try:
                lines = (line.replace(NUL, "") for line in handle)
                yield from (row for row in csv.reader(lines, delimiter=layout.delimiter) if any(cell.strip() for cell in row))
            except csv.Error as error:
                raise UnreadableFileError(path, f" can't be read: {error}.") from error
    elif layout.form is Form.WORKBOOK:
        for place, row in enumerate(read(path, layout)):
            if place == 0:
                yield list(row.cells)
            yield [str(cell) for cell in row.cells.values()]
    else:
        raise UnreadableFileError(path, " is neither text (CSV) nor a workbook (.xlsx).")


def _cell(row: Sequence[str], first: int, *, joined: bool) -> str:
    """Return what a row has in a column, or from a column on: an address may stand in several."""
    cells = [" ".join(cell.split()) for cell in (row[first:] if joined else row[first : first + 1])]
    line = ", ".join(cell for cell in cells if cell)
    # An address stands in the first of several columns; what comes far behind it is something else.
    return line[:LONGEST_LINE] if joined else line


def _worth(tried: tuple[tuple[int, bool], PastedLines]) -> tuple[int, int, bool]:
    """Return how much speaks for a column: what it names, rather by number than by address, an address rather with its city."""
    (_, joined), found = tried
    return len(found.parcels), found.by.get("parcel number", 0), joined


def _tried(table: Sequence[Sequence[str]], compiled: Compiled) -> Iterator[tuple[tuple[int, bool], PastedLines]]:
    """Yield each column, alone and with those after it, with what its first rows name."""
    sample = table[: _TRIED_ROWS + 1]
    columns = min(max(map(len, sample), default=0), _TRIED_COLUMNS)
    for joined in (False, True):
        for first in range(columns):
            lines = [_cell(row, first, joined=joined) for row in sample]
            if max(map(len, lines)) > LONGEST_LINE:
                # A column of notes names no parcels.
                continue
            yield (first, joined), match_lines("\n".join(lines), compiled, near=0)
