"""The year of a building's roof, furnace, water heater and electrical, as permits and listings' remarks tell it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from jaded_ledger.core.deals.roll import SystemKind

_WORDS = {
    SystemKind.ROOF: r"re-?roof\w*|roof\w*",
    SystemKind.FURNACE: r"furnace|boiler|hvac|heating|heat pump",
    SystemKind.WATER_HEATER: r"water heater|hot water (?:heater|tank)",
    SystemKind.ELECTRICAL: r"electric\w*|rewir\w*|wiring|breaker panel|service panel",
}
_KINDS = {kind: re.compile(rf"(?i)\b(?:{words})\b") for kind, words in _WORDS.items()}
_YEAR = r"((?:19|20)\d\d)"
_SAID = {
    kind: re.compile(rf"(?i)\b(?:(?:{words})[^.;\d]{{0,30}}\b{_YEAR}\b|{_YEAR}[^.;\d,]{{0,20}}\b(?:{words})\b)")
    for kind, words in _WORDS.items()
}


@dataclass(frozen=True)
class SystemYear:
    """A system's year and what tells it."""

    kind: SystemKind
    year: int
    said: str


def system_years(permits: Iterable[tuple[date, str]], remarks: Iterable[tuple[date, str]]) -> dict[SystemKind, SystemYear]:
    """Return the newest year that is told of each system: by a permit for it, or by a year beside its name in a listing's remarks.

    A year that lies after the day it was written on is none.

    >>> found = system_years([(date(2019, 6, 1), "Reroof, asphalt")], [(date(2024, 3, 1), "New furnace 2021, water heater 2030")])
    >>> [(one.kind.value, one.year) for one in found.values()]
    [('roof', 2019), ('furnace', 2021)]
    """
    found: dict[SystemKind, SystemYear] = {}
    for day, text in permits:
        for kind, pattern in _KINDS.items():
            if pattern.search(text) and not (kind is SystemKind.FURNACE and _KINDS[SystemKind.WATER_HEATER].search(text)):
                _take(found, SystemYear(kind, day.year, "permit"))
    for day, text in remarks:
        for kind, pattern in _SAID.items():
            for match in pattern.finditer(text):
                year = int(match[1] or match[2])
                if year <= day.year:
                    _take(found, SystemYear(kind, year, "listing"))
    return found


def _take(found: dict[SystemKind, SystemYear], one: SystemYear) -> None:
    if one.kind not in found or one.year > found[one.kind].year:
        found[one.kind] = one
