"""What saved and starter searches add to the program."""

from __future__ import annotations

from collections.abc import Iterator

from django.urls import reverse

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import PagePart
from jaded_ledger.searches.acts import ACTS
from jaded_ledger.searches.beneath_ledger import kept_context
from jaded_ledger.searches.followed_lists import followed_by
from jaded_ledger.searches.joined_parcels import join_parcel
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.origins import named_page
from jaded_ledger.searches.proposals import Places, proposed
from jaded_ledger.searches.services import SearchError, change_refused, every_search, return_refused
from jaded_ledger.searches.starters import starters_by_purpose
from jaded_ledger.searches.views import opened_last


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    return [
        Deletion(
            SavedSearch, None, lambda saved: reverse("searches:all"),
            refused=change_refused, return_refused=return_refused, rows=every_search,
        )
    ]  # fmt: skip


@hookimpl
def beneath_ledger(answer: Answer) -> Iterator[PagePart]:
    yield PagePart("searches/_beneath.html", kept_context(answer), 10)


@hookimpl
def first_visit(scope: Scope) -> Iterator[PagePart]:
    yield PagePart("searches/_first_visit.html", {"opened": opened_last(scope), "starters": starters_by_purpose()}, 10)


@hookimpl
def about_list(which: ParcelList, scope: Scope) -> Iterator[PagePart]:
    if search := followed_by(which, scope):
        yield PagePart("searches/_follows.html", {"search": search}, 10)


@hookimpl
def proposed_answers(answer: Answer) -> Places:
    return proposed(answer)


@hookimpl
def named_search(name: str, scope: Scope) -> SearchPage:
    try:
        return named_page(name, scope)
    except SearchError as error:
        raise CriteriaError(str(error)) from error


@hookimpl
def pages() -> dict[str, str]:
    return {"searches": "searches:all"}


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    join_parcel(before, after)
