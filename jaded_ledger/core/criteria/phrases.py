"""Phrases in running text: whole words in order, case-folded, punctuation as a break."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from jaded_ledger.core.words import word_line, words_of

BETWEEN = " | "
"""What stands between fields that are searched together, so that no phrase runs from one into the next."""
_ACRONYM = re.compile(r"(?:\w\.){2,}\w?\.?")
_WORD = re.compile(r"[^\W_]+\*?")


def _alternatives(piece: str) -> Iterator[str]:
    """Yield the expressions that a piece of a phrase, without spaces, stands for in a line of words."""
    if _ACRONYM.fullmatch(piece):
        letters = words_of(piece)
        yield "".join(letters)
        yield " ".join(letters)
        return
    words = [f"{word[:-1]}[^ ]*" if word.endswith("*") else word for word in _WORD.findall(piece.casefold())]
    if words:
        yield " ".join(words)


@lru_cache(maxsize=4096)
def expression(phrase: str) -> str:
    """Return a phrase as a regular expression over a line of words (``words.word_line``), for Python and PostgreSQL alike.

    ``word*`` is a beginning; letters with dots between them are an acronym, however it is written. Blank when the
    phrase has no word.

    >>> expression("p.o.s."), expression("needs work*")
    (' (pos|p o s) ', ' needs work[^ ]* ')
    """
    pieces = []
    for piece in phrase.split():
        found = list(_alternatives(piece))
        if found:
            pieces.append(found[0] if len(found) == 1 else f"({'|'.join(found)})")
    return f" {' '.join(pieces)} " if pieces else ""


def hits(text: str, phrase: str) -> bool:
    """Return whether a text has a phrase.

    >>> hits("Sold as P.O.S., cash only", "p.o.s."), hits("DEPOSIT required", "p.o.s."), hits("room to grow vegetables", "grow op")
    (True, False, False)
    """
    wanted = expression(phrase)
    return bool(wanted) and re.search(wanted, word_line(text)) is not None
