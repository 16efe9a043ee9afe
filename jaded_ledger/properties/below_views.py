"""What stands below a property's statement: the recorded rows, what is nearby, and what apps add. It is read after the page is there."""

from __future__ import annotations

from datetime import date
from typing import Any, NamedTuple

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.properties.identity import holdings, nearby
from jaded_ledger.properties.models import ContactView
from jaded_ledger.properties.owners import identity_of
from jaded_ledger.properties.record_kinds import SECTIONS, PropertyRecord
from jaded_ledger.properties.tables import section_tables
from jaded_ledger.records.models import Contact, Parcel, ParcelFacts


class Below(NamedTuple):
    """A section below the statement, as the page's index names it."""

    key: str
    title: str


def sections_below() -> list[Below]:
    """Return the sections below the statement, in their order."""
    apps = in_order(hooks.property_sections())
    around = (Below("nearby", "Nearby"), Below("holdings", "Owner’s other properties"))
    return [*(Below(one.key, one.title) for one in SECTIONS), *around, *(Below(one.key, one.title) for one in apps)]


def day_of(text: str) -> date | None:
    """Return the day that an address asks for; None for the record as it stands, and for what is no date."""
    try:
        return date.fromisoformat(text)
    except ValueError:
        return None


@require_GET
def more(request: HttpRequest, pk: int) -> HttpResponse:
    """The sections below the statement: as part of the page, or where no script runs as a page of their own."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county"), pk=pk)
    record = PropertyRecord(parcel, day_of(request.GET.get("as_of", "")))
    asked = [(section, section.context(parcel, scope)) for section in in_order(hooks.property_sections())]
    context: dict[str, Any] = {
        "place": "find",
        "parcel": parcel,
        "record": record,
        "sections": [section_tables(section, record) for section in SECTIONS],
        "more_sections": [(section, about) for section, about in asked if about is not None],
        "empty_sections": [section for section, about in asked if about is None],
        "contact_count": len(record.rows(Contact)),
        "last_view": ContactView.objects.filter(team=scope.team, parcel=parcel).select_related("user").first(),
    }
    return render(request, "properties/_more.html" if request.htmx else "properties/more.html", context)  # type: ignore[attr-defined]


@require_GET
def others(request: HttpRequest, pk: int) -> HttpResponse:
    """The properties around this one, and what else its owner holds under which names: asked for when one comes to it."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county"), pk=pk)
    shape = PropertyRecord(parcel).shape
    facts = ParcelFacts.objects.filter(pk=pk).first()
    held, count = holdings(facts) if facts else ([], 0)
    context = {
        "parcel": parcel,
        "nearby": nearby(parcel, shape) if shape else [],
        "holdings": held,
        "holdings_count": count,
        "identity": identity_of(facts, scope) if facts else None,
    }
    return render(request, "properties/_others_here.html", context)
