"""Searches changed as somebody changes them in the ledger."""

from __future__ import annotations

from dataclasses import replace

from jaded_ledger.core.criteria.search import Search


def struck(search: Search, place: int) -> Search:
    return search.with_line_at(place, replace(search.lines[place], struck=True))


def moved(search: Search, place: int, by: int) -> Search:
    lines = list(search.lines)
    lines.insert(place + by, lines.pop(place))
    return replace(search, lines=tuple(lines))
