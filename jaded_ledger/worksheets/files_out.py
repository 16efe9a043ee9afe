"""A worksheet taken out: printed as PDF, as a spreadsheet whose formulas live, and as JSON that can be read again."""

from __future__ import annotations

import json

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.deals.reading import figure_text, interest_only_words, words_of
from jaded_ledger.core.deals.sheet import Line
from jaded_ledger.records.own_columns import slug
from jaded_ledger.web.pdf import pdf_of
from jaded_ledger.worksheets.computed import Computed
from jaded_ledger.worksheets.page import shown
from jaded_ledger.worksheets.services import title_of
from jaded_ledger.worksheets.signatures import signatures_of
from jaded_ledger.worksheets.spreadsheet import spreadsheet_of
from jaded_ledger.worksheets.views import found_worksheet
from jaded_ledger.worksheets.what_if import WorksheetView

_SPREADSHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def _file(content: bytes | str, kind: str, name: str) -> HttpResponse:
    answer = HttpResponse(content, content_type=kind)
    answer["Content-Disposition"] = content_disposition_header(as_attachment=True, filename=name) or "attachment"
    return answer


@require_GET
def spreadsheet(request: HttpRequest, pk: int) -> HttpResponse:
    """A worksheet as a spreadsheet."""
    row, found = found_worksheet(scope_of(request), pk)
    return _file(spreadsheet_of(found, title_of(row)), _SPREADSHEET, f"worksheet of {title_of(row)}.xlsx")


@require_GET
def as_json(request: HttpRequest, pk: int) -> HttpResponse:
    """What a worksheet keeps, as the command ``worksheet`` reads it."""
    row, _ = found_worksheet(scope_of(request), pk)
    said = {"parcel": f"{slug(row.parcel.county)}/{row.parcel.number}"} | row.content
    return _file(json.dumps(said, ensure_ascii=False, indent=2), "application/json", f"worksheet of {title_of(row)}.json")


def _words(found: Computed, line: Line) -> str:
    return words_of(line.parts, found.figures.values) + interest_only_words(line.parts, found.figures.values)


@require_GET
def printed(request: HttpRequest, pk: int) -> HttpResponse:
    """A worksheet as PDF."""
    scope = scope_of(request)
    row, found = found_worksheet(scope, pk)
    sheet = shown(found, WorksheetView())
    exits = [
        (one, [(_words(found, line), shown_line) for line, shown_line in zip(_visible(found, one.key), one.lines, strict=True)])
        for one in sheet["exits"]
    ]
    context = {
        "title": title_of(row), "parcel": row.parcel, "sheet": sheet, "exits": exits, "version": row.versions.first(),
        "signers": signatures_of(row.parcel, found.findings), "day": found.findings.today, "team": scope.team.name,
        "agent": scope.user.display_name if scope.user else "",
        "seller": [(words_of(line.parts, found.seller.values), str(line.side), text) for line, text in _seller(found)],
    }  # fmt: skip
    styles = (render_to_string(name) for name in ("comps/report.css", "worksheets/worksheet_drawing.css"))
    return _file(
        pdf_of(render_to_string("worksheets/worksheet_report.html", context), *styles),
        "application/pdf",
        f"worksheet of {title_of(row)}.pdf",
    )


def _visible(found: Computed, key: str) -> list[Line]:
    exit_ = next(one for one in found.figures.exits if one.exit == key)
    return [line for line in exit_.lines if not (line.is_optional and found.figures.number(line.cell) == 0)]


def _seller(found: Computed) -> list[tuple[Line, str]]:
    lines = [line for line in found.seller.lines if not (line.is_optional and found.seller.values.number(line.cell) == 0)]
    return [(line, figure_text(found.seller.values.number(line.cell), line.cell.unit)) for line in lines]
