"""Records: files taken in and how, how far the records reach, how full they are."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.intake import uploads
from jaded_ledger.intake.acts import TAKE_IN_FILES
from jaded_ledger.intake.drafts import COUNTY
from jaded_ledger.intake.encodings import ENCODINGS
from jaded_ledger.intake.forms import LEFT_OUT, CountyForm, apply
from jaded_ledger.intake.guessing import likely_kinds
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import DELIMITERS, Form
from jaded_ledger.intake.limits import LIMITS
from jaded_ledger.intake.mapping import MappingError
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.overview import fill_grid, reaches
from jaded_ledger.intake.preview import preview_of
from jaded_ledger.intake.refusals import by_reason, correction_file, of_reason, open_refusals
from jaded_ledger.intake.services import IntakeError
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import County, RoundFault, SourceFile, earliest_days

VIEWS = {"files": "Files", "reach": "How far the records reach", "fill": "How full the records are"}
FACTORS = (("100", "hundreds"), ("1000", "thousands"), ("1000000", "millions"))
FILES_SHOWN = 25
FAULTS_SHOWN = 20
REFUSALS_SHOWN = 100
SILENT_AFTER = 8
"""Seconds without a sign of the worker after which the page says so."""


@require_GET
def records(request: HttpRequest) -> HttpResponse:
    """The place itself: files under way and taken in, recorded-through days, the fill-rate grid."""
    counties = list(County.objects.order_by("name"))
    view = request.GET.get("view", "files")
    if view not in VIEWS:
        raise Http404(view)
    files = SourceFile.objects.select_related("county", "upload__uploaded_by").order_by("-id")
    waiting = Upload.objects.exclude(state=Upload.State.DONE).select_related("county", "uploaded_by")
    context = {
        "place": "records",
        "counties": counties,
        "files": Paginator(files, FILES_SHOWN).get_page(request.GET.get("page")),
        "waiting": waiting if may(scope_of(request), TAKE_IN_FILES) else [],
        "earliest": earliest_days(),
        "view": view,
        "faults": RoundFault.objects.all()[:FAULTS_SHOWN] if may(scope_of(request), TAKE_IN_FILES) else [],
        "view_name": VIEWS[view],
        "view_template": f"intake/_{view}.html",
        "reaches": reaches(counties) if view == "reach" else [],
        "grid": fill_grid(counties) if view == "fill" else [],
    }
    return render(request, "intake/records.html", context)


@require_http_methods(["GET", "POST"])
def bring(request: HttpRequest) -> HttpResponse:
    """Choose a file; posted, it is kept and looked at."""
    require(scope_of(request), TAKE_IN_FILES)
    wrong = ""
    if request.method == "POST":
        brought = request.FILES.get("file")
        try:
            if brought is None:
                raise IntakeError("Choose a file first.")
            return redirect("intake:upload", uploads.receive(brought, request.user).pk)
        except IntakeError as error:
            wrong = str(error)
    context = {"place": "records", "wrong": wrong, "kinds": KINDS.values(), "limits": LIMITS, "counties": County.objects.count()}
    return render(request, "intake/bring.html", context, status=400 if wrong else 200)


@require_http_methods(["GET", "POST"])
def upload(request: HttpRequest, pk: int) -> HttpResponse:
    """An upload: how it will be read, then how far it has come, then what came of it. Posted, an act on it."""
    require(scope_of(request), TAKE_IN_FILES)
    found = get_object_or_404(Upload.objects.select_related("county", "source_file"), pk=pk)
    if request.method == "POST":
        return _act(request, found)
    if found.state == Upload.State.DONE:
        return redirect("intake:file", found.source_file_id)
    if found.is_under_way:
        return render(request, "intake/progress.html", {"place": "records", "upload": found, "silent": _silent(found)})
    return render(request, "intake/mapping.html", _mapping_context(found))


def _act(request: HttpRequest, found: Upload) -> HttpResponse:
    act = request.POST.get("do", "")
    if act == "discard":
        try:
            uploads.discard(found)
            messages.success(request, f"{found.name} was thrown away; nothing of it is on record.")
        except IntakeError as error:
            messages.error(request, str(error))
        return redirect("intake:records")
    if found.state not in (Upload.State.NEW, Upload.State.FAILED):
        # It was handed over in another window.
        return redirect("intake:upload", found.pk)
    changed, wrong = apply(found, request.POST.dict())
    try:
        if "layout" in changed:
            uploads.read_anew(found)
        elif changed:
            uploads.guess_columns(found)
    except IntakeError as error:
        wrong.append(str(error))
        # The rest of what was said is kept.
        found.layout = Upload.objects.get(pk=found.pk).layout
    found.save()
    if act == "take":
        if changed:
            wrong.append("What the file holds or how it is laid out was changed just now: look at how it is read, then take it in.")
        elif not found.kind:
            wrong.append("Say first what the file holds.")
        elif not wrong and not preview_of(found, uploads.column_map(found)).is_ready:
            wrong.append("Something must be filled that is not yet: see what is marked.")
        if not wrong:
            uploads.queue(found)
            return redirect("intake:upload", found.pk)
    context = _mapping_context(found) | {"wrong": " ".join(wrong)}
    if request.htmx:  # type: ignore[attr-defined]
        return render(request, "intake/_mapping.html", context)
    return render(request, "intake/mapping.html", context, status=400 if wrong else 200)


def _mapping_context(found: Upload) -> dict[str, Any]:
    context: dict[str, Any] = {
        "place": "records",
        "upload": found,
        "counties": County.objects.order_by("name"),
        "encodings": ENCODINGS.items(),
        "delimiters": DELIMITERS.items(),
        "is_text": found.form == Form.TEXT,
        "is_workbook": found.form == Form.WORKBOOK,
        "left_out": LEFT_OUT,
        "factors": FACTORS,
        "county_column": COUNTY,
    }
    likely = [likely_kind.kind for likely_kind in likely_kinds(Form(found.form), found.header)]
    ordered = [*likely[:3], *(name for name in KINDS if name not in likely[:3])]
    context["kinds"] = [KINDS[name] for name in ordered]
    if found.kind in KINDS:
        try:
            context["preview"] = preview_of(found, uploads.column_map(found))
        except MappingError as error:
            context["wrong"] = str(error)
        context["kind"] = KINDS[found.kind]
        context["begins"] = uploads.begins(found)
    return context


def _silent(found: Upload) -> int:
    """Return for how many seconds the worker has given no sign, where that is worth saying."""
    if found.state != Upload.State.RUNNING or found.stirred_at is None:
        return 0
    seconds = int((now() - found.stirred_at).total_seconds())
    return seconds if seconds >= SILENT_AFTER else 0


@require_GET
def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """How far an upload has come; asked for again and again while it is under way."""
    require(scope_of(request), TAKE_IN_FILES)
    found = Upload.objects.select_related("county").filter(pk=pk).first()
    if found is None or not found.is_under_way:
        response = HttpResponse()
        # It may have been thrown away in another window.
        response["HX-Redirect"] = request.path.removesuffix("progress") if found else reverse("intake:records")
        return response
    return render(request, "intake/_progress.html", {"upload": found, "silent": _silent(found)})


DOUBTFUL, REFUSED = "doubtful", "refused"


def _key_of(reason: dict[str, Any]) -> str:
    return f"{DOUBTFUL if reason['is_doubtful'] else REFUSED}|{reason['column']}|{reason['why']}"


@require_GET
def file(request: HttpRequest, pk: int) -> HttpResponse:
    """A file that was taken in: its counts, and which rows were refused, or are doubtful, and why."""
    found = get_object_or_404(SourceFile.objects.select_related("county", "upload__uploaded_by"), pk=pk)
    refusals = open_refusals(found)
    chosen = request.GET.get("why", "")
    if chosen:
        how, _, column_and_reason = chosen.partition("|")
        column, _, reason = column_and_reason.partition("|")
        refusals = of_reason(refusals, column, reason, is_doubtful=how == DOUBTFUL)
    context = {
        "place": "records",
        "file": found,
        "kind": KINDS.get(found.kind),
        "reasons": [one | {"key": key, "is_chosen": key == chosen} for one in by_reason(found) if (key := _key_of(one))],
        "mapped": [(name, target) for name, target in (found.columns.get("columns") or {}).items() if target and target != name],
        "chosen": chosen,
        "refusals": Paginator(refusals, REFUSALS_SHOWN).get_page(request.GET.get("page"))
        if may(scope_of(request), TAKE_IN_FILES)
        else None,
        "settled": found.refusals.exclude(settled_in=None).count(),
    }
    return render(request, "intake/file.html", context)


@require_GET
def refused_rows(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The refused and doubtful rows as a file to correct and take in again."""
    require(scope_of(request), TAKE_IN_FILES)
    found = get_object_or_404(SourceFile, pk=pk)
    response = StreamingHttpResponse(correction_file(found), content_type="text/csv; charset=utf-8")
    stem = found.name.rpartition(".")[0] or found.name
    response["Content-Disposition"] = content_disposition_header(as_attachment=True, filename=f"{stem} to correct.csv")
    return response


@require_http_methods(["GET", "POST"])
def add_county(request: HttpRequest) -> HttpResponse:
    """A county whose records are to be taken in."""
    require(scope_of(request), TAKE_IN_FILES)
    form = CountyForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        county = form.save()
        messages.success(request, f"{county.name} is there. Take in its parcels first, then its roll.")
        return redirect("intake:records")
    return render(request, "intake/county.html", {"place": "records", "form": form}, status=400 if form.errors else 200)
