"""Test classes that read the clock, run at hours and on days unlike others, with the machine in another time zone than the team."""

from __future__ import annotations

import os
import sys
import time
import unittest
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import datetime
from zoneinfo import ZoneInfo

from django.conf import settings

from tests.support.clock import machine_at

HOURS = (
    # Just after midnight as clocks are put forward, the minute before a morning on a year's last day, noon on a leap day, and the
    # last minute of the day on which clocks are put back.
    "2027-03-14 00:30", "2026-12-31 06:59", "2028-02-29 12:00", "2027-11-07 23:59",
)  # fmt: skip
"""In the team's time zone. The days are those of ``bin/dates``."""
ELSEWHERE = "Pacific/Kiritimati"
"""The machine's zone meanwhile, 14 hours ahead of UTC: a day read from the machine's own zone is mostly tomorrow."""


@contextmanager
def _machine_in(zone: str) -> Iterator[None]:
    before = os.environ.get("TZ", "")
    os.environ["TZ"] = zone
    time.tzset()
    try:
        yield
    finally:
        os.environ["TZ"] = before
        time.tzset()


def _at(case: type[unittest.TestCase], hour: str) -> type[unittest.TestCase]:
    """Return a class of the same tests at an hour. It is put into its module, where processes beside this one find it."""
    moment = datetime.strptime(hour, "%Y-%m-%d %H:%M").replace(tzinfo=ZoneInfo(settings.TIME_ZONE))
    name = f"{case.__name__}_{moment:%Y_%m_%d_at_%H%M}"

    def set_up_class(cls: type[unittest.TestCase]) -> None:
        cls.enterClassContext(_machine_in(ELSEWHERE))
        cls.enterClassContext(machine_at(moment))
        super(made, cls).setUpClass()

    made = type(name, (case,), {"setUpClass": classmethod(set_up_class), "__module__": case.__module__, "__qualname__": name})
    setattr(sys.modules[case.__module__], name, made)
    return made


def at_each_hour(tests: Iterable[unittest.TestCase]) -> Iterator[unittest.TestCase]:
    """Yield tests once more for each of the hours."""
    made: dict[tuple[type[unittest.TestCase], str], type[unittest.TestCase]] = {}
    for test in tests:
        for hour in HOURS:
            key = (type(test), hour)
            if key not in made:
                made[key] = _at(*key)
            yield made[key](test._testMethodName)
