"""How many of the properties that a price or days-on-market line leaves are on the market."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Criterion, Line, Members, Quantity, Search
from jaded_ledger.core.criteria.traits import Kind, Section
from jaded_ledger.find.balance import Balance, count_matches
from jaded_ledger.find.compiler import compile

ON_MARKET = Criterion("on-offer", (Members(Quantity.ANY, ("for-sale",)),))
_FIGURES = {Kind.MONEY, Kind.NUMBER, Kind.PERCENT}
_SAY_WHICH = {"on-offer", "status", "status-since", "sale-to-list", "percent-of-median"}
"""Traits that limit a search to listings of some statuses by themselves."""


@dataclass(frozen=True)
class StatusCounts:
    """How many of the parcels left by a line are for sale now, and how many have a past, pending or held listing."""

    place: int
    on_market: int
    others: int


def _is_of_any_listing(line: Line) -> bool:
    if not isinstance(line, Criterion) or not line.is_applied or line.unknown:
        return False
    trait = CATALOGUE[line.trait]
    return trait.section is Section.LISTING and trait.event == "ever_listed" and trait.kind in _FIGURES


def status_counts(search: Search, found: Balance, scope: Scope) -> StatusCounts | None:
    """Return the counts for the first line about any listing; None without such a line, or if the search limits status itself."""
    if _SAY_WHICH.intersection(search.traits()):
        return None
    place = next((place for place, line in enumerate(search.lines) if _is_of_any_listing(line)), None)
    if place is None or not (left := found.lines[place].balance):
        return None
    on_market = count_matches(compile(replace(search, lines=(*search.lines[: place + 1], ON_MARKET)), scope))
    return StatusCounts(place, on_market, left - on_market) if on_market < left else None
