"""Lists put together into a new one: what each way gives, how many owners have several of it, and the making of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.text import format
from jaded_ledger.core.stacking.combining import Way, ways
from jaded_ledger.core.stacking.overlap import MOST_LISTS
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import stored_text
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services
from jaded_ledger.lists.cached_counts import cached_count
from jaded_ledger.lists.chosen_lists import chosen_lists
from jaded_ledger.lists.counts import exactly
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.lists.owners_with_several import owners_with_several
from jaded_ledger.records.models import ParcelFacts


@dataclass(frozen=True)
class Combined:
    """A way of putting the chosen lists together, how many parcels it gives, and where Find shows them."""

    way: Way
    parcels: int
    find: str


def _combined(chosen: list[ParcelList], scope: Scope, *, with_stale: bool) -> list[Combined]:
    # All ways are counted at once; only that which is looked at is asked for by itself.
    counts = exactly(chosen, with_stale=with_stale)
    found = ways([one.name for one in chosen], with_stale=with_stale)
    return [Combined(way, way.count(counts), SearchPage(way.search).address(scope.team)) for way in found]


def _matches(one: Combined, scope: Scope) -> QuerySet[ParcelFacts]:
    return Answer(SearchPage(one.way.search), scope).matches


def _make(request: HttpRequest, scope: Scope, chosen: list[ParcelList], one: Combined) -> ParcelList:
    """Make the new list. It is a working set: what is on it is no further reason. Raises ListError and PermissionDenied."""
    note = f"Parcels {one.way.reads}: {', '.join(each.name for each in chosen)}."[:2000]
    with transaction.atomic():
        made = services.make_list(scope, request.POST.get("name", ""), type=ParcelList.Type.WORKING_SET, note=note)
        parcel_ids = _matches(one, scope).values_list("parcel_id", flat=True)
        services.add(scope, made, parcel_ids, stored_text(one.way.search, scope.team))
    return made


@require_http_methods(["GET", "POST"])
def combine(request: HttpRequest) -> HttpResponse:
    """Union, intersection and difference of lists."""
    scope = scope_of(request)
    sent = request.POST if request.method == "POST" else request.GET
    every, chosen = chosen_lists(sent, scope.team, unless_asked=False)
    context: dict[str, Any] = {"place": "lists", "view": "combine", "every": every, "chosen": chosen, "most": MOST_LISTS}
    context["with_stale"] = "stale" in sent
    if len(chosen) < 2 or len(chosen) > MOST_LISTS:
        return render(request, "lists/combine.html", context)
    found = _combined(chosen, scope, with_stale="stale" in sent)
    one = next((each for each in found if each.way.key == sent.get("how")), found[1])
    context |= {"found": found, "one": one, "name": request.POST.get("name", "")}
    context["chosen_query"] = urlencode([("list", each.pk) for each in chosen] + ([("stale", "on")] if "stale" in sent else []))
    if request.method == "POST":
        try:
            made = _make(request, scope, chosen, one)
            messages.success(
                request, f"“{made.name}” is made of {one.parcels:,} parcels {one.way.reads}. Activity can undo it for 30 days."
            )
            return redirect("lists:list", made.pk)
        except ListError as error:
            context["error"] = error
    what = f"repeated:{format(one.way.search)}"
    context["repeated"] = cached_count(scope.team.pk, what, lambda: owners_with_several(_matches(one, scope)))
    return render(request, "lists/combine.html", context, status=400 if "error" in context else 200)
