"""What Find adds to the program."""

from __future__ import annotations

from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import NavigationPlace


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("find", "Find", "funnel", "find:find", 10)]


@hookimpl
def pages() -> dict[str, str]:
    return {"find": "find:find"}
