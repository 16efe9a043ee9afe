"""The files that a user asked for: how far each has come, and its bytes."""

from __future__ import annotations

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.made_files.kinds import MakingError
from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.responses import download
from jaded_ledger.made_files.services import files_of
from jaded_ledger.made_files.tasks import KEPT_FOR
from jaded_ledger.web.sentences import sentence_of


def _file(request: HttpRequest, pk: int) -> MadeFile:
    return get_object_or_404(files_of(scope_of(request)), pk=pk)


@require_GET
def files(request: HttpRequest) -> HttpResponse:
    """All files that a user asked for and that are still kept."""
    page = Paginator(files_of(scope_of(request)), 50).get_page(request.GET.get("page"))
    return render(request, "made_files/files.html", {"place": "outreach", "page": page, "kept_for": KEPT_FOR.days})


@require_GET
def file(request: HttpRequest, pk: int) -> HttpResponse:
    """One file: how far it has come, or where to get it."""
    return render(request, "made_files/file.html", {"place": "outreach", "file": _file(request, pk), "kept_for": KEPT_FOR.days})


@require_GET
def progress(request: HttpRequest, pk: int) -> HttpResponse:
    """The part of a file's page that changes while it is made."""
    return render(request, "made_files/_progress.html", {"file": _file(request, pk), "kept_for": KEPT_FOR.days})


@require_GET
def download_file(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The file itself."""
    found = _file(request, pk)
    if found.state == MadeFile.State.READY:
        try:
            return download(scope_of(request), found)
        except MakingError as error:
            messages.error(request, sentence_of(error))
    return redirect("made_files:file", pk=pk)


@require_POST
def throw_away(request: HttpRequest, pk: int) -> HttpResponse:
    """Forget a file; one that is being made is not made to its end."""
    found = _file(request, pk)
    found.delete()
    messages.success(request, f"“{found.name}” is thrown away. It can be asked for again.")
    return redirect("made_files:files")
