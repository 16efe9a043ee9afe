"""From property to property through a search, and back to where it was left."""

from __future__ import annotations

from dataclasses import dataclass, replace
from urllib.parse import quote, urlencode

from django.db.models import QuerySet
from django.http import QueryDict
from django.urls import reverse

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError, format
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.results import PAGE
from jaded_ledger.find.search_page import LARGEST_PLACE, SearchPage, search_page_of
from jaded_ledger.records.models import ParcelFacts


@dataclass(frozen=True)
class Pager:
    """Where a property stands in a search: ``at`` from 1, of so many. ``at`` is None when it does not match (any more)."""

    at: int | None
    of: int
    previous: str
    following: str
    back: str
    search: str
    following_id: int | None = None


def address(parcel_id: int, search_page: SearchPage, scope: Scope, at: int | None) -> str:
    """Return the address of a property's page within a search."""
    query = search_page.query(scope.team) | ({"at": str(at)} if at else {})
    found = reverse("properties:property", args=[parcel_id])
    return f"{found}?{urlencode(query, quote_via=quote)}" if query else found


def _place_in(ordered: QuerySet[ParcelFacts], parcel_id: int) -> int | None:
    """Return a parcel's place in an order, from 1, by walking it: only needed where records changed under the walk."""
    ids = ordered.values_list("parcel_id", flat=True).iterator()
    return next((place for place, pk in enumerate(ids, start=1) if pk == parcel_id), None)


def pager_of(query: QueryDict, scope: Scope, parcel_id: int) -> Pager | None:
    """Return the walk that an address stands in; None for a property opened by itself or from a search that can't be asked.

    The address says which place the property had. Where records have changed since, the place is looked up anew.
    """
    if "at" not in query:
        return None
    try:
        answer = Answer(search_page_of(query, scope.team), scope)
        matches, ordered = answer.matches, answer.ordered
    except CriteriaError:
        return None
    search_page = answer.asked
    at = min(whole_number(query.get("at")) or 1, LARGEST_PLACE)
    start = max(at - 2, 0)
    around = list(ordered.values_list("parcel_id", flat=True)[start : at + 1])
    if parcel_id not in around:
        found = _place_in(ordered, parcel_id)
        if found is None:
            return Pager(None, matches.count(), "", "", _back(search_page, scope, parcel_id), format(search_page.search))
        at, start = found, max(found - 2, 0)
        around = list(ordered.values_list("parcel_id", flat=True)[start : at + 1])
    here = around.index(parcel_id)
    at = start + here + 1
    before = around[here - 1] if here else None
    after = around[here + 1] if here + 1 < len(around) else None
    if after is None:
        after = ordered.values_list("parcel_id", flat=True)[at : at + 1].first()
    there = replace(search_page, page=(at - 1) // PAGE + 1)
    return Pager(
        at,
        matches.count(),
        address(before, search_page, scope, at - 1) if before else "",
        address(after, search_page, scope, at + 1) if after else "",
        _back(there, scope, parcel_id),
        format(search_page.search),
        after,
    )


def _back(search_page: SearchPage, scope: Scope, parcel_id: int) -> str:
    return f"{search_page.address(scope.team)}#parcel-{parcel_id}"
