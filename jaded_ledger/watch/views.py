"""The morning: what came, went and changed in one's searches since one opened them, and the days ahead."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import earliest_days
from jaded_ledger.searches.matching import news_of
from jaded_ledger.searches.services import last_opened, searches_of
from jaded_ledger.watch import feeds
from jaded_ledger.watch.calendar_file import calendar_file

_WORDS = {"new": "new", "changed": "changed", "gone": "gone"}


def _searches(scope: Scope) -> list[dict[str, Any]]:
    """Return somebody's searches with what is new about each, those with most of it first."""
    found = []
    for saved in searches_of(scope):
        counts = news_of(saved, last_opened(scope, saved)).counts
        some = [(count, _WORDS[kind]) for kind, count in counts.some]
        found.append({"saved": saved, "since": counts.since, "some": some, "count": sum(count for count, _ in some)})
    return sorted(found, key=lambda one: (-one["count"], one["since"] is None, one["saved"].name.casefold()))


@require_GET
def morning(request: HttpRequest) -> HttpResponse:
    """What one begins the day with."""
    scope = scope_of(request)
    assert scope.user is not None
    searches, feed = _searches(scope), feeds.feed_of(scope.user)
    context = {
        "place": "morning", "today": scope.today, "searches": searches, "count": sum(one["count"] for one in searches),
        "due": feeds.due_until(scope, feeds.AHEAD), "through": min(earliest_days().values(), default=None), "feed": feed,
        "address": request.build_absolute_uri(reverse("watch:calendar", args=[feeds.key_of(feed)])) if feed else "",
        "calendar_days": feeds.IN_CALENDAR.days,
    }  # fmt: skip
    return render(request, "watch/morning.html", context)


@require_POST
def renew_calendar(request: HttpRequest) -> HttpResponse:
    """Give one's calendar an address, another address, or none."""
    scope = scope_of(request)
    assert scope.user is not None
    if request.POST.get("do") == "end":
        feeds.end(scope.user)
        messages.success(request, "The calendar is ended; its address tells nothing more.")
    else:
        feeds.renew(scope.user)
        messages.success(request, "This is your calendar’s address from now on; the one before tells nothing more.")
    return redirect(f"{reverse('watch:morning')}#calendar")


@login_not_required
@require_GET
def calendar(request: HttpRequest, key: str) -> HttpResponse:
    """A user's calendar, for a calendar program, which does not sign in: the address is the key."""
    feed = feeds.feed_called(key)
    if feed is None:
        raise Http404("no such calendar")
    scope, entries = feeds.read(feed)

    def address_of(parcel: int) -> str:
        return request.build_absolute_uri(reverse("properties:property", args=[parcel]))

    content = calendar_file(entries, f"Jaded Ledger, {scope.team.name}", now(), request.get_host(), address_of)
    answer = HttpResponse(content, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = 'inline; filename="days-ahead.ics"'
    return answer
