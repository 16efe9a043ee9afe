"""A list made, or added to, of what is pasted or imported in a file: parcel numbers, listing numbers or addresses."""

from __future__ import annotations

from typing import Any, cast

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.forms import ListForm
from jaded_ledger.lists.import_members import File, ImportedMembers, import_file, import_text
from jaded_ledger.lists.list_views import list_of
from jaded_ledger.lists.messages import ListError, say_done, so_many, the_others
from jaded_ledger.lists.models import ParcelList

MISSING_SHOWN = 200


def _imported(request: HttpRequest, scope: Scope) -> ImportedMembers | None:
    """Return what was imported, if anything was. Raises ListError and CriteriaError."""
    file, text = request.FILES.get("file"), str(request.POST.get("pasted", ""))
    everywhere = Answer(SearchPage(Search()), scope).compiled
    if file is not None:
        return import_file(cast("File", file), everywhere)
    return import_text(text, everywhere) if text.strip() else None


def _waits(request: HttpRequest, imported: ImportedMembers | None) -> dict[str, Any]:
    """Return what is said of lines that were not found, if it was not said yet."""
    if imported is None or not imported.found.missing or "anyway" in request.POST:
        return {}
    more = max(0, len(imported.found.missing) - MISSING_SHOWN)
    return {"imported": imported, "missing": imported.found.missing[:MISSING_SHOWN], "more": more, "pasted": imported.text}


@require_http_methods(["GET", "POST"])
def new(request: HttpRequest) -> HttpResponse:
    """A new list, empty or of what is imported."""
    scope = scope_of(request)
    if request.method == "POST":
        # Before anything of a file is read.
        require(scope, LISTS)
    form = ListForm(request.POST or None, scope.today)
    context: dict[str, Any] = {"place": "lists", "form": form, "pasted": request.POST.get("pasted", "")}
    if request.method != "POST" or not form.is_valid():
        return render(request, "lists/new.html", context, status=400 if form.is_bound else 200)
    try:
        imported = _imported(request, scope)
        if waits := _waits(request, imported):
            return render(request, "lists/new.html", context | waits)
        with transaction.atomic():
            made = services.make_list(scope, form.cleaned_data["name"], **form.about)
            if imported is not None:
                services.add(scope, made, imported.found.parcels)
    except (ListError, CriteriaError) as error:
        return render(request, "lists/new.html", context | {"error": error}, status=400)
    return redirect("lists:list", made.pk)


@require_http_methods(["GET", "POST"])
def add_to(request: HttpRequest, pk: int) -> HttpResponse:
    """More for a list that is there."""
    scope = scope_of(request)
    which: ParcelList = list_of(scope, pk)
    context: dict[str, Any] = {"place": "lists", "list": which, "pasted": request.POST.get("pasted", "")}
    if request.method != "POST":
        return render(request, "lists/add.html", context)
    require(scope, LISTS)
    try:
        imported = _imported(request, scope)
        if imported is None:
            raise ListError("nothing is pasted yet, and no file is chosen")
        if waits := _waits(request, imported):
            return render(request, "lists/add.html", context | waits)
        done = services.add(scope, which, imported.found.parcels)
    except (ListError, CriteriaError) as error:
        return render(request, "lists/add.html", context | {"error": error}, status=400)
    of = len(imported.found.parcels)
    say_done(request, f"{so_many(done, of)} added to “{which.name}”{the_others(done, of, 'were on it')}.", done)
    return redirect("lists:list", pk)
