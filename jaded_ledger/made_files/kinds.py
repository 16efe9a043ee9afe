"""The kinds of files there are, each with what makes it; apps add theirs through the hook ``file_kinds``."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import chain
from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hooks

Report = Callable[[int], None]
"""Told how many rows are done."""


class MakingError(Exception):
    """A file that can't be made; the message says why, and what to do."""


@dataclass(frozen=True)
class Making:
    """A file while it is made: its bytes piece by piece, and what is noted once all of them are there."""

    parts: Iterator[bytes]
    note: Callable[[], object] = lambda: None


@dataclass(frozen=True)
class FileKind:
    """A kind of file: what makes it of its arguments, which are JSON, and up to how many rows it is made while somebody waits.

    ``make`` asks what it needs anew: what was recorded since the file was asked for counts. It may raise MakingError. ``require``
    raises PermissionDenied or MakingError for a user who may not export so many rows; it runs when a file is requested and when it is sent.
    """

    key: str
    make: Callable[[Scope, Mapping[str, Any], Report], Making]
    require: Callable[[Scope, int], None]
    at_once: int


def kind_called(key: str) -> FileKind:
    """Return a kind of file by its key."""
    return next(kind for kind in chain.from_iterable(hooks.file_kinds()) if kind.key == key)
