"""Saved searches: all of them, opening one, and keeping the search that Find shows."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from itertools import groupby

from django.contrib import messages
from django.db.models import Count, F, OuterRef, Q, Subquery
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.asking import questions, unanswered
from jaded_ledger.core.criteria.text import CriteriaError, format
from jaded_ledger.find.responses import page_or_empty, sent_query
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.searches.acts import TEAM_SEARCHES
from jaded_ledger.searches.forms import SearchForm
from jaded_ledger.searches.matching import reckon_if_askable
from jaded_ledger.searches.models import Opening, SavedSearch
from jaded_ledger.searches.news import news_of_searches
from jaded_ledger.searches.origins import search_of_origin, starter_of_origin
from jaded_ledger.searches.services import (
    SearchError,
    current_version,
    last_opened,
    may_change,
    note_opening,
    page_of,
    save_changes,
    searches_of,
)
from jaded_ledger.searches.services import save as keep_search
from jaded_ledger.searches.starters import BY_KEY, starters_by_purpose

_OPENED_LAST = 8


@dataclass(frozen=True)
class ShownSearch:
    """A saved search as the page of all of them tells of it; ``matches`` is None until it was counted."""

    saved: SavedSearch
    matches: int | None
    new: int
    opened: datetime | None


def shown_searches(scope: Scope) -> list[ShownSearch]:
    """Return the searches that somebody can open, by folder, with what was counted of them last."""
    found = searches_of(scope).annotate(found=Count("matches", filter=Q(matches__left_at=None)))
    opened = dict(Opening.objects.filter(user=scope.user).values_list("search", "at"))
    news = news_of_searches({one.pk: last_opened(scope, one) for one in found})
    return [ShownSearch(one, one.found if one.reckoned else None, news[one.pk].entered, opened.get(one.pk)) for one in found]


def folders_of(scope: Scope) -> list[str]:
    """Return the names of folders that are there."""
    return sorted({one.folder for one in searches_of(scope) if one.folder}, key=str.casefold)


def opened_last(scope: Scope) -> list[SavedSearch]:
    """Return the searches that a user opened last, the latest first, and then those of theirs that were never opened."""
    opened = Opening.objects.filter(user=scope.user, search=OuterRef("pk")).values("at")
    return list(searches_of(scope).annotate(opened=Subquery(opened)).order_by(F("opened").desc(nulls_last=True), "name")[:_OPENED_LAST])


@require_GET
def all_searches(request: HttpRequest) -> HttpResponse:
    """Every search that the user can open, by folder."""
    shown = shown_searches(scope_of(request))
    folders = [(folder, list(found)) for folder, found in groupby(shown, lambda one: one.saved.folder)]
    return render(request, "searches/all.html", {"place": "find", "folders": folders, "starters": starters_by_purpose()})


@require_GET
def open_search(request: HttpRequest, pk: int) -> HttpResponse:
    """Lead to Find with a saved search as it is kept; what it asks is asked."""
    scope = scope_of(request)
    saved = get_object_or_404(searches_of(scope), pk=pk)
    note_opening(scope, saved)
    try:
        page = page_of(current_version(saved), scope)
        reckon_if_askable(saved, scope)
    except CriteriaError as error:
        messages.error(request, f"“{saved.name}” can’t be read: {error}.")
        return redirect("searches:search", pk)
    return redirect(replace(page, search=unanswered(page.search)).address(scope.team))


@require_GET
def open_starter(request: HttpRequest, key: str) -> HttpResponse:
    """Lead to Find with a starter search; what it asks is asked."""
    starter = BY_KEY.get(key)
    if starter is None:
        raise Http404(key)
    return redirect(SearchPage(starter.search, starter.columns, origin=key).address(scope_of(request).team))


@require_http_methods(["GET", "POST"])
def save(request: HttpRequest) -> HttpResponse:
    """Keep the search that Find shows, as the newest version of the one it came from or under a name of its own."""
    scope, query = scope_of(request), sent_query(request)
    page = page_or_empty(request, scope).search_page
    origin = search_of_origin(page.origin, scope)
    starter = starter_of_origin(page.origin)
    form, error = SearchForm(request.POST if "name" in query else None, initial={"name": starter.name} if starter else {}), ""
    if request.method == "POST":
        try:
            if query.get("do") == "changes" and origin is not None:
                version = save_changes(scope, origin, page)
                reckon_if_askable(origin, scope)
                messages.success(request, f"“{origin}” is kept as it is now, as version {version.number}.")
                return redirect(page.address(scope.team))
            if form.is_valid():
                typed = form.cleaned_data
                saved = keep_search(scope, page, typed["name"], **{key: value for key, value in typed.items() if key != "name"})
                reckon_if_askable(saved, scope)
                note_opening(scope, saved)
                messages.success(request, f"“{saved}” is saved.")
                return redirect(replace(page, origin=str(saved.pk)).address(scope.team))
        except SearchError as wrong:
            error = str(wrong)
    context = {
        "place": "find",
        "form": form,
        "error": error,
        "origin": origin if origin and may_change(origin, scope) else None,
        "may_share": may(scope, TEAM_SEARCHES),
        "folders": folders_of(scope),
        "state": page.query(scope.team),
        "text": format(page.search),
        "asked": [question.criterion.trait for question in questions(page.search)],
        "back": page.address(scope.team),
    }
    return render(request, "searches/save.html", context, status=400 if error else 200)
