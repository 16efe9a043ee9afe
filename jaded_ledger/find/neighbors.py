"""Readings near one that finds nothing: the same sentence with one part wider, or meant otherwise, and how many each finds."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.language.reading import Reading
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, line_text, parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.said import open_ends, phrase_of, text_of

_MOST = 6
"""So many are counted."""


@dataclass(frozen=True)
class Neighbor:
    """A reading that finds some: its lines, what of it differs in words, and how many parcels match."""

    lines: tuple[str, ...]
    label: str
    count: int


def matches_with(search: Search, lines: Sequence[str], scope: Scope) -> int | None:
    """Return how many parcels match with a reading's lines added; None where they can't be asked, as of a ZIP that is not on record."""
    try:
        more = parse(text_of(dict.fromkeys(lines)))
        added = replace(search, counties=more.counties or search.counties, lines=(*search.lines, *more.lines))
        return balance(compile(added, scope)).matches
    except CriteriaError:
        return None


def neighbors(reading: Reading, search: Search, scope: Scope) -> list[Neighbor]:
    """Return the readings near one that finds nothing, those that find most first; none where it finds some, or nothing was left before."""
    if not reading.is_clear or matches_with(search, reading.lines, scope) != 0 or not matches_with(search, (), scope):
        return []
    found = []
    for _, (differs, lines) in zip(range(_MOST), _near(reading), strict=False):
        if count := matches_with(search, lines, scope):
            found.append(Neighbor(lines, ", ".join(map(phrase_of, differs)), count))
    return sorted(found, key=lambda one: -one.count)


def _near(reading: Reading) -> Iterator[tuple[Sequence[str], tuple[str, ...]]]:
    """Yield the lines that differ, and all lines, of each reading with one part changed."""
    for place, part in enumerate(reading.parts):
        before = [line for one in reading.parts[:place] for line in one.options[0]]
        after = [line for one in reading.parts[place + 1 :] for line in one.options[0]]
        for option in (*part.others, *((line_text(wider),) for wider in open_ends(part.options[0]))):
            yield option, (*before, *option, *after)
