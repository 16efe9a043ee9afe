"""The constants of a county's comps: as they were measured, and as the team sets them."""

from __future__ import annotations

import math
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.roles import may_change
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES, PoolError
from jaded_ledger.core.comps.terms import GRADES, OF_HOUSES, Shape
from jaded_ledger.deals.models import CompSettings
from jaded_ledger.deals.settings_by_hand import SIZE_STEP, SettingsError, measured, read_constants, set_settings, settings_of
from jaded_ledger.maps.messages import sentence_of
from jaded_ledger.records.models import County


def _typed(value: float, *, is_share: bool) -> str:
    return f"{value:.4g}" if is_share else f"{100 * math.expm1(value):.4g}"


def _rows(county: County, scope: Scope, found: CompSettings | None) -> tuple[list[dict[str, Any]], Any]:
    """Return a row for each constant: what was measured, and what the team set."""
    constants = measured(county, scope.today, scope.today.replace(day=1), is_land=False)
    known = {one.term.key: one for one in constants.coefficients}
    by_hand = found.constants if found else {}
    rows = []
    for term in OF_HOUSES:
        is_share, one = term.shape is Shape.SHARE, known.get(term.key)
        rows.append({
            "key": term.key, "label": term.label, "unit": f"of {term.unit}" if is_share else f"% {term.unit}",
            "measured": one.told if one else "not told by the sales", "origin": str(one.origin) if one else "",
            "set": _typed(by_hand[term.key], is_share=is_share) if term.key in by_hand else "",
        })  # fmt: skip
    monthly = f"{100 * math.expm1(constants.monthly):+.2f} % a month".replace("-", "−")
    rows.append({
        "key": "time", "label": "time", "unit": "% a month", "measured": monthly, "origin": str(constants.time_origin),
        "set": _typed(by_hand["time"], is_share=False) if "time" in by_hand else "",
    })  # fmt: skip
    for grade, word in GRADES.items():
        key = f"grade-{grade}"
        rows.append({
            "key": key, "label": f"condition graded {word}", "unit": "%", "measured": "none", "origin": "unset means none",
            "set": _typed(by_hand[key], is_share=False) if key in by_hand else "",
        })  # fmt: skip
    rows.append({
        "key": SIZE_STEP, "label": "size step", "unit": "sq ft", "measured": "found for each neighborhood", "origin": "measured",
        "set": f"{by_hand[SIZE_STEP]:g}" if SIZE_STEP in by_hand else "",
    })  # fmt: skip
    return rows, constants


@require_http_methods(["GET", "POST"])
def settings(request: HttpRequest, pk: int) -> HttpResponse:
    """Show the constants of a county's comps, and set some by hand."""
    scope = scope_of(request)
    county = get_object_or_404(County, pk=pk)
    found, error = settings_of(scope.team, county), ""
    lines = found.lines if found and found.lines else "\n".join(map(str, USUAL_OF_HOUSES))
    if request.method == "POST":
        lines = request.POST.get("lines", "")[:4_000]
        try:
            set_settings(scope, county, lines, read_constants(request.POST.dict()))
            messages.success(request, "Set. Comps in this county are told by it from now on; what was kept stays as it was.")
            return redirect("deals:settings", pk)
        except (PoolError, SettingsError) as wrong:
            error = sentence_of(wrong)
    rows, constants = _rows(county, scope, found)
    if error:
        rows = [row | {"set": request.POST.get(row["key"], "")[:30]} for row in rows]
    context = {
        "place": "deals", "county": county, "rows": rows, "constants": constants, "lines": lines, "error": error,
        "may_change": may_change(scope), "changed": found,
    }  # fmt: skip
    return render(request, "deals/settings.html", context, status=400 if error else 200)
