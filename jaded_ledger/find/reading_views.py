"""A sentence's reading as the box shows it: what each part means, how many parcels are left after it, and which words are not used."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.language.reading import Part, Reading
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find.neighbors import matches_with, neighbors
from jaded_ledger.find.said import phrase_of, searches_of, text_of
from jaded_ledger.find.suggestions import Suggestion, trait_of


@dataclass(frozen=True)
class PartView:
    """A part of a sentence and what it means. ``count`` is how many parcels are left after it."""

    part: Part
    meaning: str
    count: int | None = None

    @property
    def is_open(self) -> bool:
        """Whether somebody still has to choose what it means."""
        return len(self.part.options) > 1


@dataclass(frozen=True)
class ReadingView:
    """A reading, what is clear first, then what is to be chosen. ``counts`` has for each search of ``searches_of`` how many match."""

    typed: str
    reading: Reading
    parts: tuple[PartView, ...]
    cannot: tuple[tuple[str, tuple[str, ...]], ...]
    counts: tuple[int | None, ...] | None = None
    neighbors: tuple[Suggestion, ...] = ()
    """What is near a reading that finds nothing."""


def reading_view(typed: str, reading: Reading) -> ReadingView:
    """Return a reading without counts."""
    parts = sorted(reading.parts, key=lambda part: len(part.options) > 1)
    near = tuple((what, tuple(CATALOGUE[key].label for key in keys)) for what, keys in reading.cannot)
    return ReadingView(typed, reading, tuple(PartView(part, ", ".join(map(phrase_of, part.options[0]))) for part in parts), near)


def counted(view: ReadingView, search: Search, scope: Scope) -> ReadingView:
    """Return a reading with its running counts under a search. All are sums over one tally, which is kept for the act that follows."""
    whole = tuple(matches_with(search, lines, scope) for lines, _ in searches_of(view.reading))
    parts: list[PartView] = []
    lines: list[str] = []
    for part in view.parts:
        if not part.is_open:
            lines += part.part.options[0]
            part = replace(part, count=matches_with(search, lines, scope))
        parts.append(part)
    near = tuple(
        Suggestion(trait_of(one.lines[0]), one.label, "instead", text_of(one.lines), f"{one.count:,}", is_sure=False)
        for one in neighbors(view.reading, search, scope)
    )
    return replace(view, parts=tuple(parts), counts=whole, neighbors=near)
