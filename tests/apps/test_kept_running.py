"""What is killed with -9 comes back, and what a killed starter leaves behind ends: the cluster, the web server, the worker."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from django.test import SimpleTestCase

from tests.support.tiers import thorough

ROOT = Path(__file__).resolve().parents[2]
SETUP = ROOT / "setup"
SECONDS = 60
# Both tell their number; the web server ends as it is told, or goes on until it is killed.
TELLS = """
import os, sys, time
open(sys.argv[1], "a").write(f"{os.getpid()}\\n")
time.sleep(float(sys.argv[2]))
sys.exit(int(sys.argv[3]))
"""
SERVES = """
import sys
sys.path.insert(0, {setup!r})
import serve
serve._SOON = {soon}
serving = serve.Serving(0)
serving.web_command = {web!r}
serving.worker_command = {worker!r}
sys.exit(serving.run())
"""


def wait_until(holds: Callable[[], object], what: str) -> None:
    end = time.monotonic() + SECONDS
    while not holds():
        if time.monotonic() > end:
            raise AssertionError(f"in {SECONDS} seconds not: {what}")
        time.sleep(0.1)


def is_running(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


class Told(SimpleTestCase):
    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)

    def pids(self, name: str) -> list[int]:
        file = self.folder / name
        return [int(line) for line in file.read_text().split()] if file.exists() else []

    def one_more(self, name: str, than: int) -> int:
        wait_until(lambda: len(self.pids(name)) > than, f"{name} is started {than + 1} times")
        return self.pids(name)[-1]


class Serving(Told):
    def serve(self, *, lives: float = 600, status: int = 0, soon: float = 0) -> subprocess.Popen[bytes]:
        web, worker = (
            [sys.executable, "-c", TELLS, str(self.folder / name), str(seconds), str(ends)]
            for name, seconds, ends in (("web", lives, status), ("worker", 600, 0))
        )
        process = subprocess.Popen([sys.executable, "-c", SERVES.format(setup=str(SETUP), web=web, worker=worker, soon=soon)], cwd=ROOT)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def test_whichever_is_killed_is_started_again(self) -> None:
        process = self.serve()
        for time_ in range(3):
            for name in ("web", "worker"):
                os.kill(self.one_more(name, time_), signal.SIGKILL)
        web, worker = self.one_more("web", 3), self.one_more("worker", 3)
        # The starter's own death ends both.
        process.kill()
        wait_until(lambda: not is_running(web) and not is_running(worker), "both have ended")

    def test_asked_to_end_all_ends(self) -> None:
        process = self.serve()
        web, worker = self.one_more("web", 0), self.one_more("worker", 0)
        process.terminate()
        self.assertEqual(process.wait(SECONDS), 0)
        self.assertFalse(is_running(web) or is_running(worker))
        self.assertEqual(len(self.pids("web")), 1)

    def test_what_can_not_be_started_is_not_tried_for_ever(self) -> None:
        self.assertEqual(self.serve(lives=0, status=3, soon=5).wait(SECONDS), 3)
        self.assertEqual(len(self.pids("web")), 1)
        (self.folder / "web").unlink()
        self.assertEqual(self.serve(lives=0, status=4).wait(SECONDS), 4)
        self.assertEqual(len(self.pids("web")), 6)


@thorough
class Clusters(Told):
    def homes(self) -> set[Path]:
        folder = Path("/var/lib/jaded-ledger") if os.getuid() == 0 else ROOT / "var"
        return set(folder.glob("temporary-*"))

    def test_a_killed_server_is_back_where_it_was_and_a_killed_starter_leaves_nothing(self) -> None:
        before = self.homes()
        command = [sys.executable, "-c", TELLS, str(self.folder / "command"), "600", "0"]
        without = {name: value for name, value in os.environ.items() if name != "DATABASE_URL"}
        process = subprocess.Popen([sys.executable, str(SETUP / "cluster.py"), "run", "--temporary", "--", *command], env=without)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        running = self.one_more("command", 0)
        # Other tests may have clusters of their own: ours is the one that this process began.
        (home,) = (path for path in self.homes() - before if (path / "data" / "postmaster.pid").exists())
        pid_file, port = home / "data" / "postmaster.pid", (home / "port").read_text()
        server = int(pid_file.read_text().split()[0])
        os.kill(server, signal.SIGKILL)

        def is_back() -> bool:
            lines = pid_file.read_text().split("\n") if pid_file.exists() else []
            return len(lines) > 7 and int(lines[0]) != server and lines[7].strip() == "ready"

        wait_until(is_back, "the server is back")
        self.assertEqual(((home / "port").read_text(), pid_file.read_text().split("\n")[3]), (port, port))
        self.assertTrue(is_running(running))
        server = int(pid_file.read_text().split()[0])
        process.kill()
        wait_until(lambda: not is_running(running) and not is_running(server) and not home.exists(), "nothing is left")
