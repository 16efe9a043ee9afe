"""The record printed: a property's page as PDF, all of it or the sections that are chosen. Contact data is never printed with it."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.template.loader import render_to_string
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.properties.below_views import day_of
from jaded_ledger.properties.happenings import happenings_of
from jaded_ledger.properties.identity import JUDGMENTS
from jaded_ledger.properties.outline_drawing import draw_outline
from jaded_ledger.properties.record_kinds import SECTIONS, TEAM, PropertyRecord, printable
from jaded_ledger.properties.tables import SectionTables, section_tables
from jaded_ledger.properties.views import figures_context, statement_context
from jaded_ledger.records.models import Parcel, Photograph, earliest_days
from jaded_ledger.web.pdf import data_address, pdf_of

_MOST_PICTURES = 12


def _pictures(filled: SectionTables) -> list[dict[str, str]]:
    """Return a section's photographs, within the document."""
    rows: list[Any] = [entry.row for table in filled.tables if table.kind.model is Photograph for entry in table.entries][:_MOST_PICTURES]
    return [{"source": data_address(row.image.content_type, bytes(row.image.content)), "caption": row.caption} for row in rows]


@require_GET
def printed(request: HttpRequest, pk: int) -> HttpResponse:
    """The record of a parcel as PDF."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county", "parent"), pk=pk)
    record = PropertyRecord(parcel, day_of(request.GET.get("as_of", "")))
    known = [key for key, _ in printable()]
    asked = {key for key in request.GET.getlist("section") if key in known or key == TEAM}
    chosen = asked if asked - {TEAM} else asked | set(known)
    shape = record.shape
    filled = [(one, _pictures(one)) for section in SECTIONS if section.key in chosen and (one := section_tables(section, record)).tables]
    context = {
        "parcel": parcel, "record": record, "chosen": chosen, "sections": filled, "photographs": Photograph,
        "drawing": draw_outline(parcel, shape) if shape and "drawing" in chosen else None,
        "recorded_through": earliest_days().get(parcel.county_id), "team": scope.team.name, "today": scope.today,
        **statement_context(record, "", scope), **figures_context(parcel, scope),
    }  # fmt: skip
    if TEAM in chosen:
        context["happenings"] = happenings_of(parcel, scope)
    else:
        context["figures"] = [figure for figure in context["figures"] if figure.key not in JUDGMENTS]
    styles = (render_to_string(f"properties/{name}.css") for name in ("printed", "printed_drawing"))
    answer = HttpResponse(pdf_of(render_to_string("properties/printed.html", context), *styles), content_type="application/pdf")
    name = f"record of {context['address'] or parcel.number}.pdf"
    answer["Content-Disposition"] = content_disposition_header(as_attachment=True, filename=name) or "attachment"
    return answer
