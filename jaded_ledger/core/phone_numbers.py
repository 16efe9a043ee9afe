"""Phone numbers of the North American Numbering Plan (ITU-T E.164, country code 1) as people write and dial them."""

from __future__ import annotations

import re
from enum import StrEnum

_E164 = re.compile(r"\+1([0-9]{3})([0-9]{3})([0-9]{4})")


class Dialing(StrEnum):
    """How a file writes phone numbers."""

    NATIONAL = "national"
    E164 = "e164"

    @property
    def words(self) -> str:
        return {Dialing.NATIONAL: "(414) 555-0113", Dialing.E164: "+14145550113"}[self]


def national(number: str) -> str:
    """Return a number as people write it; one of another country as it is.

    >>> national("+14145550113"), national("+4930123456")
    ('(414) 555-0113', '+4930123456')
    """
    found = _E164.fullmatch(number)
    return f"({found[1]}) {found[2]}-{found[3]}" if found else number


def written(number: str, dialing: Dialing) -> str:
    """Return a number in E.164 as a file writes it."""
    return national(number) if dialing is Dialing.NATIONAL else number
