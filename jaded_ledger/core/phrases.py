"""Phrases in running text: whole words in order, case-folded, punctuation as a break."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import product
from math import prod
from typing import NamedTuple

from jaded_ledger.core.words import plain, prose_line, tokens_of, words_of

BETWEEN = " | "
"""What stands between fields that are searched together, so that no phrase runs from one into the next."""
_ACRONYM = re.compile(r"(?:\w\.){2,}\w?\.?")
_WORD = re.compile(r"[^\W_]+\*?")
_SENTENCE_END = re.compile(r"[.!?](?=\s)|\n")
_LONGEST_SENTENCE = 160
_WIDER_BY = 2
LONGEST = 200
"""How many characters a phrase may have."""
MOST_ACRONYMS = 3
"""How many acronyms a phrase may have: each is written in two ways, and all spellings of the phrase are looked for."""


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


def check_phrase(phrase: str) -> None:
    """Raise ValueError for a phrase that can't be looked for; the message goes on after the phrase.

    >>> check_phrase("a.b. c.d. e.f. g.h.")
    Traceback (most recent call last):
    ValueError: has 4 acronyms written with dots; a phrase has at most 3; leave out the dots
    """
    acronyms = sum(1 for piece in phrase.split() if _ACRONYM.fullmatch(piece))
    if len(phrase) > LONGEST:
        raise ValueError(f"has {len(phrase):,} characters; a phrase has at most {LONGEST}")
    if acronyms > MOST_ACRONYMS:
        raise ValueError(f"has {acronyms} acronyms written with dots; a phrase has at most {MOST_ACRONYMS}; leave out the dots")
    if not expression(phrase):
        raise ValueError("has no word that could be looked for")


@lru_cache(maxsize=4096)
def expression(phrase: str) -> str:
    """Return a phrase as a regular expression over a line of words (``words.prose_line``), for Python and PostgreSQL alike.

    ``word*`` is a beginning; letters with dots between them are an acronym, however it is written. Blank when the
    phrase has no word.

    >>> expression("r.e.o."), expression("needs work*")
    (' (reo|r e o) ', ' needs work[^ ]* ')
    """
    pieces = []
    for piece in plain(phrase).split():
        found = list(_alternatives(piece))
        if found:
            pieces.append(found[0] if len(found) == 1 else f"({'|'.join(found)})")
    return f" {' '.join(pieces)} " if pieces else ""


@lru_cache(maxsize=4096)
def plain_texts(phrase: str) -> tuple[str, ...]:
    """Return texts of which a line of words holds one just when it has the phrase; none where only an expression can tell.

    Looking for a text is several times quicker than for an expression.

    >>> plain_texts("needs work*"), plain_texts("r.e.o. sale"), plain_texts("need* work")
    ((' needs work',), (' reo sale ', ' r e o sale '), ())
    """
    pieces = [found for piece in plain(phrase).split() if (found := list(_alternatives(piece)))]
    # Counted before they are written out: twenty acronyms have a million spellings.
    if prod(map(len, pieces)) > 2**MOST_ACRONYMS:
        return ()
    texts = [f" {' '.join(chosen)} " for chosen in product(*pieces)] if pieces else []
    # A beginning that ends the phrase may go on as it likes.
    texts = [text.removesuffix("[^ ]* ") for text in texts]
    return tuple(texts) if all(text.replace(" ", "").isalnum() for text in texts) else ()


def expression_in(phrase: str, fields: Iterable[int]) -> str:
    """Return a phrase as an expression over the words of several fields (with ``BETWEEN`` between them), in some of them only.

    >>> expression_in("as is", [1])
    '^([^|]*[|]){1}[^|]* as is '
    """
    wanted = expression(phrase)
    within = [f"^([^|]*[|]){{{field}}}[^|]*{wanted}" for field in fields] if wanted else []
    return within[0] if len(within) == 1 else "|".join(f"({one})" for one in within)


def hits(text: str, phrase: str) -> bool:
    """Return whether a text has a phrase.

    >>> hits("Sold as R.E.O., cash only", "r.e.o."), hits("STEREO stays", "r.e.o."), hits("no fire, no damage", "fire damage")
    (True, False, False)
    """
    wanted = expression(phrase)
    return bool(wanted) and re.search(wanted, prose_line(text)) is not None


class Hit(NamedTuple):
    """A phrase found in a text, from one character to before another."""

    start: int
    end: int
    phrase: str


class _Words:
    """A text's words in a line, and where in the text each stands."""

    def __init__(self, text: str) -> None:
        self.spans: list[tuple[int, int]] = []
        self._starts: dict[int, int] = {}
        self._ends: dict[int, int] = {}
        line = " "
        self.words: list[str] = []
        for word, start, end in tokens_of(text):
            self._starts[len(line)] = len(self.spans)
            line += word
            self._ends[len(line)] = len(self.spans)
            line += " "
            self.spans.append((start, end))
            self.words.append(word)
        self.line = line

    def places_of(self, phrase: str) -> Iterator[tuple[int, int]]:
        """Yield the first and the last word of each time that a phrase stands there."""
        wanted = expression(phrase)
        if wanted:
            # The space after it may be the one before the next.
            for match in re.finditer(f"{wanted[:-1]}(?= )", self.line):
                yield self._starts[match.start() + 1], self._ends[match.end()]


def found_in(text: str, phrases: Iterable[str]) -> list[Hit]:
    """Return where in a text some phrases stand, in order.

    >>> found_in("Sold AS-IS. R. E. O.!", ["as is", "r.e.o."])
    [Hit(start=5, end=10, phrase='as is'), Hit(start=12, end=19, phrase='r.e.o.')]
    """
    words = _Words(text)
    return sorted(Hit(words.spans[first][0], words.spans[last][1], phrase) for phrase in phrases for first, last in words.places_of(phrase))


def sentence_around(text: str, hit: Hit) -> tuple[int, int]:
    """Return from where to where the sentence of a hit goes; no more than some words around it where that is long."""
    ends = [match.end() for match in _SENTENCE_END.finditer(text)]
    start = max((end for end in ends if end <= hit.start), default=0)
    end = min((end for end in ends if end >= hit.end), default=len(text))
    if end - start > _LONGEST_SENTENCE:
        spare = max(0, _LONGEST_SENTENCE - (hit.end - hit.start)) // 2
        first, last = max(start, hit.start - spare), min(end, hit.end + spare)
        start = start if first == start else text.find(" ", first, hit.start) + 1 or hit.start
        end = end if last == end else max(text.rfind(" ", hit.end, last), hit.end)
    while start < end and text[start].isspace():
        start += 1
    while end > start and text[end - 1].isspace():
        end -= 1
    return start, end


def wider(text: str, hit: Hit) -> list[str]:
    """Return a hit with the words around it, within its sentence: what may be refused where a phrase means something else.

    >>> text = "There is room to grow vegetables."
    >>> wider(text, found_in(text, ["grow*"])[0])
    ['grow vegetables', 'to grow', 'to grow vegetables', 'room to grow', 'room to grow vegetables']
    """
    start, end = sentence_around(text, hit)
    sentence = text[start:end]
    words = _Words(sentence)
    line = words.words
    of_hit = [place for place, (first, last) in enumerate(words.spans) if first >= hit.start - start and last <= hit.end - start]
    first, last = of_hit[0], of_hit[-1]
    found = []
    for before in range(_WIDER_BY + 1):
        for after in (1, 0) if before == 0 else (0, 1):
            if (before or after) and first - before >= 0 and last + after < len(line):
                found.append(" ".join(line[first - before : last + after + 1]))
    return list(dict.fromkeys(found))
