"""Other processes: they derive what this one would, and none outlives the one that began it."""

from __future__ import annotations

import multiprocessing
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from unittest import TestCase, mock

from jaded_ledger.records.clock import today
from jaded_ledger.records.derivation import Derivation
from jaded_ledger.records.models import County, Parcel, ParcelFacts, ParcelSale
from jaded_ledger.records.other_processes import other_processes
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

_BEGINS = """
import os, time
if __name__ == "__main__":
    import django
    django.setup()
    from jaded_ledger.records.other_processes import other_processes
    processes = other_processes(2)
    pids = {one.result() for one in [processes.submit(os.getpid), processes.submit(os.getpid)]} | set(processes._processes)
    print(*pids, flush=True)
    time.sleep(60)
"""


@thorough
class Derived(DemoTestCase):
    def test_two_processes_derive_what_one_does(self) -> None:
        county = County.objects.get(name="Odell Marsh")
        ids = list(Parcel.objects.filter(county=county, retired_on=None).values_list("pk", flat=True))

        def rows() -> tuple[list, int]:
            return list(ParcelFacts.objects.filter(county=county).order_by("pk").values_list()), ParcelSale.objects.count()

        before = rows()
        ParcelFacts.objects.filter(county=county).delete()
        ParcelSale.objects.filter(county=county).delete()
        # A test's own process may be one of several, which Python lets begin no other.
        as_ever = mock.patch.dict(multiprocessing.current_process()._config, daemon=False)
        with as_ever, other_processes(2) as processes:
            written = Derivation(county, today()).run(ids, recount=True, processes=processes)
        self.assertEqual(written, len(before[0]))
        self.assertEqual(rows(), before)


@thorough
class Ends(TestCase):
    def test_they_end_with_the_one_that_began_them(self) -> None:
        root = Path(__file__).resolve().parents[2]
        script = root / "var" / "begins_processes.py"
        script.write_text(_BEGINS)
        self.addCleanup(script.unlink)
        environment = {**os.environ, "PYTHONPATH": str(root)}
        began = subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True, env=environment)
        self.addCleanup(began.stdout.close)
        pids = [int(pid) for pid in began.stdout.readline().split()]
        self.assertTrue(pids)
        began.send_signal(signal.SIGKILL)
        began.wait()
        end = time.monotonic() + 10
        while (left := [pid for pid in pids if _is_running(pid)]) and time.monotonic() < end:
            time.sleep(0.1)
        self.assertEqual(left, [])


def _is_running(pid: int) -> bool:
    try:
        return "\nState:\tZ" not in Path(f"/proc/{pid}/status").read_text()
    except (FileNotFoundError, ProcessLookupError):
        return False
