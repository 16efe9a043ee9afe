"""The application as it is served, for benchmarks that ask it from outside."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from http.client import HTTPConnection
from pathlib import Path

from django.core.management import call_command

ROOT = Path(__file__).resolve().parents[2]


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@contextmanager
def server(*, worker: bool = False) -> Iterator[tuple[int, int]]:
    """Serve the application on a free port for the length of the block, with a worker beside it or not; the port, and the process."""
    call_command("collectstatic", interactive=False, verbosity=0)
    port = _free_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "gunicorn", "--config", str(ROOT / "setup" / "gunicorn.conf.py"), "--bind", f"127.0.0.1:{port}",
         "--chdir", str(ROOT), "jaded_ledger.wsgi"],
        stdout=subprocess.DEVNULL,
    )  # fmt: skip
    command = ["nice", "-n", "10", sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "2"]
    beside = [subprocess.Popen(command)] if worker else []
    try:
        _wait_for(port)
        yield port, process.pid
    finally:
        for one in (process, *beside):
            one.terminate()
            one.wait()


def _wait_for(port: int) -> None:
    for _ in range(120):
        try:
            HTTPConnection("127.0.0.1", port, timeout=5).request("GET", "/sign-in/")
            return
        except OSError:
            time.sleep(0.5)
    raise TimeoutError("the server did not start")
