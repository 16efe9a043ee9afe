"""Programs of our own that read what somebody sent, in a process with a bound of time and memory that whoever waits for it can end.

C libraries decode pictures and mend outlines. They can't be interrupted, and what a small file makes of them can fill a server's memory.
"""

from __future__ import annotations

import resource
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

_ROOT = Path(__file__).resolve().parents[2]
UNREADABLE = 3
"""The exit code of a program that could not read what it was sent."""


class EndedError(RuntimeError):
    """A program that took longer or more memory than it may, or could not read what it was sent (``is_unreadable``)."""

    def __init__(self, *, is_unreadable: bool) -> None:
        super().__init__("could not be read" if is_unreadable else "took too long, or too much memory")
        self.is_unreadable = is_unreadable


def run_bounded(module: str, sent: bytes, seconds: float) -> bytes:
    """Return what a module writes that reads ``sent``, both by its standard streams. Raises EndedError."""
    try:
        done = subprocess.run(  # noqa: S603 - a module of ours, and what it reads is no command
            [sys.executable, "-m", module], input=sent, capture_output=True, timeout=seconds, check=True, cwd=_ROOT
        )
    except subprocess.TimeoutExpired:
        raise EndedError(is_unreadable=False) from None
    except subprocess.CalledProcessError as error:
        raise EndedError(is_unreadable=error.returncode == UNREADABLE) from None
    return done.stdout


def be_program(work: Callable[[bytes], bytes], most_bytes: int, *unreadable: type[Exception]) -> None:
    """Be such a program: with so much memory, do the work on what is read, and write what it returns."""
    resource.setrlimit(resource.RLIMIT_AS, (most_bytes, most_bytes))
    try:
        sys.stdout.buffer.write(work(sys.stdin.buffer.read()))
    except unreadable:
        sys.exit(UNREADABLE)
