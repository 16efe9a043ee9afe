"""Having the ranges of a list computed, from the list's own page."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.comps.list_ranges import ask_for, stop_nightly
from jaded_ledger.lists.counts import lists_of


@require_POST
def list_ranges(request: HttpRequest, pk: int) -> HttpResponse:
    """Have a list's ranges computed now, or each night, or no longer."""
    scope = scope_of(request)
    which = get_object_or_404(lists_of(scope.team), pk=pk)
    match request.POST.get("do"):
        case "compute":
            ask_for(scope, which)
            messages.success(request, "The ranges are being computed; searches can ask for them by comps-median and price-to-comps.")
        case "nightly":
            ask_for(scope, which, is_nightly=True)
            messages.success(request, "The ranges are computed now, and each night anew.")
        case "stop":
            stop_nightly(scope, which)
            messages.success(request, "No longer each night. The ranges stay as they are.")
        case _:
            raise Http404("there is no such thing to do")
    return redirect("lists:list", pk)
