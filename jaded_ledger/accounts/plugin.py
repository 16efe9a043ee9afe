"""What accounts add to the program."""

from __future__ import annotations

from jaded_ledger.plugins import hookimpl


@hookimpl
def pages() -> dict[str, str]:
    return {"you": "accounts:you"}
