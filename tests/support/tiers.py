"""The two tiers of the suite. The quick one runs on each change; the thorough one has what takes long and finds little anew."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

from django.test import tag
from hypothesis import settings

THOROUGH, HOURS, DEEP = "thorough", "hours", "deep"

thorough = tag(THOROUGH)
"""Marks a test or a class of the thorough tier: ``bin/test --all`` and CI run it, ``bin/test`` does not."""

at_all_hours = tag(HOURS)
"""Marks a class that reads the clock: the thorough tier runs it at the hours of ``tests.support.hours`` as well."""

IS_DEEP = bool(os.environ.get("JADED_LEDGER_TEST_DEEP"))


def deep(examples: int) -> Callable[[Any], Any]:
    """Try a test of Hypothesis on so many examples in the thorough tier, and on a fifth of them, at least five, in the quick one."""
    tried = settings(max_examples=examples if IS_DEEP else max(5, examples // 5), deadline=None)
    return lambda test: tag(DEEP)(tried(test))
