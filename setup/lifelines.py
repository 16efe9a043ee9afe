"""Processes that end with the one that started them, however that ends. Only the standard library is used."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from typing import Any, NoReturn

_PR_SET_PDEATHSIG = 1
_LIBC = ctypes.CDLL(None, use_errno=True)


def started(command: list[str], **options: Any) -> subprocess.Popen[bytes]:
    """Start a command that is told to end (SIGTERM) when this process is no longer there, even if that was killed (prctl(2))."""
    parent = os.getpid()

    def tie() -> None:
        _LIBC.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
        if os.getppid() != parent:
            os._exit(1)

    return subprocess.Popen(command, preexec_fn=tie, **options)


@contextlib.contextmanager
def if_killed(then: Callable[[], None]) -> Iterator[None]:
    """Have a process beside this one do something if this one is killed within the block."""
    reading, writing = os.pipe()
    if os.fork():
        # The writing end stays open as long as this process lives; no command that it starts inherits it.
        os.close(reading)
        try:
            yield
        finally:
            os.write(writing, b".")
            os.close(writing)
        return
    _wait(reading, then)


def _wait(reading: int, then: Callable[[], None]) -> NoReturn:
    os.setsid()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_IGN)
    # Whoever waits for this command's output, or for a lock of its, must not wait for this.
    os.dup2(reading, 3)
    os.closerange(4, os.sysconf("SC_OPEN_MAX"))
    quiet = os.open(os.devnull, os.O_RDWR)
    for stream in (0, 1, 2):
        os.dup2(quiet, stream)
    if not os.read(3, 1):
        with contextlib.suppress(BaseException):
            then()
    os._exit(0)


class Restarts:
    """How often something that was killed is started again: not for ever where it can't live."""

    def __init__(self, most: int = 5, within: float = 60) -> None:
        self._most, self._within, self._moments = most, within, list[float]()

    def may_again(self) -> bool:
        now = time.monotonic()
        self._moments = [moment for moment in self._moments if now - moment < self._within]
        self._moments.append(now)
        return len(self._moments) <= self._most
