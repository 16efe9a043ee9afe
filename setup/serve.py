"""Bring the database up to date, load the demo, and serve. Called by bin/start beside the cluster."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

from lifelines import Restarts, started

ROOT = Path(__file__).resolve().parent.parent
PID_FILE = ROOT / "var" / "web.pid"


def stop_earlier_server() -> None:
    """End a server of this checkout that was left running, so that the current code is what answers."""
    try:
        pid = int(PID_FILE.read_text())
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError):
        return
    if b"gunicorn" not in command or str(ROOT).encode() not in command:
        return
    print(f"Stopping the server that was left running (process {pid}).", flush=True)
    with contextlib.suppress(ProcessLookupError):
        for number, patience in ((signal.SIGTERM, 10), (signal.SIGKILL, 2)):
            os.kill(pid, number)
            end = time.monotonic() + patience
            while time.monotonic() < end:
                os.kill(pid, 0)
                time.sleep(0.1)


def is_free(port: int) -> bool:
    with socket.socket() as probe:
        # As the server will: a port whose last connections are only fading is free.
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
        return True


def choose_port() -> int:
    """Return the port asked for in PORT, or the first free one from 8000."""
    wanted = os.environ.get("PORT", "")
    if wanted:
        if not wanted.isdigit() or not 0 < int(wanted) < 65536:
            sys.exit(f"PORT={wanted} is not a port number: give one from 1 to 65535.")
        if not is_free(int(wanted)):
            sys.exit(f"Port {wanted} is in use by another program. Choose another, for example PORT={int(wanted) + 1}.")
        return int(wanted)
    for port in range(8000, 8100):
        if is_free(port):
            if port != 8000:
                print("Port 8000 is in use by another program.")
            return port
    sys.exit("Ports 8000 to 8099 are all in use. Name a free one: PORT=9000 bin/start")


_SOON = 20
"""So many seconds the web server has to show that it can be started."""


class Serving:
    """The web server and the worker beside it. Whichever is killed is started again; when the server ends by itself, all does."""

    def __init__(self, port: int) -> None:
        self.web_command = [
            sys.executable, "-m", "gunicorn", "--config", str(ROOT / "setup" / "gunicorn.conf.py"),
            "--bind", f"127.0.0.1:{port}", "--pid", str(PID_FILE), "--chdir", str(ROOT), "jaded_ledger.wsgi",
        ]  # fmt: skip
        # Two at a time: an intake, and the look-out for those whose worker was killed. Pages go before what it does.
        self.worker_command = ["nice", "-n", "15", sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "2"]
        self.is_ending = False

    def end(self, *_: object) -> None:
        self.is_ending = True
        self.web.send_signal(signal.SIGTERM)

    def renew(self, *_: object) -> None:
        self.web.send_signal(signal.SIGHUP)
        self.worker.terminate()

    def run(self) -> int:
        self.web, self.worker = started(self.web_command), self._begin_work()
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self.end)
        signal.signal(signal.SIGHUP, self.renew)
        restarts, began = Restarts(), time.monotonic()
        while True:
            status = self._status_of_web()
            if status is not None:
                # One that ends of itself as soon as it is started can't be started.
                can_run = status < 0 or time.monotonic() - began > _SOON
                if self.is_ending or not can_run or not restarts.may_again():
                    break
                print("The web server ended; it is started again.", flush=True)
                self.web = started(self.web_command)
            if not self.is_ending and self.worker.poll() is not None:
                self.worker = self._begin_work()
        self.worker.terminate()
        try:
            self.worker.wait(timeout=10)
        except subprocess.TimeoutExpired:
            # What it has begun is one transaction, and is run again.
            self.worker.kill()
        return max(0, status)

    def _begin_work(self) -> subprocess.Popen[bytes]:
        # Ctrl-C reaches the whole group; the worker is ended by us, after the server.
        return started(self.worker_command, cwd=ROOT, start_new_session=True)

    def _status_of_web(self) -> int | None:
        try:
            return self.web.wait(timeout=1)
        except subprocess.TimeoutExpired:
            return None


def main() -> None:
    stop_earlier_server()
    # Its number may by now belong to some other program, and the server would refuse to start beside that.
    PID_FILE.unlink(missing_ok=True)
    port = choose_port()
    # Links in mail lead to where it is served.
    os.environ.setdefault("JADED_LEDGER_BASE_URL", f"http://127.0.0.1:{port}")

    import django
    from django.core.management import CommandError, call_command

    django.setup()
    print("Bringing the database up to date…", flush=True)
    try:
        call_command("migrate", verbosity=0)
    except CommandError as error:
        sys.exit(str(error))
    call_command("collectstatic", interactive=False, verbosity=0)
    if "--empty" not in sys.argv[1:]:
        call_command("demo")
    # A newer version may keep facts in another form; what is recorded is as it was.
    call_command("derive", missing=True)
    sys.exit(Serving(port).run())


if __name__ == "__main__":
    main()
