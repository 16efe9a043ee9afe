"""A page of Find as an address: the search, its columns, its order and its page."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace
from urllib.parse import quote, urlencode

from django.http import Http404, QueryDict
from django.urls import reverse

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.models import LongSearch
from jaded_ledger.find.named_things import search_from, stored_text
from jaded_ledger.find.sorting import known_sorts, sorts_text

BY_OWNER = "owner"
LONGEST = 1_500
"""The longest search, percent-encoded, that stands in an address itself."""
LARGEST_PLACE = 100_000_000
"""The furthest page or place in an order that is asked of the database."""


@dataclass(frozen=True)
class SearchPage:
    """Where in Find somebody is. ``sort`` is the keys of traits, with commas between, ``-`` before one for largest first.

    ``by`` is ``owner`` where the rows are owners, and blank where they are parcels.
    ``origin`` is a word of another app's that goes along: where the search came from.
    Without ``columns`` the usual ones are shown, as many as fit: ``room`` is how wide the rows are in that window, in CSS pixels, and 0
    where it hasn't told. An address doesn't hold it.
    """

    search: Search
    columns: tuple[str, ...] | None = None
    sort: str = ""
    page: int = 1
    by: str = ""
    origin: str = ""
    room: int = 0

    def query(self, team: Team) -> dict[str, str]:
        """Return the parameters of the address."""
        text = stored_text(self.search, team)
        found: dict[str, str] = {}
        if len(quote(text)) > LONGEST:
            key = hashlib.sha256(text.encode()).hexdigest()[:16]
            LongSearch.objects.get_or_create(team=team, key=key, defaults={"text": text})
            found["s"] = key
        elif text:
            found["q"] = text
        if self.columns is not None:
            found["columns"] = ",".join(self.columns)
        if self.sort:
            found["sort"] = self.sort
        if self.by:
            found["by"] = self.by
        if self.origin:
            found["from"] = self.origin
        if self.page > 1:
            found["page"] = str(self.page)
        return found

    def address(self, team: Team) -> str:
        query = urlencode(self.query(team), quote_via=quote)
        return f"{reverse('find:find')}?{query}" if query else reverse("find:find")

    @property
    def asks_nothing(self) -> bool:
        """Whether nothing is asked yet, neither a search nor its rows: an empty Find."""
        return replace(self, room=0) == SearchPage(Search())

    def with_search(self, search: Search) -> SearchPage:
        """Return the place with another search, from its first page."""
        return replace(self, search=search, page=1)


def search_text(query: QueryDict, team: Team) -> str:
    """Return the text of the search in an address. Raises Http404 for a key that was never kept."""
    if key := query.get("s"):
        kept = LongSearch.objects.filter(team=team, key=key).first()
        if kept is None:
            raise Http404(key)
        return kept.text
    return query.get("q", "")


def columns_of(text: str) -> tuple[str, ...]:
    """Return the traits of a list of columns. Raises CriteriaError for one that is not a trait."""
    keys = [key.strip() for key in text.split(",") if key.strip()]
    for key in keys:
        if key not in CATALOGUE:
            nearest = CATALOGUE.nearest(key)
            raise CriteriaError(f'"{key}" is not a trait' + (f"; did you mean {nearest}?" if nearest else ""), word=key)
    return tuple(dict.fromkeys(keys))


def search_page_of(query: QueryDict, team: Team) -> SearchPage:
    """Return the place that an address names. Raises CriteriaError and Http404."""
    columns = columns_of(str(query["columns"])) if "columns" in query else None
    sort = sorts_text(known_sorts(query.get("sort", "")))
    page = min(whole_number(query.get("page")) or 1, LARGEST_PLACE)
    room = min(whole_number(query.get("room")) or 0, LARGEST_PLACE)
    by = BY_OWNER if query.get("by") == BY_OWNER else ""
    return SearchPage(search_from(search_text(query, team), team), columns, sort, page, by, query.get("from", "")[:40], room)
