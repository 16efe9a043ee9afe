"""A team's areas: the page of them, and what the map asks while one is drawn."""

from __future__ import annotations

import tempfile
from pathlib import Path, PurePosixPath
from typing import Any

from django.contrib import messages
from django.contrib.gis.geos import Point
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.search_page import SearchPage, search_page_of
from jaded_ledger.maps.acts import AREAS
from jaded_ledger.maps.area_files import bring_areas
from jaded_ledger.maps.areas import (
    Outline,
    areas_of,
    free_name,
    keep_area,
    outline_of,
    outline_of_circle,
    rename_area,
    reshape_area,
)
from jaded_ledger.maps.asked_shapes import asked_shapes, features_of_areas, geojson_of
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.maps.on_record import areas_at
from jaded_ledger.maps.outlines import polygons_of, square_meters
from jaded_ledger.maps.sizes import size_words
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.web.middleware import only_reads
from jaded_ledger.web.sentences import sentence_of

_MOST_BYTES = 20_000_000


def _wrong(error: Exception) -> JsonResponse:
    return JsonResponse({"error": sentence_of(error)}, status=400)


def _number(query: QueryDict, name: str) -> float:
    try:
        return float(query.get(name, ""))
    except ValueError:
        raise AreaError(f"the {name} is a figure") from None


def _point_of(query: QueryDict) -> Point:
    longitude, latitude = _number(query, "longitude"), _number(query, "latitude")
    if not (-180 <= longitude <= 180 and -90 <= latitude <= 90):
        raise AreaError("the point lies off the map: it is not in degrees of longitude and latitude")
    return Point(longitude, latitude, srid=4326)


def _outline_sent(query: QueryDict) -> Outline:
    """Return the outline that a request draws: polygons as GeoJSON, or a circle of ``longitude``, ``latitude`` and ``radius``."""
    if "radius" in query:
        center = _point_of(query)
        return outline_of_circle(center.x, center.y, _number(query, "radius"))
    return outline_of(polygons_of(query.get("geometry", "")))


@require_POST
@only_reads
def drawn(request: HttpRequest) -> JsonResponse:
    """What an outline that is being drawn would be: its size, how many parcels and matches lie in it, and a name for it."""
    scope = scope_of(request)
    try:
        outline = _outline_sent(request.POST)
        inside = ParcelFacts.objects.filter(place__coveredby=outline.geometry)
        matches = Answer(search_page_of(request.POST, scope.team), scope).matches.filter(place__coveredby=outline.geometry)
        found: dict[str, Any] = {"parcels": inside.count(), "matches": matches.count()}
    except (AreaError, CriteriaError) as error:
        return _wrong(error)
    found |= {"size": size_words(square_meters(outline.geometry)), "note": outline.note, "geometry": geojson_of(outline.geometry)}
    return JsonResponse(found | {"name": free_name(scope.team, "Area 1")})


@require_POST
def keep(request: HttpRequest) -> JsonResponse:
    """Keep an outline under a name, or give it to the area that is named by its number."""
    scope, pk = scope_of(request), whole_number(request.POST.get("area"))
    try:
        outline = _outline_sent(request.POST)
        if pk is None:
            area = keep_area(scope, request.POST.get("name", ""), outline)
        else:
            area = get_object_or_404(areas_of(scope.team), pk=pk)
            reshape_area(scope, area, outline)
    except AreaError as error:
        return _wrong(error)
    return JsonResponse({"id": area.pk, "name": area.name, "note": outline.note})


@require_GET
def asked(request: HttpRequest) -> JsonResponse:
    """The areas and rings of a search, to be drawn."""
    scope = scope_of(request)
    try:
        return JsonResponse({"type": "FeatureCollection", "features": asked_shapes(search_page_of(request.GET, scope.team).search, scope)})
    except CriteriaError as error:
        return _wrong(error)


@require_GET
def at_point(request: HttpRequest) -> JsonResponse:
    """The areas that are on record at a point, each of which can be taken over."""
    scope_of(request)
    try:
        point = _point_of(request.GET)
    except AreaError as error:
        return _wrong(error)
    found = [{"what": one.what, "name": one.name, "geometry": geojson_of(one.geometry)} for one in areas_at(point)]
    return JsonResponse({"areas": found})


@require_GET
def menu(request: HttpRequest) -> HttpResponse:
    """The team's areas beside the map, each to be included, excluded, shown or given another outline."""
    scope = scope_of(request)
    try:
        shapes = asked_shapes(search_page_of(request.GET, scope.team).search, scope)
    except CriteriaError:
        shapes = []
    used = {shape["properties"].get("id"): shape["properties"]["use"] for shape in shapes}
    rows = [(area, size_words(area.square_meters), used.get(area.pk, "")) for area in areas_of(scope.team)]  # type: ignore[attr-defined]
    return render(request, "maps/_areas.html", {"rows": rows, "may_change": may(scope, AREAS)})


@require_GET
def outline(request: HttpRequest, pk: int) -> JsonResponse:
    """One area's outline."""
    area = get_object_or_404(areas_of(scope_of(request).team), pk=pk)
    circle = {"radius": area.radius, "center": [area.center.x, area.center.y]} if area.center else {}
    return JsonResponse({"id": area.pk, "name": area.name, "geometry": geojson_of(area.geometry), "box": area.geometry.extent, **circle})


def _searched(area: DrawnArea, scope: Scope) -> str:
    """Return the address of a search of what lies in an area."""
    inside = Criterion("in-area", (Members(Quantity.ANY, (area.name,)),))
    return SearchPage(Search((), (inside,))).address(scope.team)


@require_http_methods(["GET", "POST"])
def all_areas(request: HttpRequest) -> HttpResponse:
    """Every area of the team; a file of some is taken in here."""
    scope, error = scope_of(request), ""
    if request.method == "POST":
        try:
            return _bring(request, scope)
        except AreaError as wrong:
            error = sentence_of(wrong)
    inside = {area.pk: ParcelFacts.objects.filter(place__coveredby=area.geometry).count() for area in areas_of(scope.team)}
    context = {
        "place": "find",
        "rows": [(area, size_words(area.square_meters), inside[area.pk], _searched(area, scope)) for area in areas_of(scope.team)],  # type: ignore[attr-defined]
        "deleted": DrawnArea.objects.filter(team=scope.team, deleted_at__isnull=False).order_by("-deleted_at")[:20],
        "may_change": may(scope, AREAS),
        "error": error,
    }
    return render(request, "maps/areas.html", context, status=400 if error else 200)


_LONGEST_SUFFIX = 12
"""Of a file's name as it is sent; a longer one tells no kind of file, and may be longer than a disk's names are."""


def _bring(request: HttpRequest, scope: Scope) -> HttpResponse:
    """Take in a file of areas. Raises AreaError."""
    require(scope, AREAS)
    file = request.FILES.get("file")
    if file is None:
        raise AreaError("no file was chosen; choose a GeoJSON file or a zipped Shapefile")
    if file.size is not None and file.size > _MOST_BYTES:
        raise AreaError(f"the file has {file.size / 1e6:,.0f} MB; a file of areas has at most {_MOST_BYTES / 1e6:,.0f}")
    named = PurePosixPath(str(file.name))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"areas{named.suffix.casefold()[:_LONGEST_SUFFIX]}"
        path.write_bytes(file.read())
        brought = bring_areas(path, named.stem[:60], scope)
    if brought.kept:
        mended = f" {brought.mended} crossed themselves and were mended." if brought.mended else ""
        messages.success(request, f"Taken in: {', '.join(brought.kept[:8])}{' and more' if len(brought.kept) > 8 else ''}.{mended}")
    if brought.refused:
        messages.error(request, f"Not taken in: {'; '.join(brought.refused[:5])}{' and more' if len(brought.refused) > 5 else ''}.")
    return redirect("maps:areas")


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Rename an area, or delete it."""
    scope = scope_of(request)
    area = get_object_or_404(DrawnArea, team=scope.team, pk=pk)
    try:
        match request.POST.get("do"):
            case "rename":
                rename_area(scope, area, request.POST.get("name", ""))
                messages.success(request, f"“{area.name}” is called “{' '.join(request.POST.get('name', '').split())}” now.")
            case "delete":
                delete_and_say(request, scope, area)
            case other:
                raise Http404(other)
    except AreaError as error:
        messages.error(request, sentence_of(error))
    return redirect("maps:areas")


@require_GET
def geojson(request: HttpRequest) -> JsonResponse:
    """The team's areas as a GeoJSON file (RFC 7946), or one of them."""
    areas = areas_of(scope_of(request).team)
    if (pk := whole_number(request.GET.get("area"))) is not None:
        areas = areas.filter(pk=pk)
    response = JsonResponse(features_of_areas(list(areas)), content_type="application/geo+json")
    response["Content-Disposition"] = 'attachment; filename="areas.geojson"'
    return response
