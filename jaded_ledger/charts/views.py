"""Charts of the matches: a face of Find's results, and a chart as a file."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote, urlencode

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.charts.asked import AskedChart, asked_chart
from jaded_ledger.charts.drawings import Chart
from jaded_ledger.charts.palette import colors
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.responses import sent_query
from jaded_ledger.find.search_page import search_page_of
from jaded_ledger.web.middleware import only_reads


def _asked(request: HttpRequest) -> tuple[Answer, AskedChart, Chart]:
    """Return the search, the chart that is asked for, and it drawn. Raises CriteriaError."""
    scope, query = scope_of(request), sent_query(request)
    answer = Answer(search_page_of(query, scope.team), scope)
    asked = asked_chart(query.dict(), answer)  # type: ignore[arg-type]
    return answer, asked, asked.of(answer)


@require_http_methods(["GET", "POST"])
@only_reads
def chart(request: HttpRequest) -> HttpResponse:
    """One chart, as the face of the results shows it."""
    try:
        answer, asked, drawn = _asked(request)
    except CriteriaError as error:
        return render(request, "charts/_chart.html", {"error": error})
    context: dict[str, Any] = {"chart": drawn, "asked": asked}
    context["address"] = urlencode(answer.asked.query(answer.scope.team) | asked.query(), quote_via=quote)
    return render(request, "charts/_chart.html", context)


@require_GET
def file(request: HttpRequest) -> HttpResponse:
    """A chart's drawing as an SVG file, with colors of its own: it stands where there is no style sheet."""
    number = int(request.GET.get("drawing", "0") or 0) if request.GET.get("drawing", "0").isdigit() else 0
    try:
        _, _, drawn = _asked(request)
    except CriteriaError as error:
        raise Http404(str(error)) from error
    if number >= len(drawn.drawings):
        raise Http404("there is no such drawing")
    text = render_to_string("charts/file.svg", {"chart": drawn, "drawing": drawn.drawings[number], "colors": colors()})
    response = HttpResponse(text, content_type="image/svg+xml; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{slugify(drawn.title) or "chart"}.svg"'
    return response
