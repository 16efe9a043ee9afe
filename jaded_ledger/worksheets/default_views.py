"""What a team assumes in its worksheets: in general, in a county or a city, by its grades of neighborhoods, and in one neighborhood."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.deals.inputs import INPUTS, LOAN_LABELS, Exit, Input, InputError
from jaded_ledger.core.deals.reading import typed_text
from jaded_ledger.records.models import Area
from jaded_ledger.web.sentences import sentence_of
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.defaults import MARKETS, read_values, set_defaults
from jaded_ledger.worksheets.fields import Field
from jaded_ledger.worksheets.models import WorksheetDefaults
from jaded_ledger.worksheets.screened import ask_to_screen

_GROUPS: dict[str, str] = {
    **{str(one): one.label for one in Exit}, **LOAN_LABELS, "hold": "over the years", "seller": "the seller's side",
    "offer": "the highest offer",
}  # fmt: skip
_ALL = "the property and its costs"
_KINDS = (*MARKETS, Area.AreaKind.NEIGHBORHOOD)
_MOST = 500


def _group(one: Input) -> str:
    of, dot, _ = one.key.partition(".")
    if of == "seller" and one.key.split(".")[1] in ("share", "rate", "years", "points", "interest-only"):
        return LOAN_LABELS["seller"]
    return _GROUPS.get(of, _ALL) if dot else _ALL


def _where(request: HttpRequest) -> tuple[str, Area | None]:
    """Return of which grade or area the assumptions are asked; in general where of neither."""
    asked = request.GET.get("of", "")
    kind, _, which = asked.partition(":")
    if kind == "grade" and which in AreaGrade.Grade.values:
        return which, None
    if kind == "area" and which.isdecimal() and len(which) < 12:
        return "", Area.objects.filter(pk=int(which), kind__in=_KINDS).first()
    return "", None


def _groups(values: dict[str, float], typed: dict[str, str] | None) -> list[tuple[str, list[dict[str, Any]]]]:
    groups: dict[str, list[dict[str, Any]]] = {}
    for key, one in INPUTS.items():
        if not one.can_default:
            continue
        set_here = typed_text(values.get(key), one.unit) if typed is None else typed.get(key, "")[:30]
        field = Field(key, one.label, set_here, one.unit, meaning=one.meaning)
        groups.setdefault(_group(one), []).append({"field": field, "usual": typed_text(one.usual, one.unit) or "·"})
    return list(groups.items())


def _places(scope: Scope) -> list[tuple[str, str]]:
    grades = [(f"grade:{one}", f"neighborhoods graded {one}") for one in AreaGrade.Grade.values]
    areas = Area.objects.filter(kind__in=_KINDS).select_related("county").order_by("county__name", "text")
    of_kind = {kind: [one for one in areas if one.kind == kind] for kind in _KINDS}
    return [
        ("", "everywhere"),
        *((f"area:{area.pk}", f"{area.text} County") for area in of_kind[Area.AreaKind.COUNTY]),
        *((f"area:{area.pk}", f"{area.text} (city)") for area in of_kind[Area.AreaKind.CITY][:_MOST]),
        *grades,
        *((f"area:{area.pk}", f"{area.text}, {area.county.name if area.county else ''}") for area in of_kind[_KINDS[-1]][:_MOST]),
    ]


@require_http_methods(["GET", "POST"])
def assumptions(request: HttpRequest) -> HttpResponse:
    """Show what the team assumes, and set it. Worksheets follow from then on; what was kept stays."""
    scope = scope_of(request)
    grade, area = _where(request)
    error, typed = "", None
    if request.method == "POST":
        typed = {name: request.POST[name] for name in request.POST}
        try:
            set_defaults(scope, read_values(typed), grade=grade, area=area)
            ask_to_screen(scope)
            messages.success(request, "Set. Worksheets follow from now on; versions that were kept stay as they were.")
            asked = request.GET.get("of", "")
            return redirect(reverse("worksheets:assumptions") + (f"?of={asked}" if asked and (grade or area) else ""))
        except InputError as wrong:
            error = sentence_of(wrong)
    found = WorksheetDefaults.objects.filter(team=scope.team, grade=grade, area=area).select_related("changed_by").first()
    where = f"area:{area.pk}" if area else f"grade:{grade}" if grade else ""
    places = _places(scope)
    context = {
        "place": "deals", "groups": _groups(found.values if found else {}, typed if error else None), "error": error,
        "may_change": may(scope, WORKSHEETS), "changed": found, "everywhere": places, "where": where,
        "where_label": dict(places).get(where, "everywhere"),
    }  # fmt: skip
    return render(request, "worksheets/assumptions.html", context, status=400 if error else 200)
