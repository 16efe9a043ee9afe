"""Text compared as words: in Unicode's compatibility form (UAX 15, NFKC), case-folded, punctuation as a break."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from typing import NamedTuple

_BREAKS = re.compile(r"[\W_]+")
_SOFT_HYPHEN = "\u00ad"
_LETTER = r"(?:[^\W_]|[\u00ad\u0300-\u036f])"
_PROSE = re.compile(rf"(?<!{_LETTER})(?:(?:[^\W\d_]\.){{2,}}[^\W\d_]?|[a-zA-Z]\.? (?:[a-zA-Z]\.? )+[a-zA-Z])(?!{_LETTER})|{_LETTER}+")
"""A word, or an acronym: letters with dots or spaces between them. A letter may be written with marks of its own."""
_ACRONYM = re.compile(r"[^\W\d_][. ]")
_WORDS_OF_ONE_LETTER = ("a", "i")


def plain(text: str) -> str:
    """Return text in compatibility form, without soft hyphens: what looks the same is the same.

    >>> plain("ﬁxer-up\u00adper"), plain("cafe\u0301") == "caf\u00e9"
    ('fixer-upper', True)
    """
    return text if text.isascii() else unicodedata.normalize("NFKC", text.replace(_SOFT_HYPHEN, ""))


def folded(text: str) -> str:
    """Return text as it is compared when it must be the same: one case, single spaces.

    >>> folded("  OSTROM  Helen M & Peter ")
    'ostrom helen m & peter'
    """
    # A NUL is in no name, and databases refuse to be asked about one.
    return " ".join(plain(text).replace("\x00", "").casefold().split())


def words_of(text: str) -> tuple[str, ...]:
    """Return the words of a text in order.

    >>> words_of("O'Dell, Mary-Ann (TRS)")
    ('o', 'dell', 'mary', 'ann', 'trs')
    """
    return tuple(word for word in _BREAKS.split(plain(text).casefold()) if word)


def word_line(text: str) -> str:
    """Return the words with one space before, between and after, so that ``' x '`` finds a whole word.

    >>> word_line("BANK, of Alder Bay")
    ' bank of alder bay '
    """
    return f" {' '.join(words_of(text))} "


class Token(NamedTuple):
    """A word of running text, and from which character to before which other it stands there."""

    word: str
    start: int
    end: int


def tokens_of(text: str) -> Iterator[Token]:
    """Yield the words of running text in order; an acronym is one word, however it is written.

    >>> [token.word for token in tokens_of("An R.E.O., T L C a must; as-is")]
    ['an', 'reo', 'tlc', 'a', 'must', 'as', 'is']
    """
    for found in _PROSE.finditer(text):
        start, end = found.span()
        if not _ACRONYM.match(found[0]):
            yield from (Token(word, start, end) for word in words_of(found[0]))
            continue
        letters = words_of(found[0])
        # T L C A BIT: the last letter is a word.
        has_more = len(letters) > _FEWEST_SPACED and letters[-1] in _WORDS_OF_ONE_LETTER and " " in found[0] and text[end : end + 1] == " "
        if has_more:
            yield Token("".join(letters[:-1]), start, end - 2)
            yield Token(letters[-1], end - 1, end)
        else:
            yield Token("".join(letters), start, end)


_FEWEST_SPACED = 3
"""Fewer letters with spaces between them are no acronym."""


def prose_line(text: str) -> str:
    """Return the words of running text as ``word_line`` does, an acronym as one word.

    >>> prose_line("R. E. O. sale"), prose_line("A P.O.S.H. place")
    (' reo sale ', ' a posh place ')
    """
    return f" {' '.join(token.word for token in tokens_of(text))} "
