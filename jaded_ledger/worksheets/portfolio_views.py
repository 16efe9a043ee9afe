"""The pages of several worksheets: a few compared in every figure."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.worksheets.portfolio import MOST_COMPARED, compared_rows, first_of, read_compared
from jaded_ledger.worksheets.services import worksheets_of


@require_GET
def compare(request: HttpRequest) -> HttpResponse:
    """Worksheets or their versions side by side."""
    scope = scope_of(request)
    columns = read_compared(",".join(request.GET.getlist("of"))[:200], worksheets_of(scope))
    if not columns:
        return redirect("worksheets:deals")
    context = {
        "place": "deals", "columns": columns, "sections": compared_rows(columns).items(), "most": MOST_COMPARED,
        "first": first_of(columns),
    }  # fmt: skip
    return render(request, "worksheets/compare.html", context)
