"""Django's runner: two tiers, the longest classes first, what each app took, and one plain line at the end that says what ran."""

from __future__ import annotations

import os
import shutil
import statistics
import time
import unittest
from argparse import ArgumentParser
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.test import LiveServerTestCase
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner, _run_subsuite, iter_test_cases

from tests.support import budget, demo, seconds, unreached
from tests.support.hours import at_each_hour
from tests.support.tiers import DEEP, HOURS, THOROUGH

_deadline: float | None = None
"""The moment, by the monotonic clock, from which no class begins; set before other processes start."""

_told_pace_at = 0.0
"""When this process told its pace last, by the monotonic clock."""


class Timed(unittest.TextTestResult):
    """A result that knows how many seconds each test and each class took, and which classes were not reached."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}
        self.classes: dict[type[unittest.TestCase], float] = {}
        self.not_reached: list[str] = []
        self.paces: list[float] = []
        self._began = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.took_seconds(test, time.monotonic() - self._began)

    def took_seconds(self, test: unittest.TestCase, taken: float) -> None:
        self.took[test.id()] = taken

    def took_class(self, test: unittest.TestCase, taken: float) -> None:
        """Note what a process beside this one measured of a test's class, fixtures included."""
        self.classes[type(test)] = taken

    def worked_at(self, test: unittest.TestCase, pace: float) -> None:
        """Note what a process needed for the fixed piece of work, right after a class."""
        self.paces.append(pace)

    def did_not_reach(self, test: unittest.TestCase) -> None:
        self.not_reached.append(seconds.name_of(type(test)))


class RemoteTimed(RemoteTestResult):
    """What a process tells of its tests, with how long each took."""

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.events.append(("took_seconds", self.test_index, time.monotonic() - self._began))


class RemoteRunner(RemoteTestRunner):
    resultclass = RemoteTimed


def _run_in_time(given: tuple[Any, ...]) -> tuple[int, list[Any]]:
    """Run a class of tests in this process, unless the time is over; tell now and then how fast the machine is."""
    global _told_pace_at
    began = time.monotonic()
    if _deadline is not None and began > _deadline:
        return given[1], [("did_not_reach", 0)]
    index, events = _run_subsuite(given)
    ended = time.monotonic()
    events = [*events, ("took_class", 0, ended - began)]
    if ended - _told_pace_at > budget.BETWEEN:
        events.append(("worked_at", 0, budget.pace()))
        _told_pace_at = ended
    return index, events


class SideBySide(ParallelTestSuite):
    """Test classes over several processes, each with databases of its own: those not reached before, then those that take longest."""

    runner_class = RemoteRunner
    run_subsuite = _run_in_time

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        known, first = seconds.last_seconds(), set(unreached.not_reached_before())

        def rank(suite: unittest.TestSuite) -> tuple[bool, float]:
            case = type(next(iter_test_cases(suite)))
            name = seconds.name_of(case)
            # One that has never run may be long, most of all one with a server.
            return name not in first, -known.get(name, 60.0 if issubclass(case, LiveServerTestCase) else 10.0)

        self.subsuites.sort(key=rank)


class Runner(DiscoverRunner):
    """Run one tier or both, in the time that is given, and tell what ran."""

    parallel_test_suite = SideBySide

    def __init__(self, *args: Any, slowest: int = 0, tier: str = "", minutes: float | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.slowest, self.tier, self.minutes = slowest, tier, minutes
        self.begins_from_template = "JADED_LEDGER_TEST_TEMPLATE" in os.environ
        if self.begins_from_template:
            self.keepdb = True
        if tier == "quick":
            self.exclude_tags = {*(self.exclude_tags or ()), THOROUGH}

    @classmethod
    def add_arguments(cls, parser: ArgumentParser) -> None:
        super().add_arguments(parser)
        parser.add_argument("--slowest", type=int, default=0, metavar="N", help="name the N slowest tests at the end")
        parser.add_argument("--tier", choices=("quick", "thorough", "all"), default="", help="which tests to run; without it all but hours")
        parser.add_argument("--minutes", type=float, help="begin no class after so many minutes, and name those that were not reached")

    def load_tests_for_label(self, label: str, discover_kwargs: dict[str, Any]) -> unittest.TestSuite:
        return self.test_suite(self._of_tier(list(iter_test_cases(super().load_tests_for_label(label, discover_kwargs)))))

    def _of_tier(self, tests: list[unittest.TestCase]) -> Iterator[unittest.TestCase]:
        yield from (test for test in tests if self.tier != "thorough" or {THOROUGH, DEEP} & _tags(test))
        if self.tier in ("thorough", "all"):
            yield from at_each_hour(test for test in tests if HOURS in _tags(test))

    def build_suite(self, *args: Any, **kwargs: Any) -> unittest.TestSuite:
        suite = super().build_suite(*args, **kwargs)
        self.stands_on_demo = any(isinstance(test, demo.DemoTestCase | demo.DemoServerCase) for test in iter_test_cases(suite))
        return suite

    def setup_databases(self, **kwargs: Any) -> Any:
        old_config = super().setup_databases(**kwargs)
        if self.stands_on_demo:
            if not self.begins_from_template:
                # Those of a run that was broken off may be half loaded.
                demo.drop_templates(self.parallel)
            if self.parallel > 1:
                demo.give_template_to(self.parallel)
        return old_config

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or Timed

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> unittest.TestResult:
        global _deadline
        if self.minutes is not None:
            _deadline = time.monotonic() + 60 * self.minutes
        began = time.monotonic()
        self.result = super().run_suite(suite, **kwargs)
        self.took_minutes = (time.monotonic() - began) / 60
        return self.result

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        self.cpu = budget.cpu_seconds() if self.tier == "quick" else 0.0
        # A cluster that begins from a template is thrown away whole.
        if not self.begins_from_template:
            if self.stands_on_demo:
                demo.drop_templates(self.parallel)
            super().teardown_databases(old_config, **kwargs)
        shutil.rmtree(settings.READING_COPIES, ignore_errors=True)

    def run_tests(self, test_labels: list[str], **kwargs: Any) -> int:
        failures = super().run_tests(test_labels, **kwargs)
        wrong = {
            # A failed part of a test counts as that test.
            getattr(test, "test_case", test).id()
            for test, _ in [*self.result.failures, *self.result.errors]
        } | {test.id() for test in self.result.unexpectedSuccesses}
        passed = self.result.testsRun - len(wrong) - len(self.result.skipped)
        skipped = f", {len(self.result.skipped)} skipped" if self.result.skipped else ""
        failures += self._tell(self.result) if isinstance(self.result, Timed) else 0
        for name in sorted(wrong):
            print(f"Failed: {name}")
        print(f"{max(passed, 0)} passed, {len(wrong)} failed{skipped}", flush=True)
        return failures

    def _tell(self, result: Timed) -> int:
        """Print what was slow, what each app took, what was not reached and whether the budget holds; return how many faults it has."""
        for test, taken in sorted(result.took.items(), key=lambda item: -item[1])[: self.slowest]:
            print(f"{taken:6.1f} s  {test}")
        if not self.tier:
            return 0
        taken_by = {seconds.name_of(case): taken for case, taken in result.classes.items()}
        seconds.save_seconds(taken_by)
        for app, taken, count in seconds.by_app(taken_by, {seconds.name_of(case): case.__module__ for case in result.classes}):
            print(f"{taken:6.0f} s  {app} ({count} classes)")
        for name in result.not_reached:
            print(f"Not reached: {name}")
        if self.tier != "quick":
            unreached.note_not_reached(result.not_reached)
            print(f"{self.tier} tier: {self.took_minutes:.1f} minutes")
            return 0
        pace = statistics.median(result.paces or [budget.pace()])
        print(f"quick tier: {self.took_minutes:.1f} minutes, {self.cpu:,.0f} CPU seconds at a pace of {pace:.3f}")
        found = budget.faults(self.cpu, self.took_minutes, pace, budget.lines()[-1])
        for fault in found:
            print(fault)
        return len(found) if os.environ.get("CI") else 0


def _tags(test: unittest.TestCase) -> set[str]:
    method = getattr(test, getattr(test, "_testMethodName", ""), test)
    return {*getattr(test, "tags", ()), *getattr(method, "tags", ())}
