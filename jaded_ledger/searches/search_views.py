"""One saved search: what is new, how it was before, which lists follow it, and what is said of it."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.display import line_phrase
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.watching.news import NewsKind
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import current_text, search_from
from jaded_ledger.lists.messages import ListError
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches import services
from jaded_ledger.searches.acts import TEAM_SEARCHES
from jaded_ledger.searches.comparison import LinesThatDiffer, lines_that_differ
from jaded_ledger.searches.followed_lists import follow, followers_of, unfollow
from jaded_ledger.searches.forms import SearchForm
from jaded_ledger.searches.matching import reckon, reckon_if_askable
from jaded_ledger.searches.models import SavedSearch, Version
from jaded_ledger.searches.news import Changed, SearchNews, changes_in, news_of
from jaded_ledger.searches.services import SearchError, current_version, last_opened, may_change, page_of, searches_of
from jaded_ledger.searches.views import folders_of
from jaded_ledger.web.sentences import sentence_of

SHOWN = 50
READS = {
    NewsKind.NEW: "found since",
    NewsKind.CHEAPER: "price cut since",
    NewsKind.CHANGED: "changed since",
    NewsKind.BACK: "back since",
    NewsKind.GONE: "no longer found",
}


@dataclass(frozen=True)
class ShownMatch:
    """A row of what is new: its parcel's street address, the day it is told of, and what is another than it was."""

    parcel: Parcel
    street: str
    at: datetime | None
    changes: Sequence[Changed] = ()


@dataclass(frozen=True)
class ShownVersion:
    """A version of a search, what was changed to make it of the one before, and what that did to the count."""

    version: Version
    changed: LinesThatDiffer | None
    difference: int | None
    is_current: bool

    @property
    def difference_text(self) -> str:
        return f"{self.difference:+,}".replace("-", "− ").replace("+", "+ ") if self.difference else ""


def _shown_matches(news: SearchNews, kind: NewsKind) -> list[ShownMatch]:
    rows = dict(list(news.by_kind[kind].items())[:SHOWN])
    parcels = Parcel.objects.select_related("facts__address").in_bulk(rows)
    return [
        ShownMatch(parcels[pk], parcels[pk].facts.street_line if hasattr(parcels[pk], "facts") else "", one.at, changes_in(one))
        for pk, one in rows.items()
    ]


def shown_versions(saved: SavedSearch, scope: Scope) -> list[ShownVersion]:
    """Return a search's versions, the newest first. Of one that can't be read any more it isn't told what it changed."""
    every = list(saved.versions.select_related("user"))
    found = []
    for version, before in zip(every, [*every[1:], None], strict=True):
        changed, difference = None, None
        if before is not None:
            with suppress(CriteriaError):
                changed = lines_that_differ(search_from(version.text, scope.team), search_from(before.text, scope.team))
            if version.matches is not None and before.matches is not None:
                difference = version.matches - before.matches
        found.append(ShownVersion(version, changed, difference, version == every[0]))
    return found


def _lines_of(answer: Answer) -> list[tuple[str, bool, int]]:
    """Return how each line of a search reads, whether it is turned off, and how many parcels are left after it."""
    lines = zip(answer.asked.search.lines, answer.balance.lines, strict=True)
    return [(line_phrase(line), line.struck, figures.balance) for line, figures in lines]


def _context(request: HttpRequest, scope: Scope, saved: SavedSearch) -> dict[str, Any]:
    error, answer = "", None
    try:
        answer = reckon(saved, scope)
    except CriteriaError as wrong:
        error = str(wrong)
    news = news_of(saved, last_opened(scope, saved))
    counts = news.counts
    kind = next((one for one in counts if one == request.GET.get("show")), next(iter(counts), None))
    return {
        "place": "find",
        "saved": saved,
        "unreadable": error,
        "matches": None if answer is None else answer.balance.matches,
        "counties": [] if answer is None else answer.counties,
        "opening": None if answer is None else answer.balance.opening,
        "lines": [] if answer is None else _lines_of(answer),
        "text": current_text(current_version(saved).text, scope.team),
        "news": [(one, READS[one], counts.get(one, 0)) for one in NewsKind if one in counts or (news.since and one is NewsKind.NEW)],
        "since": news.since,
        "kind": kind,
        "kind_count": counts[kind] if kind else 0,
        "shown": _shown_matches(news, kind) if kind else [],
        "versions": shown_versions(saved, scope),
        "followers": followers_of(saved),
        "others": searches_of(scope).exclude(pk=saved.pk),
        "folders": folders_of(scope),
        "may_change": may_change(saved, scope),
        "may_share": may(scope, TEAM_SEARCHES),
        "parts": in_order(hooks.about_search(saved=saved, scope=scope)),
    }


@require_http_methods(["GET", "POST"])
def one_search(request: HttpRequest, pk: int) -> HttpResponse:
    """A saved search, and the form that changes what is said of it."""
    scope = scope_of(request)
    saved = get_object_or_404(searches_of(scope), pk=pk)
    initial = {"name": saved.name, "folder": saved.folder, "note": saved.note, "shared": saved.is_shared, "protected": saved.is_protected}
    form, error = SearchForm(request.POST or None, initial=initial), ""
    if request.method == "POST" and form.is_valid():
        try:
            services.describe(scope, saved, form.cleaned_data["name"], **{key: form.cleaned_data[key] for key in initial if key != "name"})
            return redirect("searches:search", pk)
        except SearchError as wrong:
            error = str(wrong)
            saved.refresh_from_db()
    return render(
        request, "searches/search.html", _context(request, scope, saved) | {"form": form, "error": error}, status=400 if error else 200
    )


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Go back to a version, have a list follow the search or end that, or delete the search."""
    scope = scope_of(request)
    saved = get_object_or_404(searches_of(scope), pk=pk)
    what, _, argument = request.POST.get("do", "").partition(":")
    try:
        if what == "delete":
            delete_and_say(request, scope, saved)
            return redirect("searches:all")
        if what == "put-back":
            version = services.put_back(scope, saved, whole_number(argument) or 0)
            reckon_if_askable(saved, scope)
            messages.success(request, f"“{saved}” is as it was in version {argument}; that is version {version.number}.")
        elif what == "follow":
            reckon(saved, scope)
            which = follow(scope, saved, request.POST.get("list", ""), page_of(current_version(saved), scope))
            messages.success(request, f"The list “{which.name}” follows this search from now on.")
        elif what == "unfollow":
            unfollow(scope, saved, whole_number(argument) or 0)
            messages.success(request, "The list stays as it is, and follows no search.")
        else:
            raise Http404(what)
    except (SearchError, CriteriaError) as error:
        messages.error(request, str(error))
    except ListError as error:
        messages.error(request, sentence_of(error))
    except Version.DoesNotExist:
        raise Http404(argument) from None
    return redirect("searches:search", pk)
