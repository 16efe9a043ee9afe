"""Having the properties of a list screened, from the list's own page."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.worksheets.screened import mark_list


@require_POST
def screen_list(request: HttpRequest, pk: int) -> HttpResponse:
    """Have a list's properties screened now and each night, or no longer (``do`` is *stop*)."""
    scope = scope_of(request)
    which = get_object_or_404(lists_of(scope.team), pk=pk)
    do = request.POST.get("do")
    if do not in ("screen", "stop"):
        raise Http404("there is no such thing to do")
    is_marked = do == "screen"
    mark_list(scope, which, is_marked=is_marked)
    screened = "Its properties are screened, now and each night: cap-rate, highest-offer and net-to-seller tell of them."
    messages.success(request, screened if is_marked else "Only what is on the market is screened now.")
    return redirect("lists:list", pk)
