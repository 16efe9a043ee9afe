"""Patterns over tokens: how a row of a table of meanings is written, and where it fits in a sentence.

A pattern is words with a space between; ``(a|b)`` is either, ``[a]`` may be missing. ``<A>`` is an amount, ``<N>`` a bare figure, ``<Y>`` a
year, ``<P>`` a period, ``<W>`` up to four words of a name on record and ``<K>`` up to eight of a name that the team gave.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from jaded_ledger.core.criteria.language.amounts import AFTER, AMOUNT, NUMBER, PERIOD
from jaded_ledger.core.criteria.language.tokens import Token, is_hedge, one

_NAME_WORD = r"(?:[a-z][\w]*|#[yz]?|@parcel)"
_SLOTS = {
    "<A>": f"(?P<A>{AMOUNT})",
    "<$>": f"(?P<A>{AMOUNT})",
    "<S>": f"(?: (?P<S>{AFTER}))?",
    "<N>": f"(?P<N>{NUMBER})",
    "<M>": f"(?P<M>{NUMBER})",
    "<Y>": "(?P<Y>#y)",
    "<D>": "(?P<D>#d)",
    "<E>": "(?P<E>#d)",
    "<P>": f"(?P<P>{PERIOD})",
    "<F>": f"(?P<F>{NUMBER})",
    "<T>": r"(?P<T>[a-z]+(?: [a-z]+)?)",
    "<Z>": r"(?P<Z>[a-z]{1,2}(?: - | )?#|[a-z]{1,3}#?[0-9]?)",
    "<C>": "(?P<C>(?:poor|fair|average|good|excellent)(?: or (?:poor|fair|average|good|excellent))*)",
    "<W>": rf"(?P<W>{_NAME_WORD}(?: {_NAME_WORD}){{0,3}})",
    "<K>": rf"(?P<W>{_NAME_WORD}(?:(?: [,:;/+-])* {_NAME_WORD}){{0,7}})",
}
_PARTS = re.compile(r"<[A-Z$]>|[\[\]]|[a-z]+|.", re.DOTALL)


def _expression(pattern: str) -> str:
    # Of either one that begins with the other, the longer is looked for first.
    written = re.sub(r"\(([^()]*)\)", lambda found: f"({'|'.join(sorted(found[1].split('|'), key=len, reverse=True))})", pattern)
    written = re.sub(r"\[([^\[\]()]*\|[^\[\]()]*)\]", r"[(\1)]", written).replace(" [", "[ ")
    parts = []
    for part in _PARTS.findall(written):
        if part == "<S>" and _SLOTS[part] in parts:
            parts.append(_SLOTS[part].replace("(?P<S>", "(?P<S2>"))
        elif part in _SLOTS:
            parts.append(_SLOTS[part])
        elif part == "[":
            parts.append("(?:")
        elif part == "]":
            parts.append(")?")
        elif part == "(":
            parts.append("(?:")
        elif part[0].isalpha() and not (parts and parts[-1] in "#@"):
            parts.append(one(part))
        else:
            parts.append(r"\$" if part == "$" else part)
    return "".join(parts)


@dataclass(frozen=True)
class Found:
    """Where a pattern fits: from which token to which, and the tokens of its slots."""

    start: int
    end: int
    slots: dict[str, tuple[int, int]]


@dataclass(frozen=True)
class Pattern:
    """A pattern, compiled when it is first looked for."""

    text: str

    @cached_property
    def _compiled(self) -> re.Pattern[str]:
        return re.compile(rf"(?<= ){_expression(self.text)}(?= )")

    @cached_property
    def words(self) -> frozenset[str]:
        """The words that are written in it."""
        return frozenset(one(word) for word in re.findall(r"(?<![<#@\w])[a-z]+", self.text))

    @cached_property
    def needed(self) -> frozenset[str]:
        """The words without which it can't fit: those in no choice, and in nothing that may be missing."""
        certain = re.sub(r"\[[^\]]*\]|\([^()]*\)|<[A-Z$]>", " ", re.sub(r"\([^()]*\([^()]*\)[^()]*\)", " ", self.text))
        return frozenset(one(word) for word in re.findall(r"(?<![#@\w])[a-z]+", certain))

    def search(self, line: Line) -> Iterator[Found]:
        """Yield where it fits in a sentence, from left to right."""
        place = 0
        while match := self._compiled.search(line.text, place):
            place = match.start() + 1
            yield Found(
                line.token_at[match.start()], line.token_after[match.end()],
                {
                    name: (line.token_at[match.start(name)], line.token_after[match.end(name)])
                    for name in match.re.groupindex
                    if match[name] is not None
                },
            )  # fmt: skip


class Line:
    """A sentence's tokens as one text, with a space around each, and which token stands at each place of it."""

    def __init__(self, tokens: Sequence[Token]) -> None:
        self.text, self.token_at, self.token_after = " ", {}, {}
        for place, token in enumerate(tokens):
            if is_hedge(tokens, place):
                continue
            self.token_at[len(self.text)] = place
            self.text += token.text
            self.token_after[len(self.text)] = place + 1
            self.text += " "
