"""Django's runner, closing with the slowest tests, on request, and one plain line that says what ran."""

from __future__ import annotations

import shutil
import time
import unittest
from argparse import ArgumentParser
from typing import Any

from django.conf import settings
from django.test import LiveServerTestCase
from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner, iter_test_cases

from tests import demo


class Timed(unittest.TextTestResult):
    """A result that knows how long each test took, in seconds."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.took: dict[str, float] = {}
        self._began = 0.0

    def startTest(self, test: unittest.TestCase) -> None:
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.took[test.id()] = time.monotonic() - self._began

    def took_seconds(self, test: unittest.TestCase, seconds: float) -> None:
        """Note what a process beside this one measured."""
        self.took[test.id()] = seconds


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


class SideBySide(ParallelTestSuite):
    """Test classes over several processes, each with databases of its own: those that take longest first."""

    runner_class = RemoteRunner

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        # Those with a server, then the comparisons with whole files: no process is left with one of them when the other is done.
        self.subsuites.sort(key=lambda suite: min(self._rank(test) for test in suite))

    def _rank(self, test: unittest.TestCase) -> int:
        return 0 if isinstance(test, LiveServerTestCase) else 1 if type(test).__module__.startswith("tests.reference") else 2


class Runner(DiscoverRunner):
    """Count what passed and failed; clear away the demo's databases with the others."""

    parallel_test_suite = SideBySide

    def __init__(self, *args: Any, slowest: int = 0, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.slowest = slowest

    @classmethod
    def add_arguments(cls, parser: ArgumentParser) -> None:
        super().add_arguments(parser)
        parser.add_argument("--slowest", type=int, default=0, metavar="N", help="name the N slowest tests at the end")

    def build_suite(self, *args: Any, **kwargs: Any) -> unittest.TestSuite:
        suite = super().build_suite(*args, **kwargs)
        self.stands_on_demo = any(isinstance(test, demo.DemoTestCase | demo.DemoServerCase) for test in iter_test_cases(suite))
        return suite

    def setup_databases(self, **kwargs: Any) -> Any:
        old_config = super().setup_databases(**kwargs)
        if self.stands_on_demo:
            # Those of a run that was broken off may be half loaded.
            demo.drop_templates(self.parallel)
            if self.parallel > 1:
                demo.give_template_to(self.parallel)
        return old_config

    def get_resultclass(self) -> type[unittest.TextTestResult]:
        return super().get_resultclass() or Timed

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> unittest.TestResult:
        self.result = super().run_suite(suite, **kwargs)
        return self.result

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
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
        for test, seconds in sorted(getattr(self.result, "took", {}).items(), key=lambda item: -item[1])[: self.slowest]:
            print(f"{seconds:6.1f} s  {test}")
        print(f"{max(passed, 0)} passed, {len(wrong)} failed{skipped}", flush=True)
        return failures
