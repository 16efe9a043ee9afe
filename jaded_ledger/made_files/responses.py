"""A file as the answer to a request."""

from __future__ import annotations

from django.http import HttpResponseRedirect, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.urls import reverse
from django.utils.http import content_disposition_header

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.made_files.kinds import kind_called
from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.services import content_of


def download(scope: Scope, file: MadeFile) -> HttpResponseBase:
    """Send a file that is ready. Raises MakingError and PermissionDenied where somebody may not have it, or not any more."""
    kind_called(file.kind).require(scope, file.rows)
    response = StreamingHttpResponse(content_of(file), content_type=file.content_type)
    response["Content-Disposition"] = str(content_disposition_header(True, file.name))
    response["Content-Length"] = str(file.size)
    return response


def answer(scope: Scope, file: MadeFile) -> HttpResponseBase:
    """Send a file that was asked for, or lead to where one waits for it."""
    return download(scope, file) if file.state == MadeFile.State.READY else HttpResponseRedirect(reverse("made_files:file", args=[file.pk]))
