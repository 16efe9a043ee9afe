"""A worker in a process of its own, on the database that a test stands on."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from urllib.parse import quote

from django.db import connection


def database_url() -> str:
    """Return the address of the database that the test's connection is on."""
    told = connection.settings_dict
    return f"postgresql://{quote(told['USER'])}:{quote(told['PASSWORD'])}@{told['HOST']}:{told['PORT']}/{quote(told['NAME'])}"


def begin() -> subprocess.Popen[bytes]:
    """Start a worker as the server does."""
    return subprocess.Popen(
        [sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "2"],
        env={**os.environ, "DATABASE_URL": database_url(), "DJANGO_SETTINGS_MODULE": "tests.settings"},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )


def kill(worker: subprocess.Popen[bytes]) -> None:
    """End a worker as a machine that fails does: at once, with no chance to clear up."""
    worker.send_signal(signal.SIGKILL)
    worker.wait()


@contextmanager
def working() -> Iterator[None]:
    worker = begin()
    try:
        yield
    finally:
        kill(worker)


def wait_until(is_so: Callable[[], bool], what: str, seconds: float = 120) -> None:
    """Wait for something that another process brings about. Raises AssertionError when it does not come."""
    end = time.monotonic() + seconds
    while not is_so():
        if time.monotonic() > end:
            raise AssertionError(f"waited {seconds:.0f} s in vain: {what}")
        time.sleep(0.05)
