"""Bytes that somebody brought, as a file to read."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

_ENDING = re.compile(r"\.[A-Za-z0-9]{1,10}$")


@contextmanager
def on_disk(name: str, chunks: Iterable[bytes]) -> Iterator[Path]:
    """Give bytes as a file for the length of the block.

    It has a name of our own with the ending of ``name``: what somebody calls a file may be too long for a disk, or none at all.
    """
    ending = _ENDING.search(name)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"file{ending[0] if ending else ''}"
        with path.open("wb") as out:
            out.writelines(chunks)
        yield path
