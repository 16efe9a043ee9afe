"""What a run that had to end did not come to: it comes first in the next run of a commit that follows."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Iterable
from contextlib import suppress

from tests.template import ROOT, folder_of_tests

_KEPT_COMMITS = 20


def _path():
    return folder_of_tests() / "not-reached.json"


def _commits() -> list[str]:
    done = subprocess.run(["git", "rev-list", "--max-count=200", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=False)
    return done.stdout.split()


def _noted() -> dict[str, list[str]]:
    with suppress(OSError, ValueError):
        return json.loads(_path().read_text())
    return {}


def not_reached_before() -> list[str]:
    """Return the classes that the newest run of this commit, or of one before it, did not come to."""
    noted = _noted()
    return next((noted[commit] for commit in _commits() if commit in noted), [])


def note_not_reached(names: Iterable[str]) -> None:
    """Note the classes that a run of this commit did not come to; none is noted as well."""
    if commits := _commits():
        noted = {commit: left for commit, left in _noted().items() if commit != commits[0]}
        kept = dict(list(noted.items())[-_KEPT_COMMITS:]) | {commits[0]: sorted(names)}
        _path().parent.mkdir(parents=True, exist_ok=True)
        _path().write_text(json.dumps(kept, indent=1))
