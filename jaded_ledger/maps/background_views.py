"""The background of the map: its tiles, and the page on which staff bring one."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.maps.acts import BACKGROUND
from jaded_ledger.maps.backgrounds import background_tile, shown_background
from jaded_ledger.maps.map_files import bring_map_file, remove_map_file
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.records.models import MapFile
from jaded_ledger.web.sentences import sentence_of

_YEAR = 365 * 24 * 60 * 60
_MOST_BYTES = 1_000_000_000


def _bringer(request: HttpRequest) -> User:
    scope = scope_of(request)
    require(scope, BACKGROUND)
    assert scope.user is not None  # a request has one
    return scope.user


@require_GET
def background_tile_of(request: HttpRequest, pk: int, zoom: int, column: int, row: int) -> HttpResponse:
    """A tile of a background that staff brought. A file never changes, so a browser may keep it."""
    scope_of(request)
    file = get_object_or_404(MapFile, pk=pk, removed_at=None, kind__in=[MapFile.Kind.PICTURE, MapFile.Kind.TILES])
    found = background_tile(file, zoom, column, row) if zoom <= file.closest_zoom else None
    # A browser reports what is not found; that a picture ends somewhere is no fault.
    response = HttpResponse(found[0], content_type=found[1]) if found else HttpResponse(status=204)
    response["Cache-Control"] = f"private, max-age={_YEAR}, immutable"
    return response


@require_http_methods(["GET", "POST"])
def background(request: HttpRequest) -> HttpResponse:
    """What the map has under its parcels, and a form to bring another."""
    user, error = _bringer(request), ""
    if request.method == "POST":
        try:
            file = _brought(request, user)
            messages.success(request, f"“{file.name}” is the background of the map now.")
            return redirect("maps:background")
        except AreaError as wrong:
            error = sentence_of(wrong)
    context = {
        "place": "find", "files": MapFile.objects.filter(removed_at=None).select_related("added_by"), "shown": shown_background(),
        "error": error, "sent": request.POST,
    }  # fmt: skip
    return render(request, "maps/background.html", context, status=400 if error else 200)


def _brought(request: HttpRequest, user: User) -> MapFile:
    sent = request.FILES.get("file")
    if sent is None:
        raise AreaError("no file was chosen; choose a GeoTIFF or a PMTiles file")
    if sent.size is not None and sent.size > _MOST_BYTES:
        raise AreaError(f"the file has {sent.size / 1e6:,.0f} MB; one this large is brought with bin/manage background FILE")
    with tempfile.NamedTemporaryFile() as copy:
        for part in sent.chunks():
            copy.write(part)
        copy.flush()
        return bring_map_file(
            Path(copy.name), request.POST.get("name", "") or Path(str(sent.name)).stem, request.POST.get("credit", ""), user
        )


@require_POST
def remove_background(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a file out of the map."""
    _bringer(request)
    file = get_object_or_404(MapFile, pk=pk, removed_at=None)
    remove_map_file(file)
    messages.success(request, f"“{file.name}” is taken out of the map.")
    return redirect("maps:background")
