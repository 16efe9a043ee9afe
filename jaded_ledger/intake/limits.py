"""How large a file may be, and the error of one that can't be read."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


class UnreadableFileError(Exception):
    """The file as a whole can't be read. ``says`` is why, as it goes on after the file's name."""

    def __init__(self, path: Path, says: str) -> None:
        super().__init__(path, says)
        self._path = path
        self._says = says

    def __str__(self) -> str:
        return self.of(self._path.name)

    def of(self, name: str) -> str:
        """Return the message, calling the file as whoever brought it does."""
        return f"{name}{self._says}"


def reason_of(error: Exception, path: Path) -> str:
    """Return what a library says of a file it can't read, in a line, without where on our disk that was."""
    lines = str(error).replace(str(path), "it").splitlines()
    return lines[0].rstrip(".") if lines else type(error).__name__


@dataclass(frozen=True)
class Limits:
    """Bounds on one file: bytes, rows, columns, characters of a cell and of a row, bytes of a picture and of a workbook's shared texts,
    depth of nesting, what a zip may unpack to.
    """

    size: int = 1 << 30
    rows: int = 5_000_000
    columns: int = 500
    cell: int = 1_000_000
    row: int = 50_000_000
    picture: int = 50_000_000
    shared_texts: int = 300_000_000
    depth: int = 64
    ratio: int = 100
    """How many times its own size a zip may unpack to, where that is more than ``harmless``."""
    harmless: int = 20_000_000
    expanded: int = 4_000_000_000


LIMITS = Limits()
