"""A sentence's reading as the box shows it: what each part means, how many parcels are left after it, and which words are not used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.language.reading import Part, Reading
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.said import phrase_of, searches_of, text_of


@dataclass(frozen=True)
class PartView:
    """A part of the sentence: its words, and what they mean or may mean. ``count`` is how many parcels are left after it."""

    words: str
    meanings: tuple[str, ...]
    count: int | None = None

    @property
    def is_open(self) -> bool:
        """Whether somebody still has to choose what it means."""
        return len(self.meanings) > 1


@dataclass(frozen=True)
class ReadingView:
    """A reading. ``counts`` has for each search that it may mean, in the order of ``searches_of``, how many parcels match."""

    typed: str
    parts: tuple[PartView, ...]
    unused: tuple[str, ...]
    cannot: tuple[tuple[str, tuple[str, ...]], ...]
    counts: tuple[int | None, ...] = ()
    is_counted: bool = False

    @property
    def is_clear(self) -> bool:
        """Whether every word is used and nothing is left to be chosen."""
        return bool(self.parts) and not self.unused and not self.cannot and not any(part.is_open for part in self.parts)

    @property
    def adds(self) -> int:
        """How many lines it adds."""
        return len(self.parts)


def _phrase(lines: Sequence[str]) -> str:
    return ", ".join(map(phrase_of, lines))


def _decided_first(parts: Sequence[Part]) -> list[Part]:
    return sorted(parts, key=lambda part: len(part.options) > 1)


def reading_view(typed: str, reading: Reading) -> ReadingView:
    """Return a reading without counts: what is clear first, then what is to be chosen."""
    parts = tuple(PartView(part.words, tuple(map(_phrase, part.options))) for part in _decided_first(reading.parts))
    near = tuple((what, tuple(CATALOGUE[key].label for key in keys)) for what, keys in reading.cannot)
    return ReadingView(typed, parts, reading.unused, near)


def _added(search: Search, lines: Sequence[str]) -> Search:
    """Return a search with a reading's lines added. Raises CriteriaError."""
    more = parse(text_of(dict.fromkeys(lines)))
    return replace(search, counties=more.counties or search.counties, lines=(*search.lines, *more.lines))


def _matches(search: Search, lines: Sequence[str], scope: Scope) -> int | None:
    """Return how many parcels match with some lines added; None where they can't be asked, as of a ZIP that is not on record."""
    try:
        return balance(compile(_added(search, lines), scope)).matches
    except CriteriaError:
        return None


def counted(view: ReadingView, reading: Reading, search: Search, scope: Scope) -> ReadingView:
    """Return a reading with its running counts under a search. All are sums over one tally, which is kept for the act that follows."""
    decided = [part for part in _decided_first(reading.parts) if len(part.options) == 1]
    lines = [line for part in decided for line in part.options[0]]
    # What no record tells is not offered, and counties alone are chosen at the ledger's head.
    offered = [] if reading.cannot else [lines for lines, found in searches_of(reading) if found.lines]
    whole = [_matches(search, alternative, scope) for alternative in offered]
    parts, so_far = list(view.parts), 0
    for place, part in enumerate(decided):
        so_far += len(part.options[0])
        parts[place] = replace(parts[place], count=_matches(search, lines[:so_far], scope))
    return replace(view, parts=tuple(parts), counts=tuple(whole), is_counted=True)
