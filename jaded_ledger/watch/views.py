"""The morning: what came, went and changed in the searches that one watches, read a row at a time, and the days ahead."""

from __future__ import annotations

from datetime import datetime
from typing import Any, NamedTuple
from urllib.parse import urlencode

from django.contrib import messages
from django.db.models import Max
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.roles import Act, may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.clients.mails import mails_waiting
from jaded_ledger.core.watching.news import NewsKind
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.lists.acts import LISTS
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.messages import ListError
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.lists.services import make_list
from jaded_ledger.lists.stages import stages_of
from jaded_ledger.properties.current_listing import first_image_ids
from jaded_ledger.records.models import Parcel, SourceFile
from jaded_ledger.watch import feeds, morning
from jaded_ledger.watch.acts import MORNING_HOUR, NOTES
from jaded_ledger.watch.models import Mark
from jaded_ledger.watch.morning import Morning
from jaded_ledger.watch.news import Item
from jaded_ledger.watch.reasons import reason_of
from jaded_ledger.watch.shown_row import done_with, row_context
from jaded_ledger.watch.tasks import tell_soon
from jaded_ledger.watch.watching import WatchError, watches_of
from jaded_ledger.web.returning import address_to_return_to
from jaded_ledger.web.sentences import sentence_of

KEPT_TO, DONE_BEFORE = "morning_list", "morning_done_before"
_NEW_LIST = "Kept in the morning"
_READS = ("next", "pass", "keep")
"""What is done with a row that is read by it."""


class _Typed(NamedTuple):
    """Something that is done with a row by typing a word."""

    do: str
    key: str
    label: str
    needs: Act | None = None


TYPED_ACTS = (
    _Typed("pass", "p", "pass"),
    _Typed("tag", "t", "tag", LISTS),
    _Typed("stage", "s", "stage", LISTS),
    _Typed("note", "n", "note", NOTES),
)


def _address_of(item: Item | None, when: str) -> str:
    """Return the address of a row; of the page without one."""
    asked = {"when": when} if when else {}
    if item is not None:
        asked |= {"search": str(item.watch.pk), "kind": item.news.kind.value, "row": str(item.parcel_id)}
    return f"{reverse('watch:morning')}{'?' if asked else ''}{urlencode(asked)}"


def _when(sent: QueryDict) -> str:
    when = sent.get("when", "")
    return when if when in (morning.YESTERDAY, morning.WEEK) else morning.TODAY


def _why_addresses(scope: Scope, items: list[Item], when: str) -> list[str]:
    """Return where the reason for each row is: it takes longer than all else of the row, so it comes after it, or ahead of it.

    The address names what was done last with the row, which stands beside the reason: what was fetched before is not shown again.
    """
    marks = Mark.objects.filter(user=scope.user, parcel__in=[one.parcel_id for one in items]).order_by().values_list("parcel")
    last = dict(marks.annotate(Max("pk")))
    asked = [
        {
            "search": str(one.watch.pk), "row": str(one.parcel_id), "when": when, "to": one.watch.told_to.isoformat(),
            "mark": str(last.get(one.parcel_id, 0)),
        }
        for one in items
    ]  # fmt: skip
    return [f"{reverse('watch:why')}?{urlencode(one)}" for one in asked]


def _shown(request: HttpRequest, scope: Scope, found: Morning, when: str, place: int | None) -> dict[str, Any]:
    """Return what the page shows of a morning, with one of its rows, but for the reason."""
    item = found.items[place] if place is not None else None
    lists = list(lists_of(scope.team))
    kept_to = request.session.get(KEPT_TO)
    context: dict[str, Any] = {
        "place": "morning", "morning": found, "when": when, "today": scope.today, "tally": morning.tally_of(scope), "kinds": list(NewsKind),
        "lists": lists, "kept_to": kept_to if kept_to in {one.pk for one in lists} else None, "stages": stages_of(scope.team),
        "begin": f"{reverse('watch:morning')}?{urlencode({'when': when})}&" if when else f"{reverse('watch:morning')}?",
        "may_list": may(scope, LISTS), "item": item, "new_list": _NEW_LIST, "done_before": request.session.get(DONE_BEFORE),
        # What was typed is done: the field it stood in is another, and keys are the page's again.
        "last_mark": Mark.objects.filter(user=scope.user).values_list("pk", flat=True).first() or 0,
        "reasons": morning.reasons_of(scope),
        "typed_acts": [one for one in TYPED_ACTS if one.needs is None or may(scope, one.needs)] if not when else [],
    }  # fmt: skip
    if item is not None:
        same = [one for one in found.items if one.watch.pk == item.watch.pk]
        of_kind = [one for one in same if one.news.kind is item.news.kind]
        context |= row_context(item, scope)
        ahead = found.items[place + 1] if place is not None and place + 1 < len(found.items) else None
        why, *why_ahead = _why_addresses(scope, [item, ahead] if ahead else [item], when)
        context |= {
            "why": why, "why_ahead": next(iter(why_ahead), ""),
            "image_ahead": next(iter(first_image_ids(ahead.parcel_id)), None) if ahead else None,
            "tabs": [(kind, sum(one.news.kind is kind for one in same)) for kind in NewsKind],
            "at": of_kind.index(item) + 1, "of": len(of_kind),
            "following": _address_of(ahead, when) if ahead else "",
        }  # fmt: skip
    return context


def _days_ahead(request: HttpRequest, scope: Scope) -> dict[str, Any]:
    assert scope.user is not None
    feed, taken_in = feeds.feed_of(scope.user), SourceFile.objects.order_by("-taken_in_at").first()
    return {
        "due": feeds.due_until(scope, feeds.AHEAD), "taken_in_at": taken_in.taken_in_at if taken_in else None,
        "feed": feed, "has_lapsed": feed is None and feeds.has_lapsed(scope.user), "unused": feeds.UNUSED.days,
        "address": request.build_absolute_uri(reverse("watch:calendar", args=[feeds.key_of(feed)])) if feed else "",
        "calendar_days": feeds.IN_CALENDAR.days, "hour": scope.team.morning_hour, "may_set_hour": may(scope, MORNING_HOUR),
        "clients_waiting": mails_waiting(scope), "paused": watches_of(scope).exclude(paused_at=None), "hours": range(24),
    }  # fmt: skip


@require_GET
def show(request: HttpRequest) -> HttpResponse:
    """What one begins the day with; also yesterday's and the last week's."""
    scope, when = scope_of(request), _when(request.GET)
    found = morning.morning_of(scope, when)
    asked = (whole_number(request.GET.get("search")), request.GET.get("kind", ""), whole_number(request.GET.get("row")))
    place = found.place_of(*asked)
    context = _shown(request, scope, found, when, place) | _days_ahead(request, scope)
    if place is not None:
        context |= _why(found.items[place], scope)
    if not when and found.is_updating:
        context["is_updating"] = True
        tell_soon()
    return render(request, "watch/morning.html", context)


@require_GET
@cache_control(private=True, max_age=600)
def why(request: HttpRequest) -> HttpResponse:
    """Why a row is new, gone or changed. What it says of a moment does not change, so the next row's is fetched ahead."""
    scope, when = scope_of(request), _when(request.GET)
    found = morning.morning_of(scope, when)
    asked = (whole_number(request.GET.get("search")), whole_number(request.GET.get("row")))
    item = next((one for one in found.items if (one.watch.pk, one.parcel_id) == asked), None)
    if item is None:
        raise Http404("that row was read")
    return render(request, "watch/_why.html", {"item": item} | _why(item, scope))


def _why(item: Item, scope: Scope) -> dict[str, Any]:
    """Return why a row is told, and what was done with it: what takes long of a row."""
    return {"reason": reason_of(item, scope), "done": done_with(item, scope)}


@require_GET
def updating(request: HttpRequest) -> HttpResponse:
    """Whether watched searches are still running; when they have run, what they found."""
    scope = scope_of(request)
    found = morning.morning_of(scope)
    if found.is_updating:
        return HttpResponse(status=204)
    if request.GET.get("nothing"):
        return HttpResponse(headers={"HX-Refresh": "true"})
    context = {"morning": found, "begin": f"{reverse('watch:morning')}?", "tally": morning.tally_of(scope), "when": ""}
    return render(request, "watch/_updated.html", context | {"paused": watches_of(scope).exclude(paused_at=None)})


def _list_to_keep_on(request: HttpRequest, scope: Scope) -> ParcelList:
    """Return the list that was chosen; where the team has none yet, one is made. Raises ListError."""
    pk = whole_number(request.POST.get("list"))
    found = lists_of(scope.team).filter(pk=pk).first() if pk else None
    if found is None and (pk or lists_of(scope.team).exists()):
        raise ListError("choose the list to keep it on")
    found = found or make_list(scope, _NEW_LIST)
    request.session[KEPT_TO] = found.pk
    return found


def _do(request: HttpRequest, scope: Scope, parcel: Parcel, told_to: datetime) -> str:
    """Do with a row what was asked, and return what is said of it. Raises ListError and WatchError."""
    typed = request.POST.get("typed", "")
    match request.POST.get("do"):
        case "next":
            morning.look(scope, parcel, told_to)
            return ""
        case "pass":
            morning.pass_over(scope, parcel, told_to, typed)
            return ""
        case "keep":
            to = _list_to_keep_on(request, scope)
            mark = morning.keep(scope, parcel, told_to, to)
            return f"Kept on “{to.name}”." if mark.activity else f"It was on “{to.name}” before."
        case "tag":
            return "Tagged." if morning.tag(scope, parcel, typed) else "It has that tag, or is not on record any more."
        case "stage":
            return "Its stage is set." if morning.set_stage(scope, parcel, typed) else "It is at that stage."
        case "note":
            morning.note(scope, parcel, typed)
            return "Noted."
    raise Http404("there is no such thing to do")


def _moment(text: str) -> datetime:
    """Return up to when the page told that a form was on. Raises Http404."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise Http404("no such moment") from None
    if found.tzinfo is None:
        raise Http404("no such moment")
    return found


@require_POST
def act(request: HttpRequest) -> HttpResponse:
    """Do something with the row that is shown, and go on to the next; or take back what was done last."""
    scope, when = scope_of(request), _when(request.POST)
    found = before = morning.morning_of(scope, when)
    watch, kind = whole_number(request.POST.get("search")), request.POST.get("kind", "")
    row = whole_number(request.POST.get("row"))
    try:
        if request.POST.get("do") == "undo":
            row, said = morning.undo(scope).parcel_id, "Taken back."
            found = morning.morning_of(scope, when)
        else:
            parcel = get_object_or_404(Parcel, pk=row)
            said = _do(request, scope, parcel, _moment(request.POST.get("told_to", "")))
            if request.POST.get("do") in _READS and not when:
                found = before.without(parcel.pk)
        if said:
            messages.success(request, said)
    except ListError as error:
        messages.error(request, sentence_of(error))
    except WatchError as error:
        messages.error(request, str(error))
    is_undone = found is not before and request.POST.get("do") == "undo"
    place = found.place_of(watch, kind, row) if is_undone else _next_place(before, found, watch, kind, row)
    address = _address_of(found.items[place] if place is not None else None, when)
    if not request.htmx:  # type: ignore[attr-defined]
        return redirect(address)
    context = _shown(request, scope, found, when, place) | {"paused": watches_of(scope).exclude(paused_at=None)}
    answer = render(request, "watch/_after_act.html", context | {"hour": scope.team.morning_hour})
    answer["HX-Replace-Url"] = address
    return answer


def _next_place(before: Morning, now: Morning, watch: int | None, kind: str, row: int | None) -> int | None:
    """Return which row comes after one: that itself while it waits, else the next of those that were there with it."""
    places = {(one.watch.pk, one.parcel_id): place for place, one in enumerate(now.items)}
    at = before.place_of(watch, kind, row)
    for item in before.items[at:] if at is not None else ():
        if (place := places.get((item.watch.pk, item.parcel_id))) is not None:
            return place
    return now.place_of(watch, kind, row)


@require_POST
def undo_mark(request: HttpRequest, pk: int) -> HttpResponse:
    """Take back what was done to a property, and go back to where that was asked."""
    scope = scope_of(request)
    try:
        morning.undo_mark(scope, pk)
        messages.success(request, "Undone.")
    except WatchError as error:
        messages.error(request, str(error))
    except ListError as error:
        messages.error(request, sentence_of(error))
    return HttpResponseRedirect(address_to_return_to(request, reverse("watch:morning")))


@require_POST
def done(request: HttpRequest) -> HttpResponse:
    """Be done with all that waits, or have it wait again."""
    scope = scope_of(request)
    if request.POST.get("do") == "again":
        before = request.session.pop(DONE_BEFORE, None)
        if before:
            morning.not_be_done(scope, before)
    else:
        request.session[DONE_BEFORE] = morning.mark_read(scope, list(watches_of(scope).filter(paused_at=None)))
        messages.success(request, "Done with these. They can be read again under Yesterday or Last week.")
    return redirect("watch:morning")
