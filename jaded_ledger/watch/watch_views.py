"""Watching a search, the hour of the morning, and the address that ends mails without signing in."""

from __future__ import annotations

from functools import partial
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.ending_mails import End, ends_mails
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.watching.rhythms import DAYS, Rhythm
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.searches.matching import WATCHED
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.new_matches import narrowings_for, proposal_for
from jaded_ledger.searches.services import searches_of
from jaded_ledger.watch import digests
from jaded_ledger.watch.acts import MORNING_HOUR
from jaded_ledger.watch.watching import WatchError, end, pause, resume, set_hour, watch, watch_of


def watch_context(saved: SavedSearch, scope: Scope) -> dict[str, Any]:
    """Return what a search's page says of watching it."""
    found = watch_of(scope, saved)
    proposal = proposal_for(saved)
    return {
        "saved": saved, "watch": found, "proposal": proposal, "narrowings": narrowings_for(saved, scope),
        "rhythm": found.rhythm if found else proposal.rhythm,
        "rhythms": [(one.value, one.words) for one in Rhythm], "hour": scope.team.morning_hour,
        "days": list(enumerate(DAYS, 1)), "chosen_days": found.days if found else [1],
        "traits": [CATALOGUE[key] for key in WATCHED], "chosen_traits": found.traits if found else WATCHED,
        "has_email": bool(scope.user and scope.user.email),
    }  # fmt: skip


@require_POST
def watch_search(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin to watch a search, change how, pause, take up again, end."""
    scope = scope_of(request)
    saved = get_object_or_404(searches_of(scope), pk=pk)
    sent = request.POST
    match sent.get("do"):
        case "watch":
            days = [day for one in sent.getlist("day") if (day := whole_number(one)) is not None]
            try:
                watch(scope, saved, sent.get("rhythm", ""), days=days, traits=sent.getlist("trait"), by_mail="by_mail" in sent)
                messages.success(request, f"You watch “{saved}”; what is new in it is told on Morning.")
            except WatchError as error:
                messages.error(request, str(error))
        case "pause":
            pause(scope, saved)
            messages.success(request, "Paused. What is new meanwhile is told when you take it up again.")
        case "resume":
            resume(scope, saved)
            messages.success(request, "Taken up again.")
        case "end":
            end(scope, saved)
            messages.success(request, f"You no longer watch “{saved}”.")
        case _:
            raise Http404("there is no such thing to do")
    return redirect("searches:search", pk)


@require_POST
def hour(request: HttpRequest) -> HttpResponse:
    """Have the team's morning begin at another hour."""
    scope = scope_of(request)
    require(scope, MORNING_HOUR)
    try:
        chosen = whole_number(request.POST.get("hour"))
        set_hour(scope.team, -1 if chosen is None else chosen)
        messages.success(request, f"The morning begins at {scope.team.morning_hour}:00.")
    except WatchError as error:
        messages.error(request, str(error))
    return redirect("watch:morning")


@ends_mails("watch/unsubscribe.html")
def unsubscribe(key: str) -> End | None:
    """Find whose mails of what they watch a key ends."""
    user = digests.user_of_key(key)
    return partial(digests.unsubscribe, user) if user else None
