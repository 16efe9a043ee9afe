"""The team's stages: named, ordered, added and taken away."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.stages import add_stage, give_up_stage, move_stage, rename_stage, stage_counts

_COLUMNS = ("stage", "stage-since", "urgency", "owner-name", "estimated-value")


def _find(name: str, scope: Scope) -> str:
    asked = Search((), (Criterion("stage", (Members(Quantity.ANY, (name,)),)),))
    return SearchPage(asked, _COLUMNS, "stage-since").address(scope.team)


def _done(request: HttpRequest, scope: Scope) -> None:
    """Do what was asked. Raises ListError, Http404 and PermissionDenied."""
    sent = request.POST
    pk, name = whole_number(sent.get("stage")) or 0, sent.get("name", "")
    match sent.get("do"):
        case "add":
            add_stage(scope, name)
        case "rename":
            rename_stage(scope, pk, name)
        case "up" | "down" as way:
            move_stage(scope, pk, -1 if way == "up" else 1)
        case "give-up":
            give_up_stage(scope, pk)
        case _:
            raise Http404("there is no such thing to do")


@require_http_methods(["GET", "POST"])
def stages(request: HttpRequest) -> HttpResponse:
    """The stages with how many parcels are at each."""
    scope = scope_of(request)
    error = ""
    if request.method == "POST":
        try:
            _done(request, scope)
            return redirect("lists:stages")
        except ListError as wrong:
            error = str(wrong)
    rows = [(count, _find(count.stage.name, scope)) for count in stage_counts(scope)]
    context = {"place": "lists", "view": "stages", "rows": rows, "error": error}
    context["typed"] = request.POST.get("name", "") if request.POST.get("do") == "add" else ""
    return render(request, "lists/stages.html", context, status=400 if error else 200)
