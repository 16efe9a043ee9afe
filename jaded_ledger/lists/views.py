"""Lists: all of them, how they overlap, what was done to them, and what is done with a selection of Find."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.stacking.combining import on_lists
from jaded_ledger.core.stacking.overlap import MOST_LISTS, Counting, Order
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import current_text
from jaded_ledger.find.selections import parcels_of, selection_acts
from jaded_ledger.lists import services
from jaded_ledger.lists.chosen_lists import chosen_lists
from jaded_ledger.lists.counts import counted, lists_of
from jaded_ledger.lists.list_views import list_of
from jaded_ledger.lists.messages import ListError, say_done, so_many, the_others
from jaded_ledger.lists.models import Activity, ParcelList, Tag
from jaded_ledger.lists.overlap_chart import find_address, overlap_chart_of
from jaded_ledger.lists.stages import stages_of
from jaded_ledger.records.clock import now
from jaded_ledger.web.returning import address_to_return_to
from jaded_ledger.web.sentences import sentence_of

PAGE = 50


@require_GET
def all_lists(request: HttpRequest) -> HttpResponse:
    """Every list with its count, age and stale rows."""
    scope = scope_of(request)
    rows = [(one, find_address(on_lists([one.list.name]), scope.team)) for one in counted(scope.team)]
    return render(request, "lists/all.html", {"place": "lists", "view": "all", "rows": rows, "today": scope.today})


@require_GET
def overlap(request: HttpRequest) -> HttpResponse:
    """How up to twelve lists overlap, as a dot matrix with bars, and a table of what each two share."""
    scope = scope_of(request)
    every, chosen = chosen_lists(request.GET, scope.team, unless_asked=True)
    counting = Counting.AT_LEAST if request.GET.get("counting") == Counting.AT_LEAST.value else Counting.EXACTLY
    order = Order.LISTS if request.GET.get("order") == Order.LISTS.value else Order.SIZE
    is_too_many = len(chosen) > MOST_LISTS
    context = {
        "place": "lists",
        "view": "overlap",
        "every": every,
        "chosen": chosen[:MOST_LISTS],
        "is_too_many": is_too_many,
        "counting": counting.value,
        "order": order.value,
        "with_stale": "stale" in request.GET,
        "selection_acts": selection_acts(),
        "drawing": overlap_chart_of(chosen[:MOST_LISTS], counting, order, with_stale="stale" in request.GET) if chosen else None,
    }
    return render(request, "lists/overlap.html", context)


@require_GET
def activity(request: HttpRequest) -> HttpResponse:
    """Who did what to how many rows, and what can still be undone."""
    scope = scope_of(request)
    rows = Activity.objects.filter(team=scope.team).select_related("user", "undone_by").order_by("-at", "-pk")
    page = Paginator(rows, PAGE).get_page(request.GET.get("page"))
    for act in page:
        act.search = current_text(act.search, scope.team)
    oldest = now() - services.UNDONE_WITHIN
    return render(request, "lists/activity.html", {"place": "lists", "view": "activity", "page": page, "oldest": oldest})


@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo an act, and go back to where that was asked."""
    scope = scope_of(request)
    act_ = get_object_or_404(Activity, pk=pk, team=scope.team)
    try:
        rows = services.undo(scope, act_)
        messages.success(request, f"Undone: {act_.get_verb_display()} “{act_.about}”, {rows:,} rows.")
    except ListError as error:
        messages.error(request, sentence_of(error))
    return HttpResponseRedirect(address_to_return_to(request, reverse("lists:activity")))


@require_http_methods(["GET", "POST"])
def keep(request: HttpRequest, key: str) -> HttpResponse:
    """What is done with a selection of Find: put on a list, tagged, given a stage."""
    scope = scope_of(request)
    selection = get_object_or_404(Selection, key=key, team=scope.team)
    context: dict[str, Any] = {
        "place": "lists",
        "selection": selection,
        "lists": list(lists_of(scope.team)),
        "types": ParcelList.Type.choices,
        "tags": Tag.objects.filter(team=scope.team).order_by("folded"),
        "stages": stages_of(scope.team),
    }
    try:
        parcels = parcels_of(selection, scope)
        context["count"] = parcels.count()
        if request.method == "POST":
            ids = list(parcels.values_list("parcel_id", flat=True))
            say_done(request, *_kept(request, scope, selection, ids))
            return redirect("lists:keep", key)
    except (CriteriaError, ListError) as error:
        return render(request, "lists/keep.html", context | {"error": error, "sent": request.POST}, status=400)
    return render(request, "lists/keep.html", context)


def _chosen_list(request: HttpRequest, scope: Scope) -> ParcelList:
    if not request.POST.get("list"):
        raise ListError("no list is chosen yet; choose an existing one")
    return list_of(scope, whole_number(request.POST["list"]) or 0)


def _kept(request: HttpRequest, scope: Scope, selection: Selection, ids: list[int]) -> tuple[str, Activity | None]:
    """Do what was asked with a selection; return what was done, in words, and the act. Raises ListError, CriteriaError and Http404."""
    sent, of = request.POST, len(ids)
    done: Activity | None
    match sent.get("do"):
        case "list":
            with transaction.atomic():
                name = sent.get("name", "").strip()
                if name and sent.get("list"):
                    raise ListError("an existing list is chosen and a new one named; leave one of them out")
                kind = sent.get("type", "")
                type_ = kind if kind in ParcelList.Type.values else ParcelList.Type.WORKING_SET
                to = services.make_list(scope, name, type=type_) if name else _chosen_list(request, scope)
                done = services.add(scope, to, ids, selection.search)
            return f"{so_many(done, of)} added to “{to.name}”{the_others(done, of, 'were on it')}.", done
        case "unlist":
            off = _chosen_list(request, scope)
            done = services.remove(scope, off, ids)
            return f"{so_many(done, of)} removed from “{off.name}”{the_others(done, of, 'were not on it')}.", done
        case "tag":
            done = services.tag(scope, sent.get("tag", ""), ids)
            return f"{so_many(done, of)} tagged “{sent.get('tag', '').strip()}”{the_others(done, of, 'had it')}.", done
        case "untag":
            done = services.untag(scope, sent.get("tag", ""), ids)
            return f"The tag was removed from {so_many(done, of)}{the_others(done, of, 'did not have it')}.", done
        case "stage":
            if not sent.get("stage"):
                raise ListError("no stage is chosen yet; choose one, or none")
            stage = "" if sent["stage"] == "none" else sent["stage"]
            done = services.set_stage(scope, stage, ids)
            return f"{so_many(done, of)} are now at “{stage or 'no stage'}”{the_others(done, of, 'were')}.", done
    raise Http404("there is no such thing to do")
