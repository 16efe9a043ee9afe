"""The page of a worksheet: its figures, every edit of them, and a figure opened to its arithmetic."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlencode

import numpy as np
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.comps.asked import lines_of
from jaded_ledger.core.comps.lines import PoolError
from jaded_ledger.core.deals.expressions import Cell, FigureUnit, cells_of
from jaded_ledger.core.deals.inputs import INPUTS, InputError
from jaded_ledger.core.deals.reading import by_period, exact_text, figure_text, label_by, reading_of, why_none
from jaded_ledger.core.deals.roll import Legality, Making
from jaded_ledger.core.deals.worksheet import Period, Rents, worksheet_from_json
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.sentences import sentence_of
from jaded_ledger.worksheets.acts import WORKSHEETS
from jaded_ledger.worksheets.computed import Computed, basis_of, computed
from jaded_ledger.worksheets.edits import acted, edited
from jaded_ledger.worksheets.files import files_of
from jaded_ledger.worksheets.models import Worksheet
from jaded_ledger.worksheets.models.files import FileKind
from jaded_ledger.worksheets.models.worksheets import Stage
from jaded_ledger.worksheets.page import shown
from jaded_ledger.worksheets.services import (
    change,
    go_back_to,
    keep_version,
    open_worksheet,
    remember_figures,
    rename,
    set_stage,
    title_of,
    undo,
    worksheets_of,
)
from jaded_ledger.worksheets.shown_exits import GOAL
from jaded_ledger.worksheets.signatures import signatures_of
from jaded_ledger.worksheets.snapshot import changed_inputs, changed_results
from jaded_ledger.worksheets.what_if import WorksheetView

_ASKED = ("down", "across", "of", "span", "step")
_RENT_WORDS = {Rents.TODAY: "today’s rents", Rents.MARKET: "market rents", Rents.SUBSIDY: "the subsidy’s schedule"}


def found_worksheet(scope: Scope, pk: int) -> tuple[Worksheet, Computed]:
    """Return a worksheet of the team's with its figures."""
    row = get_object_or_404(worksheets_of(scope), pk=pk)
    return row, computed(worksheet_from_json(row.content), row.parcel, scope)


def asked_of(query: QueryDict) -> WorksheetView:
    return WorksheetView(*(query.get(name, "")[:60] for name in _ASKED))


def _about(found: Computed) -> str:
    """Return what the property is, in a few words."""
    count = len(found.figures.building.units)
    said = ["one unit" if count == 1 else f"{count} units"]
    asked = found.record.list_price
    if asked == asked:
        said.append(f"listed at ${asked:,.0f}")
        if found.comps and found.comps.subject.days is not None:
            said.append(f"{found.comps.subject.days} days on market")
    return " · ".join(said)


def context_of(row: Worksheet, found: Computed, scope: Scope, asked: WorksheetView, error: str = "") -> dict[str, Any]:
    """Return what the page of a worksheet is rendered with."""
    last = row.versions.first()
    changes = [*changed_inputs(last.figures, found)] if last else []
    query = urlencode([(name, value) for name in _ASKED if (value := getattr(asked, name))])
    return {
        "place": "deals", "worksheet": row, "title": title_of(row), "about": _about(found), "sheet": shown(found, asked), "error": error,
        "signers": signatures_of(row.parcel, found.findings), "may_change": may(scope, WORKSHEETS), "versions": row.versions.all()[:50],
        "last": last, "changes": changes, "then_and_now": [*changed_results(last.figures, found)] if last and changes else [],
        "stages": Stage.choices, "grade": found.grade, "legalities": [*map(str, Legality)], "makings": [*map(str, Making)],
        "periods": [str(one) for one in Period],
        "rents_ways": [(str(key), words) for key, words in _RENT_WORDS.items()], "query": f"?{query}" if query else "",
        "files": files_of(scope).filter(parcel=row.parcel), "file_kinds": FileKind.choices,
    }  # fmt: skip


@require_GET
def worksheet(request: HttpRequest, pk: int) -> HttpResponse:
    """A worksheet."""
    scope = scope_of(request)
    row, found = found_worksheet(scope, pk)
    context = context_of(row, found, scope, asked_of(request.GET))
    return render(request, "worksheets/_worksheet.html" if request.htmx else "worksheets/worksheet.html", context)  # type: ignore[attr-defined]


@require_POST
def begin_worksheet(request: HttpRequest, pk: int) -> HttpResponse:
    """Open the property's worksheet, with the pool of comps that it comes from; begin one where there is none, or another is wanted."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.filter(retired_on=None, facts__isnull=False), pk=pk)
    try:
        pool = lines_of(request.POST)
    except PoolError as error:
        messages.error(request, sentence_of(error))
        return redirect("comps:comps", pk)
    return redirect("worksheets:worksheet", open_worksheet(scope, parcel, pool, is_another="another" in request.POST).pk)


@require_POST
def change_worksheet(request: HttpRequest, pk: int) -> HttpResponse:
    """Set fields of a worksheet, each by its name, or do one of the acts of its buttons. What is wrong is said, and nothing is changed."""
    scope = scope_of(request)
    row = get_object_or_404(worksheets_of(scope), pk=pk)
    basis = basis_of(row.parcel, scope)
    act, error = request.POST.get("do", ""), ""
    fields = [(name, request.POST[name]) for name in request.POST if ":" in name or name in ("rents", "repairs-by", "by")]
    is_listed = not np.isnan(basis.record.list_price)
    try:
        if act == "undo":
            row = undo(scope, pk)
        else:

            def changed(content: Any) -> Any:
                for name, typed in fields:
                    content = edited(content, basis.recorded, name, typed[:200], is_listed=is_listed)
                return acted(content, basis.recorded, act) if act else content

            row = change(scope, pk, changed)
    except InputError as wrong:
        error = sentence_of(wrong)
    found = computed(worksheet_from_json(row.content), row.parcel, scope, basis)
    if not error:
        remember_figures(row, found)
    if not request.htmx and not error:  # type: ignore[attr-defined]
        return redirect(reverse("worksheets:worksheet", args=[pk]))
    context = context_of(row, found, scope, asked_of(request.GET), error)
    page = "worksheets/_worksheet.html" if request.htmx else "worksheets/worksheet.html"  # type: ignore[attr-defined]
    return render(request, page, context, status=200 if request.htmx or not error else 400)  # type: ignore[attr-defined]


@require_POST
def act_on_worksheet(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a version, go back to one, name it, put the deal at a stage, or delete the worksheet."""
    scope = scope_of(request)
    row, found = found_worksheet(scope, pk)
    what, _, of = request.POST.get("do", "").partition(":")
    try:
        match what:
            case "keep":
                version = keep_version(scope, row, found, request.POST.get("note", ""))
                messages.success(request, f"Kept as version {version.number}.")
            case "go-back" if of.isdecimal() and row.versions.filter(number=int(of)).exists():
                go_back_to(scope, pk, int(of))
                messages.success(request, f"As it was in version {of}.")
            case "rename":
                rename(scope, row, request.POST.get("name", ""))
            case "stage":
                set_stage(scope, row, request.POST.get("stage", ""))
            case "delete":
                delete_and_say(request, scope, row)
                return redirect("worksheets:deals")
            case _:
                raise Http404("there is no such thing to do")
    except InputError as wrong:
        return render(
            request, "worksheets/worksheet.html", context_of(row, found, scope, asked_of(request.GET), sentence_of(wrong)), status=400
        )
    return redirect("worksheets:worksheet", pk)


def _part(found: Computed, cell: Cell, values: Any, *, is_solved: bool) -> dict[str, Any]:
    given = found.figures.given.get(cell.key) if cell.is_input else None
    said = f"{given.origin}{', ' + given.said if given.said else ''}" if given else ""
    if is_solved and cell.key == "price":
        said = "solved: at this price it is just met"
    return {
        "key": "" if cell.is_input or is_solved else cell.key, "label": cell.label, "text": exact_text(values.number(cell), cell.unit),
        "said": said,
    }  # fmt: skip


def _solved(found: Computed, key: str) -> tuple[Cell, Any]:
    """Return what is wanted by how much exceeded at the price that is solved for it, which is nothing. Raises Http404."""
    for one in found.figures.exits:
        for goal in one.goals:
            price = found.figures.solved(goal.gap, "price") if goal.key == key else None
            if price is not None:
                return goal.gap, found.figures.with_inputs({"price": price})
    raise Http404("no price is solved for that")


def _cell(found: Computed, key: str) -> tuple[Cell, Any]:
    """Return a figure by its key, with the values it is computed among. Raises Http404."""
    if key.startswith(GOAL):
        return _solved(found, key.removeprefix(GOAL))
    if cell := found.figures.sheet.cells.get(key):
        return cell, found.figures.values
    for line in found.seller.lines:
        if line.cell.key == key:
            return line.cell, found.seller.values
    raise Http404("there is no such figure")


def _parts(cell: Cell, key: str) -> list[Cell]:
    """Return the figures that a figure is made of; of a solved price, the price comes first."""
    parts = cells_of(cell.expression) if cell.expression else [cell]
    return [INPUTS["price"].cell, *(part for part in parts if part.key != "price")] if key.startswith(GOAL) else parts


@require_GET
def figure(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """How a figure of a worksheet came about: its arithmetic, and the figures in it."""
    scope = scope_of(request)
    row, found = found_worksheet(scope, pk)
    cell, values = _cell(found, key)
    by = found.figures.worksheet.by
    value, reading = by_period(values.number(cell), cell.unit, by), reading_of(cell, values)
    if reading and cell.unit is FigureUnit.MONEY_A_YEAR and by is Period.MONTH:
        reading = f"({reading}) ÷ {by.parts}"
    context = {
        "place": "deals", "worksheet": row, "title": title_of(row), "label": label_by(cell, by), "text": figure_text(value, cell.unit),
        "exact": exact_text(value, cell.unit), "reading": reading, "why": why_none(cell, values),
        "meaning": INPUTS[key].meaning if key in INPUTS else "",
        "parts": [_part(found, part, values, is_solved=key.startswith(GOAL)) for part in _parts(cell, key)],
    }  # fmt: skip
    return render(request, "worksheets/_figure.html" if request.htmx else "worksheets/figure.html", context)  # type: ignore[attr-defined]
