"""How values stand in the searchable row: whole dollars, rounded figures, the codes of declared choices."""

from __future__ import annotations

from decimal import Decimal
from typing import TypeVar

from jaded_ledger.core.criteria.catalogue.choices import key_of
from jaded_ledger.core.criteria.traits import Choice

Columns = dict[str, object]
Known = TypeVar("Known")
_MOST = 2_147_483_647
"""A column of whole numbers holds no more."""


class Codes(dict[str | None, int | None]):
    """The codes of declared choices by a vocabulary's words, each word spelt as a key once: millions are looked up."""

    def __init__(self, of: tuple[Choice, ...]) -> None:
        super().__init__({None: None, "": None})
        self._of = {choice.key: choice.code for choice in of}

    def __missing__(self, word: str) -> int:
        self[word] = self._of[key_of(word)]
        return self._of[key_of(word)]


def whole_dollars(amount: Decimal | None) -> int | None:
    """Return an amount as facts keep it."""
    return None if amount is None else max(-_MOST, min(_MOST, round(amount)))


def rounded(number: Decimal | float | None, places: int = 2) -> float | None:
    """Return a figure to so many places, as facts keep it."""
    return None if number is None else round(float(number), places)


def is_there(row: object, *, on_file: bool) -> bool | None:
    """Return whether there is such a row: that there is none is known only where its kind of record is on file."""
    return True if row else (False if on_file else None)


def first_known(*said: Known | None) -> Known | None:
    """Return the first value that is known; None where none is."""
    return next((one for one in said if one is not None), None)


def ratio(part: Decimal | None, whole: Decimal | None) -> float | None:
    """Return a part in percentage points of a whole; None where either is unknown, or the whole is 0."""
    return None if part is None or not whole else rounded(part / whole * 100)
