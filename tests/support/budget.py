"""What the quick tier may cost: CPU seconds since the line that was written last in ``tests/budget.md``, and twelve minutes.

A machine is faster at one hour than at another, so each process does a fixed piece of work between classes, and a slower machine is
excused in proportion. A faster one is not charged more: the same tests took as long on one that did the fixed work in half the time.
"""

from __future__ import annotations

import json
import os
import random
import re
import resource
import time
from dataclasses import dataclass
from pathlib import Path

from django.db import connection

BUDGET = Path(__file__).resolve().parents[1] / "budget.md"
GROWTH = 45
"""So many CPU seconds an issue may add without a line that says why."""
MINUTES = 12
BETWEEN = 20
"""Seconds between two pieces of work by which a process tells its pace."""


@dataclass(frozen=True)
class Line:
    """A line of the budget: CPU seconds of the quick tier, at the pace (in seconds) that was measured with it."""

    issue: str
    cpu: float
    pace: float


def pace() -> float:
    """Return the CPU seconds of a fixed piece of work, about a tenth of a second."""
    rng, began = random.Random(1), time.process_time()
    rows = [{"number": rng.random(), "name": f"row {rng.randrange(9_999)}", "parts": list(range(20))} for _ in range(5_000)]
    sorted(json.loads(json.dumps(rows)), key=lambda row: (row["name"], row["number"]))
    return time.process_time() - began


def _ticks_of(pid: int) -> float:
    """Return the CPU seconds of a process and of those it has begun and that have ended, in seconds (proc(5), fields 14 to 17)."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return sum(map(int, fields[11:15])) / os.sysconf("SC_CLK_TCK")


def cpu_seconds() -> float:
    """Return what this process has used so far, with those it began and the database server."""
    own = resource.getrusage(resource.RUSAGE_SELF)
    begun = resource.getrusage(resource.RUSAGE_CHILDREN)
    with connection.cursor() as cursor:
        cursor.execute("SELECT current_setting('data_directory')")
        (folder,) = cursor.fetchone()
    server = int((Path(folder) / "postmaster.pid").read_text().split()[0])
    return own.ru_utime + own.ru_stime + begun.ru_utime + begun.ru_stime + _ticks_of(server)


def lines() -> list[Line]:
    """Return the lines of the budget, the latest last."""
    rows = re.findall(r"^\| *([^|]+?) *\| *([\d,.]+) *\| *([\d.]+) *\|", BUDGET.read_text(), re.MULTILINE)
    return [Line(issue, float(cpu.replace(",", "")), float(one)) for issue, cpu, one in rows]


def faults(cpu: float, minutes: float, at_pace: float, allowed: Line) -> list[str]:
    """Return what is wrong with what the quick tier took; on a slower machine than that of the budget's line, after conversion to it."""
    scale = min(1, allowed.pace / at_pace)
    over = cpu * scale - allowed.cpu
    found = []
    if over > GROWTH:
        found.append(
            f"The quick tier used {cpu * scale:,.0f} CPU seconds, {over:,.0f} more than {allowed.issue} left it with. "
            f"Make it quicker, move tests to the thorough tier, or write a line into tests/budget.md that says why."
        )
    if minutes * scale > MINUTES:
        found.append(f"The quick tier took {minutes * scale:.1f} minutes; {MINUTES} are the limit.")
    return found
