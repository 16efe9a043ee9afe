"""Two searches beside each other: the lines that differ, and which parcels each finds that the other doesn't."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import QuerySet

from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.search import Line, Search
from jaded_ledger.find.answer import Answer
from jaded_ledger.records.models import ParcelFacts


def _reads(line: Line) -> str:
    return f"off: {line_phrase(line)}" if line.struck else line_phrase(line)


@dataclass(frozen=True)
class LinesThatDiffer:
    """The lines that only the one of two searches has, and those that only the other has; counties count as a line."""

    only_one: tuple[str, ...]
    only_other: tuple[str, ...]

    def __bool__(self) -> bool:
        return bool(self.only_one or self.only_other)


def _lines(search: Search) -> list[str]:
    counties = [f"only {', '.join(search.counties)}"] if search.counties else []
    return [*counties, *(_reads(line) for line in search.lines)]


def _without(lines: list[str], others: list[str]) -> tuple[str, ...]:
    left = list(others)
    found = []
    for line in lines:
        if line in left:
            left.remove(line)
        else:
            found.append(line)
    return tuple(found)


def lines_that_differ(one: Search, other: Search) -> LinesThatDiffer:
    """Return what lines two searches don't share; one that stands twice in the one has to stand twice in the other."""
    mine, theirs = _lines(one), _lines(other)
    return LinesThatDiffer(_without(mine, theirs), _without(theirs, mine))


@dataclass(frozen=True)
class Comparison:
    """The parcels in both of two searches, only in the one and only in the other, and the lines that differ."""

    both: QuerySet[ParcelFacts]
    only_one: QuerySet[ParcelFacts]
    only_other: QuerySet[ParcelFacts]
    lines: LinesThatDiffer


def compare(one: Answer, other: Answer) -> Comparison:
    """Compare two searches of one team. Raises CriteriaError for one that can't be asked."""
    mine, theirs = one.matches, other.matches
    in_one, in_other = mine.order_by().values("pk"), theirs.order_by().values("pk")
    return Comparison(
        mine.filter(pk__in=in_other),
        mine.exclude(pk__in=in_other),
        theirs.exclude(pk__in=in_one),
        lines_that_differ(one.asked.search, other.asked.search),
    )
