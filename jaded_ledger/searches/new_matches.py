"""How many new matches a saved search had day by day, the rhythm that this proposes for telling of it, and what would make it fewer."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from math import ceil

from django.db.models import Count, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import value_phrase
from jaded_ledger.core.criteria.search import Criterion, FigureRange
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.watching.narrowing import bound_leaving
from jaded_ledger.core.watching.rhythms import A_DAY, Proposal, proposed
from jaded_ledger.find.figures import figure_of
from jaded_ledger.find.parcels import parcels
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.clock import now
from jaded_ledger.searches.models import Match, SavedSearch
from jaded_ledger.searches.services import current_version, page_of

PAST_DAYS = 30
_DAY = timedelta(days=1)


@dataclass(frozen=True)
class Narrowing:
    """A line that would bring a search under what a morning takes: how it would read, and how many new ones a day it left."""

    line: str
    a_day: float


def _past(saved: SavedSearch) -> int:
    """Return how many days of a search's past count: the last thirty, or as many as have begun since it was saved.

    Days are counted back from now, 24 hours each, so that a search saved in the evening has no other past after midnight.
    """
    return min(PAST_DAYS, max(ceil((now() - saved.made_at) / _DAY), 1))


def _new(saved: SavedSearch) -> QuerySet[Match]:
    return Match.objects.filter(search=saved, by_edit=False, entered_at__gt=now() - _past(saved) * _DAY)


def proposal_for(saved: SavedSearch) -> Proposal:
    """Return the rhythm that a search's past proposes."""
    moment, counts = now(), Counter[int]()
    # What came in one run came at one moment.
    for entered_at, count in _new(saved).values_list("entered_at").annotate(count=Count("pk")):
        counts[max((moment - entered_at) // _DAY, 0)] += count
    return proposed([counts[back] for back in range(_past(saved) - 1, -1, -1)])


def narrowings_for(saved: SavedSearch, scope: Scope) -> list[Narrowing]:
    """Return what would make a search that is too wide narrow enough: of each line with one open end how far its bound would move."""
    if not proposal_for(saved).is_too_wide:
        return []
    try:
        search = page_of(current_version(saved), scope).search
    except CriteriaError:
        return []
    return [found for line in search.lines if isinstance(line, Criterion) and line.is_applied for found in _narrower(line, saved, scope)]


def _narrower(line: Criterion, saved: SavedSearch, scope: Scope) -> Iterator[Narrowing]:
    match line.accepts:
        case (FigureRange(low, high),) if not line.refuses and (low is None) != (high is None):
            pass
        case _:
            return
    new = among_ids(_new(saved).values_list("parcel_id", flat=True))
    figures = parcels(scope).filter(pk__in=new).annotate(figure=figure_of(CATALOGUE[line.trait])).values_list("figure", flat=True)
    values = [one for one in figures if one is not None]
    bound = bound_leaving(values, A_DAY * _past(saved), is_low=high is None)
    if bound is None:
        return
    left = sum(one >= bound if high is None else one <= bound for one in values)
    asked = Criterion(line.trait, (FigureRange(bound, None) if high is None else FigureRange(None, bound),))
    yield Narrowing(f"{CATALOGUE[line.trait].label} {value_phrase(asked)}", left / _past(saved))
