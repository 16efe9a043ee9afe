"""The first rows of a file: enough to guess what it is and to show how it will be read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any

from jaded_ledger.intake.layouts import Form, Layout
from jaded_ledger.intake.readers import RawRow, read

ROWS = 300
_MOST_TEXT = 3_000_000


@dataclass(frozen=True)
class Sample:
    """A file's columns and first rows, each its line, its cells in the columns' order, and its fault."""

    header: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...], str], ...]

    def cells(self) -> list[dict[str, str]]:
        """Return the rows' cells by column."""
        return [dict(zip(self.header, cells, strict=True)) for _, cells, _ in self.rows]

    def raw_rows(self) -> list[RawRow]:
        return [RawRow(number, dict(zip(self.header, cells, strict=True)), fault) for number, cells, fault in self.rows]


def sample_of(path: Path, layout: Layout) -> Sample:
    """Read the first rows of a file; pictures come by their names alone. Raises UnreadableFileError."""
    raws: list[RawRow] = []
    text = 0
    for raw in islice(read(path, layout), ROWS):
        raws.append(raw)
        text += sum(len(cell) for cell in raw.cells.values() if isinstance(cell, str))
        if text > _MOST_TEXT:
            break
    header = tuple(dict.fromkeys(name for raw in raws for name in raw.cells))
    return Sample(header, tuple((raw.number, tuple(_shown(raw.cells.get(name)) for name in header), raw.fault) for raw in raws))


def _shown(cell: Any) -> str:
    return "a picture" if isinstance(cell, bytes) else cell or ""


def rows_about(path: Path, layout: Layout, sample: Sequence[Any]) -> int | None:
    """Return how many rows a file of text seems to have; None for forms that don't tell without being read."""
    if layout.form is not Form.TEXT or not sample:
        return len(sample) if len(sample) < ROWS else None
    with path.open("rb") as handle:
        lines = sum(block.count(b"\n") for block in iter(lambda: handle.read(1 << 20), b""))
    return max(len(sample), lines - layout.header_line)
