"""A user's calendar: its address, and what a calendar program reads there."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.records.clock import now
from jaded_ledger.watch import feeds
from jaded_ledger.watch.calendar_file import calendar_file


@require_POST
def renew_calendar(request: HttpRequest) -> HttpResponse:
    """Give one's calendar an address, another address, or none, or choose what it shows."""
    scope = scope_of(request)
    assert scope.user is not None
    match request.POST.get("do"):
        case "end":
            feeds.end(scope.user)
            messages.success(request, "Your calendar’s address is ended: it shows nothing from now on.")
        case "show":
            feeds.show(scope.user, request.POST.get("shows", ""))
            messages.success(request, "Saved. Your calendar program shows it when it next reads the address.")
        case _:
            feeds.renew(scope.user)
            messages.success(request, "Your calendar has a new address. The address before it shows nothing from now on.")
    return redirect(f"{reverse('watch:morning')}#calendar")


@login_not_required
@cache_control(private=True, no_store=True)
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
