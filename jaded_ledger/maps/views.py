"""The map of Find's results: its tiles, and what is told beside them."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.results import cell_text, value_of, with_values_alone
from jaded_ledger.find.search_page import search_page_of
from jaded_ledger.maps import tiles
from jaded_ledger.maps.closed_sales import closed_listings
from jaded_ledger.maps.in_view import NoViewError, about_outlines, extent_of, matches_in, view_of
from jaded_ledger.maps.labels import BY_KEY, labels_in
from jaded_ledger.maps.marks import marks_in, parcels_of_same_owner
from jaded_ledger.maps.most_matches import KINDS, most_matches
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.versions import facts_version

_YEAR = 365 * 24 * 60 * 60
_ON_CARD = (
    "owner-name", "class", "beds", "living-area", "lot-sqft", "last-sale", "last-sale-price", "estimated-value", "equity", "list-price",
)  # fmt: skip


def _wrong(error: Exception) -> HttpResponse:
    return HttpResponse(str(error), status=400, content_type="text/plain; charset=utf-8")


def _answer(request: HttpRequest) -> Answer:
    scope = scope_of(request)
    return Answer(search_page_of(request.GET, scope.team), scope)


@require_GET
def tile(request: HttpRequest, version: int, zoom: int, column: int, row: int) -> HttpResponse:
    """A tile of what is on record. Its address names the version of the records, so that a browser may keep it."""
    scope_of(request)
    if not tiles.is_tile(zoom, column, row):
        raise Http404("there is no such tile")
    response = HttpResponse(tiles.tile(zoom, column, row), content_type="application/vnd.mapbox-vector-tile")
    is_current = version == facts_version()
    response["Cache-Control"] = f"private, max-age={_YEAR}, immutable" if is_current else "no-store"
    return response


@require_GET
def in_view(request: HttpRequest) -> HttpResponse:
    """The matches in a part of the map, ``box``, of which ``seen`` is on the screen; with ``extent=1`` also where all of them lie."""
    try:
        answer = _answer(request)
        found: dict[str, Any] = matches_in(
            view_of(request.GET), answer.matches, view_of(request.GET, "seen" if "seen" in request.GET else "box")
        )
        if request.GET.get("extent"):
            found["extent"] = extent_of(answer)
    except (NoViewError, CriteriaError) as error:
        return _wrong(error)
    return JsonResponse(found)


@require_GET
def labels(request: HttpRequest) -> HttpResponse:
    """What to write on the parcels in a part of the map."""
    scope_of(request)
    try:
        label = BY_KEY[request.GET.get("label", "")]
        return JsonResponse({"labels": labels_in(view_of(request.GET), label)})
    except KeyError:
        return _wrong(NoViewError(f"the label is one of {', '.join(BY_KEY)}"))
    except NoViewError as error:
        return _wrong(error)


@require_GET
def most(request: HttpRequest) -> HttpResponse:
    """The areas that hold most matches, each a button that shows it."""
    kind = request.GET.get("by", "")
    kind = kind if kind in KINDS else "neighborhood"
    try:
        holdings = most_matches(_answer(request).matches, kind)
    except CriteriaError as error:
        return render(request, "maps/_most.html", {"error": error, "kind": kind})
    return render(request, "maps/_most.html", {"holdings": holdings, "kind": kind})


@require_GET
def card(request: HttpRequest, pk: int) -> HttpResponse:
    """A parcel in a few lines, and the way to its page."""
    scope_of(request)
    traits = [CATALOGUE[key] for key in _ON_CARD]
    traits_read = [*traits, CATALOGUE["address"], CATALOGUE["parcel-number"]]
    parcels = with_values_alone(ParcelFacts.objects.all(), traits_read, ("longitude", "latitude", "parcels_owned"))
    facts = get_object_or_404(parcels, pk=pk)
    values = [(trait, value_of(facts, trait)) for trait in traits]
    figures = [(trait.label, cell_text(facts, trait, value)) for trait, value in values if value not in (None, NONE)]
    sale = next((listing.pk for listing in closed_listings(facts.parcel) if listing.close_price is not None), None)
    others = max(0, (facts.parcels_owned or 1) - 1)
    return render(request, "maps/_card.html", {"facts": facts, "figures": figures, "others": others, "sale": sale})


@require_GET
def marks(request: HttpRequest) -> HttpResponse:
    """What sold lately, what is for sale and what will be auctioned in a part of the map."""
    scope = scope_of(request)
    try:
        return JsonResponse({"marks": marks_in(view_of(request.GET), request.GET.getlist("kind"), scope)})
    except NoViewError as error:
        return _wrong(error)


@require_GET
def of_owner(request: HttpRequest, pk: int) -> HttpResponse:
    """All parcels of a parcel's owner, and the box about them."""
    scope_of(request)
    ids = parcels_of_same_owner(pk)
    return JsonResponse({"ids": ids, "box": about_outlines(ParcelFacts.objects.filter(pk__in=ids))})
