"""The constants of a county's comps: as they were measured, and as the team sets them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.comps.acts import COMPS
from jaded_ledger.comps.models import CompSettings
from jaded_ledger.comps.settings_by_hand import (
    OF_LAND_ALONE,
    PLAIN,
    SHARES,
    SIZE_STEP,
    SettingsError,
    measured,
    read_constants,
    set_settings,
    settings_of,
)
from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES, PoolError
from jaded_ledger.core.comps.terms import GRADES, OF_HOUSES, OF_LAND, Shape, Term
from jaded_ledger.records.models import County
from jaded_ledger.web.sentences import sentence_of

Row = tuple[str, str, str, str, str]
"""A constant: its key, what it is called, what was measured, where that comes from, and the unit in which it is typed."""


def _typed(key: str, value: float) -> str:
    """Return a constant as it is typed."""
    if key in SHARES or key in PLAIN:
        return f"{value:.4g}"
    return f"{100 * (value if key == 'likeness-adjustment' else math.expm1(value)):.4g}"


def _percent_text(log: float, unit: str) -> str:
    return f"{100 * math.expm1(log):+.2f} % {unit}".replace("-", "−")


def _of_terms(constants: Constants, terms: Sequence[Term], prefix: str, of: str) -> Iterator[Row]:
    """Yield a row for each term of a kind of property, and one for time."""
    known = {one.term.key: one for one in constants.coefficients}
    for term in terms:
        one = known.get(term.key)
        unit = f"of {term.unit}" if term.shape is Shape.SHARE else f"% {term.unit}"
        yield prefix + term.key, f"{of}{term.label}", one.text if one else "not told by the sales", str(one.origin) if one else "", unit
    yield f"{prefix}time", f"{of}time", _percent_text(constants.monthly, "a month"), str(constants.time_origin), "% a month"


def _every(county: County, scope: Scope) -> tuple[list[Row], Constants]:
    month = scope.today.replace(day=1)
    houses, land = (measured(county, scope.today, month, is_land=is_land) for is_land in (False, True))
    rows = [*_of_terms(houses, OF_HOUSES, "", ""), *_of_terms(land, OF_LAND, OF_LAND_ALONE, "land: ")]
    rows += [
        (one.term.key, f"recorded {one.term.label}", one.text, str(one.origin), "%")
        for one in houses.coefficients
        if one.term.trait == "condition"
    ]
    rows += [(f"grade-{grade}", f"condition graded {word}", "none", "unset means none", "%") for grade, word in GRADES.items()]
    rows.append((SIZE_STEP, "size step", "found for each neighborhood", "measured", "sq ft"))
    origin, likeness = str(houses.likeness.origin), houses.likeness
    rows += [
        ("likeness-miles", "a comp counts 2.7 times less: so far away", f"{likeness.miles:g}", origin, "miles"),
        ("likeness-adjustment", "… with so much to adjust", f"{100 * likeness.adjustment:g} %", origin, "% of its price"),
        ("likeness-months", "… so long ago", f"{likeness.months:g}", "shipped", "months"),
    ]
    return rows, houses


def _rows(county: County, scope: Scope, found: CompSettings | None) -> tuple[list[dict[str, str]], Constants]:
    """Return a row for each constant: what was measured, and what the team set; and the constants of houses."""
    by_hand = found.constants if found else {}
    every, houses = _every(county, scope)
    rows = []
    for key, label, text, origin, unit in every:
        typed = _typed(key, by_hand[key]) if key in by_hand else ""
        rows.append({"key": key, "label": label, "measured": text, "origin": origin, "unit": unit, "set": typed})
    return rows, houses


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
            return redirect("comps:settings", pk)
        except (PoolError, SettingsError) as wrong:
            error = sentence_of(wrong)
    rows, constants = _rows(county, scope, found)
    if error:
        rows = [row | {"set": request.POST.get(row["key"], "")[:30]} for row in rows]
    context = {
        "place": "deals", "county": county, "rows": rows, "constants": constants, "lines": lines, "error": error,
        "may_change": may(scope, COMPS), "changed": found,
    }  # fmt: skip
    return render(request, "comps/settings.html", context, status=400 if error else 200)
