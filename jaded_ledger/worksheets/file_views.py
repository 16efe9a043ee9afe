"""Files of a property or a worksheet: kept, shown, previewed, deleted."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.http import content_disposition_header
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.sentences import sentence_of
from jaded_ledger.worksheets.file_reading import MOST_BYTES, FileError
from jaded_ledger.worksheets.files import files_of, keep_file
from jaded_ledger.worksheets.models import DealFile
from jaded_ledger.worksheets.services import worksheets_of


def _back(request: HttpRequest, parcel_id: int, worksheet_id: int | None) -> HttpResponse:
    """Go back to the worksheet that the file belongs to, or to the property's page."""
    if worksheet_id:
        return redirect(reverse("worksheets:worksheet", args=[worksheet_id]) + "#files")
    return redirect(reverse("properties:property", args=[parcel_id]) + "#worksheets")


@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep files of a property; each that can't be is named with the reason."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.filter(retired_on=None), pk=pk)
    asked = request.POST.get("worksheet", "")
    worksheet = worksheets_of(scope).filter(pk=int(asked), parcel=parcel).first() if asked.isdecimal() and len(asked) < 12 else None
    uploads = request.FILES.getlist("file")
    if not uploads:
        messages.error(request, "Choose a file: a PDF or a picture.")
    for upload in uploads[:20]:
        try:
            kept = keep_file(scope, parcel, upload.name or "", upload.read(MOST_BYTES + 1), request.POST.get("kind", ""), worksheet)
            messages.success(request, f"Kept: {kept.name}.", extra_tags=reverse("worksheets:remove-file", args=[kept.pk]))
        except FileError as wrong:
            messages.error(request, f"{(upload.name or 'a file')[:80]}: {sentence_of(wrong)}")
    return _back(request, parcel.pk, worksheet.pk if worksheet else None)


def _with_bytes(request: HttpRequest, pk: int) -> DealFile:
    return get_object_or_404(DealFile.objects.filter(team=scope_of(request).team, deleted_at=None), pk=pk)


@require_GET
@cache_control(private=True, no_store=True)
def show(request: HttpRequest, pk: int) -> HttpResponse:
    """A file as it was kept, for the browser's own viewer."""
    found = _with_bytes(request, pk)
    answer = HttpResponse(bytes(found.content), content_type=found.content_type)
    answer["Content-Disposition"] = content_disposition_header(as_attachment=False, filename=found.name) or "inline"
    return answer


@require_GET
@cache_control(private=True, max_age=3600)
def preview(request: HttpRequest, pk: int) -> HttpResponse:
    """A small picture of a file."""
    return HttpResponse(bytes(_with_bytes(request, pk).preview), content_type="image/jpeg")


@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Delete a file."""
    scope = scope_of(request)
    found = get_object_or_404(files_of(scope), pk=pk)
    delete_and_say(request, scope, found)
    return _back(request, found.parcel_id, found.worksheet_id)
