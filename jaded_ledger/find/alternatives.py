"""When a line leaves nothing: which of its alternatives would not, under the search's other lines."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.search import Criterion, Search
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.criteria.values import quote
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.histogram import ends_of
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.value_counts import commonest_names, counts_of_matches
from jaded_ledger.records.trait_columns import FEW, column_of

_MOST = 6


@dataclass(frozen=True)
class Alternative:
    """Another value: how it reads, how many parcels it would leave, and the act that takes it (``also`` or ``instead``)."""

    reads: str
    count: int
    act: str


def alternatives(search: Search, number: int, scope: Scope) -> list[Alternative]:
    """Return values of a line's trait that leave something under the other lines, those that leave most first."""
    line = search.lines[number]
    if not isinstance(line, Criterion) or not line.accepts:
        return []
    trait = CATALOGUE[line.trait]
    others = compile(search.without_line(number), scope)
    if trait.kind is Kind.NAME:
        found = answered(others, lambda asked: commonest_names(asked.matches, trait, _MOST), [column_of(trait)])
        return [Alternative(shown(trait, text), count, f"also:{number}:= {quote(text)}") for text, count in found]
    if trait.kind in FEW:
        counts = counts_of_matches(others, trait).most_common(_MOST)
        said = [(value, f"any of {quote(value)}" if trait.kind is Kind.SET else quote(value)) for value, _ in counts]
        if trait.kind in (Kind.CHOICE, Kind.FLAG):
            said = [(value, value) for value, _ in counts]
        return [Alternative(value, count, f"also:{number}:{text}") for (value, text), (_, count) in zip(said, counts, strict=True)]
    if not trait.is_range:
        return []
    ends = answered(others, lambda asked: ends_of(asked.matches, trait), [column_of(trait)])
    if ends is None:
        return []
    low, high, count = ends
    if low == high:
        return [Alternative(shown(trait, low), count, f"instead:{number}:{low}")]
    text = f"between {low} and {high}" if isinstance(low, date) else f"{low}..{high}"
    return [Alternative(f"{shown(trait, low)} to {shown(trait, high)}", count, f"instead:{number}:{text}")]
