"""Comps that are kept, and the reports of these and of others."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.asked import CompsRequest, lines_of, view_of
from jaded_ledger.comps.comps_map import map_of
from jaded_ledger.comps.comps_page import shown
from jaded_ledger.comps.kept import kept_of
from jaded_ledger.comps.report import report_of
from jaded_ledger.comps.trust_here import trust_here
from jaded_ledger.comps.trust_panel import panel_of
from jaded_ledger.comps.valuation import SETS, value
from jaded_ledger.comps.views import book_context
from jaded_ledger.core.comps.lines import PoolError, parse_lines
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.templatetags.ledger import page_url


@require_GET
def kept(request: HttpRequest, pk: int) -> HttpResponse:
    """Comps as they were when they were kept."""
    scope = scope_of(request)
    found = get_object_or_404(kept_of(scope), pk=pk)
    view = replace(view_of(request.GET), of_set=found.of_set if found.of_set in SETS else "as-is")
    context: dict[str, Any] = {
        **book_context(found.content, view), "kept": found, "is_chosen": True,
        "trust": found.content["trust"], "may_change": may(scope, COMPS),
        "drawing": map_of(found.content, scope, parse_lines(found.lines)),
    }  # fmt: skip
    return render(request, "comps/comps.html", context)


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Delete kept comps."""
    scope = scope_of(request)
    delete_and_say(request, scope, get_object_or_404(kept_of(scope), pk=pk))
    return redirect(page_url("deals"))


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
        asked = CompsRequest(lines_of(request.GET), view_of(request.GET).of_set)
        found = value(parcel, scope, asked.lines, asked.of_set)
    except PoolError:
        return redirect("comps:comps", pk)
    about = shown(found) | {"trust": panel_of(trust_here(found.subject, scope, found.asked))}
    return _pdf(report_of(about, map_of(about, scope, found.lines, size=(640, 380)), scope), found.subject.address)


@require_GET
def kept_report(request: HttpRequest, pk: int) -> HttpResponse:
    """The report of comps that were kept, as they were."""
    scope = scope_of(request)
    found = get_object_or_404(kept_of(scope), pk=pk)
    drawing = map_of(found.content, scope, parse_lines(found.lines), size=(640, 380))
    return _pdf(report_of(found.content, drawing, scope), found.content["subject"]["address"])
