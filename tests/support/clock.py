"""The clock, set to another moment: for every thread of this process, and for each process that a test starts.

time-machine replaces what Python reads from the machine. The product takes its day from the demo's world (``records.clock``), so
that day is set as well. Nothing in the product is patched by name, so a module that reads the clock for the first time is covered too.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import time_machine
from django.conf import settings

_AHEAD = "JADED_LEDGER_TEST_CLOCK"
"""How many seconds the clock is ahead of the machine's: ``tests.settings`` reads it in a process that a test starts."""


def follow_parent() -> None:
    """Set this process's clock as far ahead as that of the test that started it."""
    if ahead := os.environ.get(_AHEAD):
        time_machine.travel(time.time() + float(ahead), tick=True).start()


@contextmanager
def machine_at(moment: datetime, *, goes_on: bool = True) -> Iterator[None]:
    """Set the machine's clock to a moment, and leave the demo's day as it is."""
    before = os.environ.get(_AHEAD)
    hatch = time_machine.escape_hatch
    os.environ[_AHEAD] = str(moment.timestamp() - (hatch.time.time() if hatch.is_travelling() else time.time()))
    try:
        with time_machine.travel(moment.astimezone(UTC), tick=goes_on):
            yield
    finally:
        if before is None:
            del os.environ[_AHEAD]
        else:
            os.environ[_AHEAD] = before


@contextmanager
def at(moment: datetime, *, goes_on: bool = False) -> Iterator[None]:
    """Have the application's now be a moment, at which it stops: the time of day by the machine's clock, the day by the demo's."""
    from jaded_ledger.records.models import World

    day, worlds = moment.astimezone(ZoneInfo(settings.TIME_ZONE)).date(), dict(World.objects.values_list("pk", "today"))
    World.objects.update(today=day)
    try:
        with machine_at(moment, goes_on=goes_on):
            yield
    finally:
        for pk, today in worlds.items():
            World.objects.filter(pk=pk).update(today=today)


@contextmanager
def later(hours: float) -> Iterator[None]:
    """Have the application's now be some hours later."""
    from jaded_ledger.records.clock import now

    with at(now().astimezone(UTC) + timedelta(hours=hours)):
        yield
