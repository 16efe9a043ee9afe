"""How common a word is as a given name and as a surname.

From the lists of the 1990 census (U.S. Census Bureau, *Frequently Occurring Names in the U.S.*, 1995), which the package
``names`` carries: 5,494 given names and 88,799 surnames with their shares in percent.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import names

RARE = 0.0005
"""The share taken for a word that a list lacks, or that it has with 0.000 percent."""


@cache
def _shares(*lists: str) -> dict[str, float]:
    found: dict[str, float] = {}
    for one in lists:
        for line in Path(names.FILES[one]).read_text().splitlines():
            name, share, *_ = line.split()
            found[name.casefold()] = found.get(name.casefold(), 0.0) + max(float(share), RARE)
    return found


def as_given(word: str) -> float:
    """Return how many in a hundred bear a word as their given name; 0 for a word that is not on the list."""
    return _shares("first:male", "first:female").get(word.casefold(), 0.0)


def as_surname(word: str) -> float:
    """Return how many in a hundred bear a word as their surname; 0 for a word that is not on the list.

    >>> as_given("james") > as_surname("james"), as_given("smith")
    (True, 0.0)
    """
    return _shares("last").get(word.casefold(), 0.0)
