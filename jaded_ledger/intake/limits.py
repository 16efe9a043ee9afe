"""How large a file may be, and the error of one that can't be read."""

from __future__ import annotations

from dataclasses import dataclass


class UnreadableFileError(Exception):
    """The file as a whole can't be read; the message says why."""


@dataclass(frozen=True)
class Limits:
    """Bounds on one file: bytes, rows, columns, characters of a cell, bytes of a picture, and what a zip may unpack to."""

    size: int = 1 << 30
    rows: int = 5_000_000
    columns: int = 500
    cell: int = 1_000_000
    picture: int = 50_000_000
    ratio: int = 100
    """How many times its own size a zip may unpack to, where that is more than ``harmless``."""
    harmless: int = 20_000_000
    expanded: int = 4_000_000_000


LIMITS = Limits()
