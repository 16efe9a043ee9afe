"""Urgency: what each sign is worth to the team, what became of such signs, and who stands highest."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.forms import BoundField
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.catalogue.choices import key_of
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.distress.lift import LEAST_CASES, Lift
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.distress.urgency import LIST_WEIGHT, WEIGHTS, Scale
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.value_counts import value_counts
from jaded_ledger.lists.counts import counted
from jaded_ledger.lists.forms import UrgencyForm
from jaded_ledger.lists.lifts import lifts_on_record
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.lists.urgency import scale_of, set_scale

_BY_URGENCY = ("urgency", "signals", "lists-held", "owner-name", "estimated-value", "equity-pct")


@dataclass(frozen=True)
class SignLine:
    """A sign with what it is worth, how many parcels have it open, and what became of such signs."""

    kind: SignalKind
    field: BoundField
    open_now: int
    find: str
    lift: Lift
    is_own: bool


def _by_urgency(search: str, scope: Scope) -> str:
    return SearchPage(parse(search), _BY_URGENCY, "-urgency").address(scope.team)


def _lines(form: UrgencyForm, scope: Scope) -> list[SignLine]:
    everywhere, weights = parcels(scope), scale_of(scope.team).weights
    counts = value_counts(everywhere, CATALOGUE["signals"])
    return [
        SignLine(
            lift.kind,
            form[key_of(lift.kind)],
            counts[key_of(lift.kind)],
            _by_urgency(f'signals: any of "{key_of(lift.kind)}"', scope),
            lift,
            weights[lift.kind] != WEIGHTS[lift.kind],
        )
        for lift in lifts_on_record()
    ]


@require_http_methods(["GET", "POST"])
def urgency(request: HttpRequest) -> HttpResponse:
    """What signs and lists are worth, beside what became of such signs."""
    scope = scope_of(request)
    reasons = [one for one in counted(scope.team) if one.list.type == ParcelList.Type.REASON]
    form = UrgencyForm(request.POST or None, scale_of(scope.team), [reason.list for reason in reasons])
    if request.method == "POST":
        if "as-shipped" in request.POST:
            set_scale(scope, Scale(), {reason.list.pk: LIST_WEIGHT for reason in reasons})
            messages.success(request, "Every sign and list is worth again what ships with the program.")
            return redirect("lists:urgency")
        if form.is_valid():
            set_scale(scope, form.scale, form.of_lists)
            messages.success(request, "Kept. Urgency is counted with these points from now on, for all of your team.")
            return redirect("lists:urgency")
    wrong = [f"{form[name].label}: {' '.join(map(str, errors))}" for name, errors in form.errors.items()]
    context = {
        "place": "lists",
        "view": "urgency",
        "form": form,
        "wrong": wrong,
        "lines": _lines(form, scope),
        "lists": [(reason, form[f"list-{reason.list.pk}"]) for reason in reasons],
        "find": _by_urgency("urgency: 1..", scope),
        "least": LEAST_CASES,
    }
    return render(request, "lists/urgency.html", context, status=400 if wrong else 200)
