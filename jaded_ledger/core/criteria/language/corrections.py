"""What a team's words mean by their own correction: the words to the letter, and the criteria that somebody put in their place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from jaded_ledger.core.criteria.language.tokens import Token, lex


def words_key(words: str) -> str:
    """Return what words are compared by: case, the s of several, and how a figure is written don't count.

    >>> words_key("Over $3,500 in Taxes")
    'over 3500 in tax'
    """
    return " ".join(token.key for token in lex(words))


@dataclass(frozen=True)
class Correction:
    """Words, by their ``words_key``, and the lines of criteria that they mean."""

    words: str
    lines: tuple[str, ...]

    def spans(self, tokens: Sequence[Token]) -> Iterator[tuple[int, int]]:
        """Yield where its words stand in a sentence: from which token to which."""
        looked_for = self.words.split(" ")
        keys = [token.key for token in tokens]
        for start in range(len(keys) - len(looked_for) + 1):
            if keys[start : start + len(looked_for)] == looked_for:
                yield start, start + len(looked_for)
