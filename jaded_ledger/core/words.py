"""Text compared as words: case-folded, punctuation as a break."""

from __future__ import annotations

import re

_BREAKS = re.compile(r"[\W_]+")


def folded(text: str) -> str:
    """Return text as it is compared when it must be the same: one case, single spaces.

    >>> folded("  OSTROM  Helen M & Peter ")
    'ostrom helen m & peter'
    """
    # A NUL is in no name, and databases refuse to be asked about one.
    return " ".join(text.replace("\x00", "").casefold().split())


def words_of(text: str) -> tuple[str, ...]:
    """Return the words of a text in order.

    >>> words_of("O'Dell, Mary-Ann (TRS)")
    ('o', 'dell', 'mary', 'ann', 'trs')
    """
    return tuple(word for word in _BREAKS.split(text.casefold()) if word)


def word_line(text: str) -> str:
    """Return the words with one space before, between and after, so that ``' x '`` finds a whole word.

    >>> word_line("BANK, of Alder Bay")
    ' bank of alder bay '
    """
    return f" {' '.join(words_of(text))} "
