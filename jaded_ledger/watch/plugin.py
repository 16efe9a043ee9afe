"""What the morning adds to the program."""

from __future__ import annotations

from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import NavigationPlace


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("morning", "Morning", "sunrise", "watch:morning", 60)]
