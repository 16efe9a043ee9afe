"""Deals: where comps are begun, those that are kept, and their reports."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.comps.lines import PoolError, parse_lines
from jaded_ledger.deals.acts import COMPS
from jaded_ledger.deals.asked import Asked, lines_of, view_of
from jaded_ledger.deals.comps_map import map_of
from jaded_ledger.deals.comps_page import shown
from jaded_ledger.deals.comps_views import book_context
from jaded_ledger.deals.kept import kept_of, put_back, throw_away
from jaded_ledger.deals.report import report_of
from jaded_ledger.deals.trust_here import trust_here
from jaded_ledger.deals.trust_panel import panel_of
from jaded_ledger.deals.valuation import value
from jaded_ledger.deals.worksheets.portfolio import RESULTS, chosen_results, deals_of
from jaded_ledger.deals.worksheets.services import worksheets_of
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.records.models import Parcel

_SHOWN = 200


def _deals_context(request: HttpRequest, scope: Scope) -> dict[str, Any]:
    """Return what the page of deals is rendered with: worksheets by stage with chosen results, and kept comps."""
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
    """The worksheets and comps that the team keeps, and a field to begin some."""
    return render(request, "deals/deals.html", _deals_context(request, scope_of(request)))


@require_GET
def begin(request: HttpRequest) -> HttpResponse:
    """Go to the comps of a parcel by its number, or say why it can't be found."""
    scope = scope_of(request)
    typed = request.GET.get("number", "")
    try:
        return redirect("deals:comps", parcel_named(typed.strip()).pk)
    except NoSuchParcelError as error:
        wrong = f"{str(error)[:1].upper()}{str(error)[1:]}."
    context = _deals_context(request, scope) | {"wrong": wrong, "typed": typed[:200]}
    return render(request, "deals/deals.html", context, status=400)


@require_GET
def kept(request: HttpRequest, pk: int) -> HttpResponse:
    """Comps as they were when they were kept."""
    scope = scope_of(request)
    found = get_object_or_404(kept_of(scope), pk=pk)
    view = replace(view_of(request.GET), of_set=found.of_set)
    context: dict[str, Any] = {
        **book_context(found.content, view), "kept": found, "trust": found.content["trust"], "may_change": may(scope, COMPS),
        "drawing": map_of(found.content, scope, parse_lines(found.lines)),
    }  # fmt: skip
    return render(request, "deals/comps.html", context)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Put kept comps away."""
    scope = scope_of(request)
    throw_away(scope, get_object_or_404(kept_of(scope), pk=pk).pk)
    messages.success(request, "Put away.", extra_tags=reverse("deals:restore-kept", args=[pk]))
    return redirect("deals:deals")


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """Put kept comps back."""
    put_back(scope_of(request), pk)
    return redirect("deals:deals")


def _pdf(content: bytes, address: str) -> HttpResponse:
    answer = HttpResponse(content, content_type="application/pdf")
    answer["Content-Disposition"] = content_disposition_header(as_attachment=True, filename=f"comps of {address}.pdf") or "attachment"
    return answer


@require_GET
def report(request: HttpRequest, pk: int) -> HttpResponse:
    """The report of a property's comps, as PDF."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county").filter(retired_on=None, facts__isnull=False), pk=pk)
    try:
        asked = Asked(lines_of(request.GET), view_of(request.GET).of_set)
        found = value(parcel, scope, asked.lines, asked.of_set)
    except PoolError:
        return redirect("deals:comps", pk)
    about = shown(found) | {"trust": panel_of(trust_here(found.subject, scope, found.asked))}
    return _pdf(report_of(about, map_of(about, scope, found.lines, size=(640, 380)), scope), found.subject.address)


@require_GET
def kept_report(request: HttpRequest, pk: int) -> HttpResponse:
    """The report of comps that were kept, as they were."""
    scope = scope_of(request)
    found = get_object_or_404(kept_of(scope), pk=pk)
    drawing = map_of(found.content, scope, parse_lines(found.lines), size=(640, 380))
    return _pdf(report_of(found.content, drawing, scope), found.content["subject"]["address"])
