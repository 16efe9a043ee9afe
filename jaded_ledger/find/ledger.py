"""The ledger of a page of Find, put together: each line with what it did."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any
from urllib.parse import quote, urlencode

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import line_phrase, value_phrase
from jaded_ledger.core.criteria.search import AnyOf, Criterion, Exactly, Line, Members, Search, Value
from jaded_ledger.core.criteria.text import CriteriaError, format, line_text
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.asked_values import asked_values
from jaded_ledger.find.balance import LineBalance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.fill import mostly_blank
from jaded_ledger.find.listing_statuses import status_counts
from jaded_ledger.find.rows_by_hand import is_by_hand
from jaded_ledger.find.team_traits import team_traits
from jaded_ledger.records.models import County, earliest_days
from jaded_ledger.records.versions import facts_version


@dataclass(frozen=True)
class Part:
    """One criterion as it reads on its line."""

    label: str
    phrase: str
    holds: tuple[tuple[str, str], ...] = ()
    """The words in it that stand for several values, each with those."""


@dataclass(frozen=True)
class LedgerLine:
    """One line of the ledger: how it reads, and what it did (None when the search can't be asked)."""

    place: int
    parts: tuple[Part, ...]
    text: str
    struck: bool
    is_group: bool
    can_keep_unknown: bool
    is_refused: bool
    asks: bool
    is_by_hand: bool
    """Whether it leaves out, or keeps, rows by hand."""
    figures: LineBalance | None
    not_computed: int
    """Of how many that fell out as unknown nobody has had the trait computed."""
    waits: bool
    blank: str
    """In which of the chosen counties its traits are mostly not known, in words."""
    reads: str
    """The line as one phrase, for buttons that act on it."""

    @property
    def not_known(self) -> int:
        """How many fell out because what it asks is not known of them, although somebody had it computed."""
        return self.figures.unknown - self.not_computed if self.figures else 0


def _part(criterion: Criterion) -> Part:
    trait = CATALOGUE[criterion.trait]
    said = {item for value in (*criterion.accepts, *criterion.refuses) for item in _said(value)}
    holds = tuple((one.key, ", ".join(one.holds)) for one in trait.umbrellas if one.key in said)
    return Part(trait.label, value_phrase(criterion), holds)


def _said(value: Value) -> tuple[str, ...]:
    match value:
        case Exactly(str() as key):
            return (key,)
        case Members(_, items):
            return items
    return ()


def _blank(line: Line, blanks: Mapping[str, str]) -> str:
    """Return where the traits of a line are mostly not known; of several in a group, which one."""
    keys = dict.fromkeys(criterion.trait for criterion in line.members() if criterion.trait in blanks)
    return "; ".join(f"{CATALOGUE[key].label} {blanks[key]}" if isinstance(line, AnyOf) else blanks[key] for key in keys)


def _not_computed(search: Search, place: int, figures: LineBalance | None, scope: Scope) -> int:
    """Return of how many, among those that a line takes off as unknown, its trait was never computed."""
    line = search.lines[place]
    declared = team_traits().get(line.trait) if isinstance(line, Criterion) else None
    if declared is None or declared.not_computed is None or figures is None or not figures.unknown:
        return 0
    before = replace(search, lines=search.lines[:place])
    return compile(before, scope).matches.filter(declared.not_computed(scope)).count()


def _line(
    place: int, line: Line, figures: LineBalance | None, blanks: Mapping[str, str] = MappingProxyType({}), not_computed: int = 0
) -> LedgerLine:
    is_group = isinstance(line, AnyOf)
    text = line_text(line) if isinstance(line, Criterion) else "any of"
    return LedgerLine(
        place,
        tuple(_part(criterion) for criterion in line.members()),
        text,
        line.struck,
        is_group,
        isinstance(line, Criterion) and not line.unknown,
        isinstance(line, Criterion) and bool(line.refuses) and not line.accepts,
        any(member.ask for member in line.members()),
        is_by_hand(line),
        figures,
        not_computed,
        not line.struck and not line.is_applied,
        "" if line.struck else _blank(line, blanks),
        line_phrase(line),
    )


def _unasked(search: Search, error: CriteriaError, counties: tuple[County, ...]) -> dict[str, Any]:
    """Return what is shown of a search that can't be asked: its lines without figures, and why."""
    return {
        "lines": [_line(number, line, None) for number, line in enumerate(search.lines)],
        "error": error,
        "county_label": ", ".join(county.name for county in counties) or ", ".join(search.counties),
    }


def ledger_context(answer: Answer) -> dict[str, Any]:
    """Return what the ledger's templates need. A search that can't be asked shows its lines and says why, as ``error``."""
    asked, search = answer.asked, answer.asked.search
    state = asked.query(answer.scope.team)
    context: dict[str, Any] = {
        "place": "find",
        "text": format(search),
        "state": state,
        "state_query": urlencode(state, quote_via=quote),
        "facts_version": facts_version(),
        "asked": asked_values(answer),
    }
    try:
        counties = answer.counties
    except CriteriaError as error:
        return context | _unasked(search, error, ())
    context |= {"counties": counties, "all_counties": County.objects.order_by("name"), "earliest": earliest_days()}
    try:
        found = answer.balance
    except CriteriaError as error:
        return context | _unasked(search, error, counties)
    blanks = mostly_blank(counties, search.traits())
    lines = [
        _line(number, line, figures, blanks, _not_computed(search, number, figures, answer.scope))
        for number, (line, figures) in enumerate(zip(search.lines, found.lines, strict=True))
    ]
    return context | {
        "lines": lines,
        "balance": found,
        "statuses": status_counts(search, found, answer.scope),
        "county_label": ", ".join(county.name for county in counties),
        "emptied": lines[found.emptied_by] if found.emptied_by is not None else None,
        "owners": answer.owners,
    }
