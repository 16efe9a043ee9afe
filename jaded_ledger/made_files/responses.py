"""A file as the answer to a request."""

from __future__ import annotations

from django.http import HttpResponseRedirect, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.urls import reverse
from django.utils.http import content_disposition_header

from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.services import content_of


def download(file: MadeFile) -> HttpResponseBase:
    """Send a file that is ready."""
    response = StreamingHttpResponse(content_of(file), content_type=file.content_type)
    response["Content-Disposition"] = str(content_disposition_header(True, file.name))
    response["Content-Length"] = str(file.size)
    return response


def answer(file: MadeFile) -> HttpResponseBase:
    """Send a file that was asked for, or lead to where one waits for it."""
    return download(file) if file.state == MadeFile.State.READY else HttpResponseRedirect(reverse("made_files:file", args=[file.pk]))
