"""One list: what it is, what has come about of its rows since they were added, and what is done about it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.db.models import QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue.choices import STATUSES
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.stacking.changes_since import SinceAdded
from jaded_ledger.core.stacking.combining import on_lists, stale_on
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.lists import services
from jaded_ledger.lists.cached_counts import cached_count
from jaded_ledger.lists.changes_since import change_counts, with_change
from jaded_ledger.lists.counts import current, lists_of, retired
from jaded_ledger.lists.forms import ListForm
from jaded_ledger.lists.messages import ListError, say_done
from jaded_ledger.lists.models import Activity, Membership, ParcelList
from jaded_ledger.lists.owners_with_several import owners_with_several
from jaded_ledger.lists.staleness import stale_memberships
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.web.sentences import sentence_of

SHOWN = 50
STALE = "stale"
RETIRED = "retired"
_STATUSES: dict[int | None, str] = {choice.code: choice.key for choice in STATUSES}


@dataclass(frozen=True)
class ChangedRows:
    """What has come about of some of a list's rows, of which, and of how many."""

    key: str
    reads: str
    rows: QuerySet[Membership]
    count: int


@dataclass(frozen=True)
class ShownRow:
    """A row of a list, the street address of its parcel, and how it stood then and stands now."""

    row: Membership
    street: str
    then: str
    now: str


def list_of(scope: Scope, pk: int) -> ParcelList:
    """Return a team's list. Raises Http404."""
    return get_object_or_404(lists_of(scope.team), pk=pk)


def _kinds(which: ParcelList) -> dict[str, tuple[str, QuerySet[Membership]]]:
    """Return by a key for it what can have come about of a list's rows since they were added, and those of which it has."""
    rows = current([which])
    found = {STALE: ("stale: passed to somebody else since", stale_memberships(rows))}
    found |= {what.name.casefold(): (str(what), with_change(rows, what)) for what in SinceAdded}
    return found | {RETIRED: ("retired: the county no longer has the parcel", retired([which]))}


def _counts(which: ParcelList) -> dict[str, int]:
    rows = current([which])
    found = {STALE: stale_memberships(rows).count(), RETIRED: retired([which]).count()}
    return found | {what.name.casefold(): count for what, count in change_counts(rows).items()}


def changes_of_list(which: ParcelList) -> list[ChangedRows]:
    """Return what has come about of a list's rows since they were added."""
    counts = cached_count(which.team_id, f"since:{which.pk}", lambda: _counts(which))
    return [ChangedRows(key, reads, rows, counts[key]) for key, (reads, rows) in _kinds(which).items()]


def _change_text(key: str, row: Membership) -> tuple[str, str]:
    """Return how a row stood when it was added, and how it stands now."""
    if key == RETIRED:
        assert row.parcel.retired_on is not None  # only of those that the county has retired
        return "", f"retired {day_text(row.parcel.retired_on)}"
    facts = row.parcel.facts
    if key in (SinceAdded.LISTED.name.casefold(), SinceAdded.OFF_MARKET.name.casefold()):
        since = f" since {day_text(facts.status_since)}" if facts.status_since else ""
        return _STATUSES.get(row.status, "not listed"), f"{_STATUSES.get(facts.status, 'not listed')}{since}"
    if key == SinceAdded.PAID_UP.name.casefold():
        return f"${row.tax_due or 0:,} due", "none due"
    then, now = (in_reading_case(one.text) if one else "no name on record" for one in (row.owner_name, facts.owner_name))
    filed = facts.probate if key == SinceAdded.DIED.name.casefold() else None
    return then, f"{now}; probate filed {day_text(filed)}" if filed else now


def _shown(came: ChangedRows) -> list[ShownRow]:
    rows = came.rows.select_related("parcel", "owner_name", "parcel__facts__owner_name", "parcel__facts__address").order_by("pk")[:SHOWN]
    return [ShownRow(row, "" if came.key == RETIRED else row.parcel.facts.street_line, *_change_text(came.key, row)) for row in rows]


def _asked(found: Sequence[ChangedRows], key: str) -> ChangedRows | None:
    """Return what is asked for, or the first there is any of."""
    return next((one for one in found if one.key == key and one.count), next((one for one in found if one.count), None))


@require_http_methods(["GET", "POST"])
def one_list(request: HttpRequest, pk: int) -> HttpResponse:
    """A list, and the form that changes what is said of it."""
    scope = scope_of(request)
    which = list_of(scope, pk)
    initial = {name: getattr(which, name) for name in ListForm.base_fields}
    form, error = ListForm(request.POST or None, scope.today, initial=initial), ""
    if request.method == "POST" and form.is_valid():
        try:
            services.describe(scope, which, form.cleaned_data["name"], **form.about)
            return redirect("lists:list", pk)
        except ListError as wrong:
            error = str(wrong)
    found = changes_of_list(which)
    asked = _asked(found, request.GET.get("show", ""))
    search, rows = Search((), (on_lists([which.name]),)), current([which])
    context: dict[str, Any] = {
        "place": "lists",
        "list": which,
        "form": form,
        "error": error,
        "count": rows.count(),
        "since": found,
        "asked": asked,
        "shown": _shown(asked) if asked else [],
        "repeated": cached_count(
            scope.team.pk, f"repeated:{which.pk}", lambda: owners_with_several(parcels(scope).filter(parcel__in=rows.values("parcel")))
        ),
        "find": SearchPage(search).address(scope.team),
        "parts": in_order(hooks.about_list(which=which, scope=scope)),
        "find_stale": SearchPage(stale_on(which.name)).address(scope.team),
    }
    return render(request, "lists/list.html", context, status=400 if error or (form.is_bound and not form.is_valid()) else 200)


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Drop those of a list's rows of which something has come about, do something else with them, or delete the list."""
    scope = scope_of(request)
    # One that somebody else has deleted is told so by the act.
    which = get_object_or_404(ParcelList, pk=pk, team=scope.team)
    try:
        if request.POST.get("do") == "delete":
            say_done(request, f"“{which.name}” is deleted. Activity can bring it back for 30 days.", services.delete_list(scope, which))
            return redirect("lists:all")
        return _act_on_rows(request, scope, which, request.POST.get("do", ""))
    except ListError as error:
        # Somebody else was quicker.
        messages.error(request, sentence_of(error))
        return redirect("lists:all")


def _act_on_rows(request: HttpRequest, scope: Scope, which: ParcelList, asked: str) -> HttpResponse:
    """Drop the rows of which something has come about, or go on to what shall be done with them. Raises ListError."""
    doing, _, key = asked.partition("-")
    kinds = _kinds(which)
    # A retired parcel can only be dropped: Find has it no more.
    if key not in kinds or doing not in ("drop", "keep") or (doing == "keep" and key == RETIRED):
        raise Http404("there is no such thing to do")
    reads, rows = kinds[key]
    ids = list(rows.values_list("parcel_id", flat=True))
    if not ids:
        messages.info(request, f"There is no row of that kind on the list any more: {reads}.")
        return redirect("lists:list", which.pk)
    if doing == "keep":
        search_page = SearchPage(Search((), (on_lists([which.name]),)))
        return redirect("lists:keep", keep(scope, search_page, ids, is_all=False).key)
    verb = Activity.Verb.DROP_STALE if key == STALE else Activity.Verb.REMOVE
    done = services.remove(scope, which, ids, verb)
    count = f"{done.rows if done else 0:,}"
    said = f"{count} stale rows dropped." if key == STALE else f"{count} rows dropped: {reads}."
    say_done(request, f"{said} Activity can bring them back for 30 days.", done)
    return redirect("lists:list", which.pk)
