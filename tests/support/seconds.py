"""How long each class of tests took last time: the longest begin first, so that no process is left with one when the others are done."""

from __future__ import annotations

import ast
import json
import sys
import unittest
from collections import Counter, defaultdict
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
_LAST_RUN = ROOT / "var" / "test-seconds.json"
_SHIPPED = ROOT / "tests" / "seconds.json"
"""Those of a run that somebody committed, for a checkout that has run nothing yet."""
_EVERYWHERE = {"core", "records", "accounts", "web", "plugins", "demo"}
"""Packages that tests of every app import."""


def name_of(case: type[unittest.TestCase]) -> str:
    return f"{case.__module__}.{case.__qualname__}"


def last_seconds() -> dict[str, float]:
    """Return the seconds of each class by its dotted name."""
    known: dict[str, float] = {}
    for path in (_SHIPPED, _LAST_RUN):
        with suppress(OSError, ValueError):
            known |= json.loads(path.read_text())
    return known


def save_seconds(seconds: Mapping[str, float]) -> None:
    """Note what classes took, beside what is known of others."""
    _LAST_RUN.parent.mkdir(exist_ok=True)
    known = last_seconds() | {name: round(taken, 1) for name, taken in seconds.items()}
    _LAST_RUN.write_text(json.dumps(dict(sorted(known.items())), indent=0))


def app_of(module: str) -> str:
    """Return the app that a module of tests is about: the one it imports most from, or the folder of tests that need no app."""
    folder = module.split(".")[1]
    if folder != "apps":
        return folder
    tree = ast.parse(Path(sys.modules[module].__file__ or "").read_text())
    imported = [node.module for node in ast.walk(tree) if isinstance(node, ast.ImportFrom) and node.module]
    named = Counter(one.split(".")[1] for one in imported if one.startswith("jaded_ledger.") and one.count(".") > 0)
    apps = [(count, app) for app, count in named.items() if app not in _EVERYWHERE] or [(count, app) for app, count in named.items()]
    return max(apps, default=(0, folder))[1]


def by_app(seconds: Mapping[str, float], modules: Mapping[str, str]) -> list[tuple[str, float, int]]:
    """Return each app with its seconds and how many classes it has, the longest first; ``modules`` tells each class's module."""
    taken: dict[str, list[float]] = defaultdict(list)
    for name, of_class in seconds.items():
        taken[app_of(modules[name])].append(of_class)
    return sorted(((app, sum(each), len(each)) for app, each in taken.items()), key=lambda row: -row[1])
