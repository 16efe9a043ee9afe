"""Whether two delivery lines name one building, though clerks write streets in different ways. Common practice.

Lines are in the form of USPS Publication 28 already; what it lets stand differs still: FIRST ST and 1ST ST, ST CLAIR AVE and
SAINT CLAIR AVE, CAPSTAN without its suffix, 12-14 for a building with two doors.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache
from typing import NamedTuple


@cache
def _suffixes() -> frozenset[str]:
    """Return the street suffixes of Publication 28, appendix C1."""
    from scourgify.address_constants import STREET_TYPE_ABBREVIATIONS

    return frozenset(STREET_TYPE_ABBREVIATIONS.values())


_ONES = "ZEROTH FIRST SECOND THIRD FOURTH FIFTH SIXTH SEVENTH EIGHTH NINTH TENTH ELEVENTH TWELFTH".split()
_TEENS = "THIRTEENTH FOURTEENTH FIFTEENTH SIXTEENTH SEVENTEENTH EIGHTEENTH NINETEENTH".split()
_TENTHS = "TWENTIETH THIRTIETH FORTIETH FIFTIETH SIXTIETH SEVENTIETH EIGHTIETH NINETIETH".split()
_TENS = "TWENTY THIRTY FORTY FIFTY SIXTY SEVENTY EIGHTY NINETY".split()
_ORDINALS = {word: number for number, word in enumerate((*_ONES, *_TEENS))} | {
    word: 10 * number for number, word in enumerate(_TENTHS, start=2)
}
_SAINT = "SAINT"
_NUMBER = re.compile(r"^(\d+)(?:-(\d+))?$")


def _ordinal(number: int) -> str:
    ending = "TH" if number % 100 in (11, 12, 13) else {1: "ST", 2: "ND", 3: "RD"}.get(number % 10, "TH")
    return f"{number}{ending}"


def _numbered(words: list[str]) -> list[str]:
    """Return the words of a street's name with ordinals in figures.

    >>> _numbered(["TWENTY", "FIRST", "ST"]), _numbered(["TWENTY-FIRST", "ST"]), _numbered(["FIRST", "ST"])
    (['21ST', 'ST'], ['21ST', 'ST'], ['1ST', 'ST'])
    """
    found: list[str] = []
    tens = 0
    for word in " ".join(words).replace("-", " ").split():
        if word in _TENS:
            tens = 10 * (_TENS.index(word) + 2)
        elif word in _ORDINALS:
            found.append(_ordinal(tens + _ORDINALS[word]))
            tens = 0
        else:
            found += ([_TENS[tens // 10 - 2]] if tens else []) + [word]
            tens = 0
    return found


class _StreetLine(NamedTuple):
    """A delivery line in parts: the house numbers, the street's name, and its suffix where one is written."""

    low: int
    high: int
    number: str
    name: tuple[str, ...]
    suffix: str


@lru_cache(maxsize=65_536)
def _parts(line: str) -> _StreetLine:
    number, *words = line.split()
    words = _numbered(words)
    found = _NUMBER.match(number)
    low = int(found[1]) if found else -1
    high = int(found[2]) if found and found[2] and int(found[2]) > low else low
    place = max((at for at, word in enumerate(words) if at and word in _suffixes()), default=None)
    suffix = "" if place is None else words.pop(place)
    if words[:1] == ["ST"] and len(words) > 1:
        words[0] = _SAINT
    return _StreetLine(low, high, number, tuple(words), suffix)


def is_one_building(one: str, other: str) -> bool:
    """Return whether two delivery lines, without their units, name one building.

    >>> is_one_building("103 FIRST ST", "103 1ST ST"), is_one_building("12-14 OAK ST", "14 OAK"), is_one_building("12 OAK ST", "12 OAK CT")
    (True, True, False)
    """
    if one == other or not one or not other:
        return bool(one) and one == other
    here, there = _parts(one), _parts(other)
    if here.name != there.name or not here.name or (here.suffix and there.suffix and here.suffix != there.suffix):
        return False
    if here.low < 0 or there.low < 0:
        return here.number == there.number
    # The doors of one building are on one side of its street.
    is_inside = here.low <= there.low <= here.high or there.low <= here.low <= there.high
    return is_inside and here.low % 2 == there.low % 2
