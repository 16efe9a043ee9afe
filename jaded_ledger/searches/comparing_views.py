"""Two searches beside each other: two saved ones, or a saved one and what Find shows."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.edits import edited_page_of
from jaded_ledger.find.results import rows
from jaded_ledger.searches.comparison import compare
from jaded_ledger.searches.services import current_version, page_of, searches_of

SHOWN = 50
NOW = "now"
"""What stands in an address for the search that Find shows."""
_COLUMNS = ("owner-name", "last-sale", "assessed-value")


def _side(request: HttpRequest, name: str, scope: Scope) -> tuple[str, Answer, str]:
    """Return what one side of the comparison is called, its answer, and where it is opened. Raises CriteriaError and Http404."""
    asked = request.GET.get(name, "")
    if asked == NOW:
        page = edited_page_of(request.GET, scope).search_page
        return "what Find shows", Answer(page, scope), page.address(scope.team)
    number = whole_number(asked)
    if number is None:
        raise Http404(asked)
    saved = get_object_or_404(searches_of(scope), pk=number)
    page = page_of(current_version(saved), scope)
    return saved.name, Answer(page, scope), page.address(scope.team)


@require_GET
def compare_two(request: HttpRequest) -> HttpResponse:
    """How many two searches share and each has alone, the lines that differ, and the rows of one of these."""
    scope = scope_of(request)
    context: dict[str, Any] = {"place": "find", "every": searches_of(scope), "query": request.GET}
    try:
        one, other = _side(request, "one", scope), _side(request, "two", scope)
        found = compare(one[1], other[1])
        parts = {
            "both": ("in both", found.both),
            "one": (f"only in {one[0]}", found.only_one),
            "two": (f"only in {other[0]}", found.only_other),
        }
        counts = {key: parcels.count() for key, (_, parcels) in parts.items()}
        asked = request.GET.get("show", "")
        show = asked if asked in parts else next((key for key in ("one", "two", "both") if counts[key]), "both")
        context |= {
            "one": one,
            "two": other,
            "parts": [(key, reads, counts[key]) for key, (reads, _) in parts.items()],
            "lines": found.lines,
            "show": show,
            "reads": parts[show][0],
            "count": counts[show],
            "rows": rows(parts[show][1], _COLUMNS, "", 1, size=SHOWN),
        }
    except CriteriaError as error:
        context["error"] = error
    return render(request, "searches/compare.html", context)
