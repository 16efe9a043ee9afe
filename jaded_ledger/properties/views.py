"""A property's page, its photographs, and its owner's telephone numbers."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from urllib.parse import urlsplit

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBadRequest, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.grades import grade_of, set_grade
from jaded_ledger.accounts.models import AreaGrade
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.compiler import values_of_search
from jaded_ledger.find.explanations import NotDerivedError, explained
from jaded_ledger.find.search_page import search_page_of
from jaded_ledger.properties.acts import OWNERS
from jaded_ledger.properties.below_views import day_of, sections_below
from jaded_ledger.properties.current_listing import current_of, first_image_ids
from jaded_ledger.properties.history_chart import history_chart_of
from jaded_ledger.properties.identity import facts_of, key_figures
from jaded_ledger.properties.outline_drawing import draw_outline
from jaded_ledger.properties.owners import decisions_on, require_undoer
from jaded_ledger.properties.pager import pager_of
from jaded_ledger.properties.property_acts import offered_acts, offered_selection_acts
from jaded_ledger.properties.record_kinds import KIND_OF, PropertyRecord, printable
from jaded_ledger.properties.statement import About, recorded_lines, statement
from jaded_ledger.properties.tables import table_of
from jaded_ledger.properties.view_log import log_view
from jaded_ledger.records.models import Contact, Owner, Parcel, ParcelFacts, StoredImage, StoredPaper, earliest_days
from jaded_ledger.records.owners import OwnersError, merge, split, undo
from jaded_ledger.records.reading import record_of


def figures_context(parcel: Parcel, scope: Scope) -> dict[str, Any]:
    facts = facts_of(parcel, scope)
    if facts is None:
        return {"facts": None, "address": "", "figures": []}
    return {"facts": facts, "address": facts.street_line, "figures": key_figures(facts)}


def statement_context(record: PropertyRecord, about: str, scope: Scope) -> dict[str, Any]:
    """Return the statement: with running figures as it stands, without them as it stood on an earlier day."""
    findings = None
    if record.day is None and record.parcel.retired_on is None:
        findings = Findings(record_of(record.parcel, alone=True), scope.today)
    lines = statement(record, findings) if findings else recorded_lines(record)
    found = {line.about for line in lines}
    closing = next((line.balance for line in reversed(lines) if line.balance), None)
    return {
        "lines": [line for line in lines if about not in found or line.about == about],
        "lines_count": len(lines),
        "abouts": [one for one in About if one in found],
        "about": about if about in found else "",
        "closing": closing and replace(closing, value=findings.estimate.value if findings and findings.estimate else None),
        "history_chart": history_chart_of(findings) if findings else None,
    }


@require_GET
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """What is on record of a parcel, as it stands or as it stood on a day: its figures and its statement. What stands below comes after."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county", "parent"), pk=pk)
    typed = request.GET.get("as_of", "")
    record = PropertyRecord(parcel, day_of(typed))
    shape = record.shape
    pager, figures = pager_of(request.GET, scope, pk), figures_context(parcel, scope)
    context = {
        "place": "find",
        "parcel": parcel,
        "record": record,
        "wrong_day": typed if typed and record.day is None else "",
        "pager": pager,
        "recorded_through": earliest_days().get(parcel.county_id),
        "shape": shape,
        "drawing": draw_outline(parcel, shape) if shape else None,
        "sections": sections_below(),
        "more_address": f"{reverse('properties:more', args=[pk])}{f'?as_of={record.day}' if record.day else ''}",
        "printable": printable(),
        "acts": offered_acts(parcel, scope) if parcel.retired_on is None else [],
        "selection_acts": offered_selection_acts(),
        "grades": AreaGrade.Grade.values,
        "grade": grade_of(scope, record.roll.neighborhood_id) if record.roll else "",
        "kept": [(name, value) for name, value in request.GET.items() if name not in ("as_of", "show")],
        **statement_context(record, request.GET.get("show", ""), scope),
        **figures,
        "current": current_of(record, figures["facts"]),
        "images_ahead": first_image_ids(pager.following_id) if pager and pager.following_id else [],
    }
    return render(request, "properties/property.html", context)


@require_POST
def owner(request: HttpRequest, pk: int) -> HttpResponse:
    """Merge the owner with another, split off some of its spellings, or take such a decision back."""
    scope = scope_of(request)
    require(scope, OWNERS)
    facts = get_object_or_404(ParcelFacts.objects.select_related("owner"), parcel=pk, owner__isnull=False)
    assert facts.owner is not None
    try:
        match request.POST.get("do"):
            case "merge":
                merge(facts.owner, get_object_or_404(Owner, pk=_number(request.POST.get("other"))), scope.team, scope.user)
                said = "Merged. What follows from it is derived; it can be undone here."
            case "split":
                split(facts.owner, [_number(one) for one in request.POST.getlist("spelling")], scope.team, scope.user)
                said = "Split off. What follows from it is derived; it can be undone here."
            case "undo":
                decision = get_object_or_404(decisions_on(facts.owner), pk=_number(request.POST.get("decision")))
                require_undoer(decision, scope)
                undo(decision)
                said = "Undone: the spellings are again whose they were."
            case _:
                raise Http404("there is no such thing to do")
        messages.success(request, said)
    except OwnersError as error:
        messages.error(request, str(error))
    return redirect(f"{reverse('properties:property', args=[pk])}#holdings")


def _number(text: str | None) -> int:
    """Return an id from a form. Raises Http404."""
    found = whole_number(text)
    if found is None:
        raise Http404("there is no such row")
    return found


@require_GET
def explain(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """How a parcel's value of a trait came about, as a small ledger."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county"), pk=pk)
    trait = CATALOGUE.get(key)
    if trait is None:
        raise Http404("there is no such trait")
    try:
        found = explained(parcel, trait, scope, _search_beneath(request, scope))
    except NotDerivedError as error:
        raise Http404(str(error)) from error
    facts = ParcelFacts.objects.select_related("address").get(pk=parcel.pk)
    context = {"place": "find", "parcel": parcel, "found": found, "address": facts.street_line}
    return render(request, "properties/_explained.html" if request.htmx else "properties/explained.html", context)  # type: ignore[attr-defined]


def _search_beneath(request: HttpRequest, scope: Scope) -> Search:
    """Return the search of the page in which a figure is opened; an empty one where that can't be told or asked."""
    address = request.htmx.current_url if request.htmx else None  # type: ignore[attr-defined]
    try:
        search = search_page_of(QueryDict(urlsplit(address or "").query), scope.team).search
        values_of_search(search, scope)
    except (CriteriaError, ValueError):
        return Search()
    return search


@require_POST
def contacts(request: HttpRequest, pk: int) -> HttpResponse:
    """The owner's telephone numbers and e-mail addresses; who asked for them is noted."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county"), pk=pk)
    table = table_of(KIND_OF[Contact], PropertyRecord(parcel))
    log_view(scope, parcel, len(table.entries))
    if not request.htmx:  # type: ignore[attr-defined]
        return render(request, "properties/contacts.html", {"table": table, "parcel": parcel})
    return render(request, "properties/_table.html", {"table": table})


@require_POST
def grade(request: HttpRequest, pk: int) -> HttpResponse:
    """The team's grade of the neighborhood that the roll puts the parcel in."""
    scope = scope_of(request)
    record = PropertyRecord(get_object_or_404(Parcel.objects.select_related("county"), pk=pk))
    if record.roll is None or record.roll.neighborhood_id is None:
        raise Http404("the roll puts this parcel in no neighborhood")
    try:
        set_grade(scope, record.roll.neighborhood_id, request.POST.get("grade", ""))
    except ValueError as error:
        return HttpResponseBadRequest(str(error))
    return HttpResponse(status=204) if request.htmx else redirect("properties:property", pk)  # type: ignore[attr-defined]


@require_GET
@cache_control(private=True, max_age=86_400, immutable=True)
def photograph(request: HttpRequest, pk: int) -> HttpResponse:
    """One image."""
    scope_of(request)
    image = get_object_or_404(StoredImage, pk=pk)
    return HttpResponse(bytes(image.content), content_type=image.content_type)


@require_GET
@cache_control(private=True, max_age=86_400, immutable=True)
def paper(request: HttpRequest, pk: int) -> HttpResponse:
    """A paper of a court case, for the browser's own viewer."""
    scope_of(request)
    found = get_object_or_404(StoredPaper, pk=pk)
    answer = HttpResponse(bytes(found.content), content_type="application/pdf")
    answer["Content-Disposition"] = "inline"
    return answer
