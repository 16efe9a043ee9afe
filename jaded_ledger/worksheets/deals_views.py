"""The page of deals: worksheets by their stage and comps that are kept, and the way from a parcel's number to its comps."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.kept import kept_of
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.worksheets.portfolio import RESULTS, chosen_results, deals_of
from jaded_ledger.worksheets.services import worksheets_of

_SHOWN = 200


def _context(request: HttpRequest, scope: Scope) -> dict[str, Any]:
    """Return what the page is rendered with: worksheets by stage with chosen results, and kept comps."""
    keys, rows = chosen_results(request.GET.getlist("show")), kept_of(scope)
    worksheets, sort = worksheets_of(scope), request.GET.get("sort", "")[:40]
    chosen = [(key, RESULTS[key][0]) for key in keys]
    return {
        "place": "deals", "kept": rows[:_SHOWN], "count": rows.count(), "shown": _SHOWN, "may_change": may(scope, COMPS),
        "stages": deals_of(worksheets[:_SHOWN], keys, sort), "worksheets": worksheets.count(), "columns": chosen, "sort": sort,
        "choices": [(key, label, key in keys) for key, (label, _) in RESULTS.items()],
        "query": urlencode([("show", key) for key in keys]),
    }  # fmt: skip


@require_GET
def deals(request: HttpRequest) -> HttpResponse:
    """Show the worksheets and comps that the team keeps, and a field to begin some."""
    return render(request, "worksheets/deals.html", _context(request, scope_of(request)))


@require_GET
def begin(request: HttpRequest) -> HttpResponse:
    """Go to the comps of a parcel by its number, or say why it can't be found."""
    scope = scope_of(request)
    typed = request.GET.get("number", "")
    try:
        return redirect("comps:comps", parcel_named(typed.strip()).pk)
    except NoSuchParcelError as error:
        wrong = f"{str(error)[:1].upper()}{str(error)[1:]}."
    context = _context(request, scope) | {"wrong": wrong, "typed": typed[:200]}
    return render(request, "worksheets/deals.html", context, status=400)
