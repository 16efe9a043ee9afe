"""What goes on around a property, and the neighborhood around a sale."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.maps.acts import AREAS
from jaded_ledger.maps.around_sale import LIVES_THERE, MONTHS, REACHES, USUAL_REACH, Proposal, proposals, start_search
from jaded_ledger.maps.closed_sales import closed_sales
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.nearby import DISTANCES, USUAL
from jaded_ledger.maps.nearby import nearby as nearby_of
from jaded_ledger.maps.small_map import SmallMap, small_map
from jaded_ledger.records.models import Listing, Parcel, ParcelFacts
from jaded_ledger.web.sentences import sentence_of

_MOST_MONTHS = 600


def nearby_context(parcel: Parcel, distance: str, scope: Scope) -> dict[str, Any] | None:
    """Return what the page of a property shows of what goes on around it; None where it has no place on the map."""
    found = nearby_of(parcel, distance, scope)
    if found is None:
        return None
    return {
        "nearby": found,
        "distances": list(DISTANCES),
        "parcel": parcel,
        "sales": closed_sales(parcel, scope.today),
        "count": found.count,
    }


@require_GET
def nearby(request: HttpRequest, pk: int) -> HttpResponse:
    """What goes on around a property, within the distance that is chosen."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county"), pk=pk)
    distance = request.GET.get("distance", USUAL)
    context = nearby_context(parcel, distance if distance in DISTANCES else USUAL, scope)
    if context is None:
        raise Http404("the parcel has no place on the map")
    return render(request, "maps/_nearby.html", context)


def _drawn(offered: list[Proposal], chosen: Proposal, parcel: Parcel) -> SmallMap:
    """Draw the chosen neighborhood with its parcels, and the others beside it."""
    inside = dict.fromkeys(ParcelFacts.objects.filter(place__coveredby=chosen.geometry).values_list("pk", flat=True), "held")
    shapes = [(one.geometry, "other") for one in offered if one is not chosen and one.key != "neighborhood"]
    label = f"Map of {chosen.label}, with {chosen.parcels:,} parcels, around the property that was sold."
    legend = {"subject": "sold", "held": f"in the neighborhood, {chosen.parcels:,}"}
    around = [chosen.geometry, *(outline for outline, _ in shapes)] if chosen.key != "neighborhood" else [chosen.geometry]
    return small_map(around, inside | {parcel.pk: "subject"}, [*shapes, (chosen.geometry, "")], label=label, legend=legend)


def _months(query: QueryDict) -> int:
    months = whole_number(query.get("months", str(MONTHS)) or "0")
    if months is None or months > _MOST_MONTHS:
        raise AreaError(f"the months are a whole number up to {_MOST_MONTHS}; 0 leaves nobody out")
    return months


@require_http_methods(["GET", "POST"])
def around_sale(request: HttpRequest, pk: int) -> HttpResponse:
    """The neighborhood around a closed listing: proposals for it, and the search of its owners."""
    scope = scope_of(request)
    listing = get_object_or_404(Listing.objects.filter(superseded_at=None, parcel__isnull=False), pk=pk)
    assert listing.parcel_id is not None
    parcel = Parcel.objects.select_related("county", "facts", "facts__address").get(pk=listing.parcel_id)
    sale = next(iter(closed_sales(parcel, scope.today, [listing])), None)
    if sale is None or (sale.closed_on is None and sale.close_price is None):
        raise Http404("that listing did not end in a sale")
    query = request.POST if request.method == "POST" else request.GET
    reach = query.get("reach", USUAL_REACH)
    reach = reach if reach in REACHES else USUAL_REACH
    offered, error = proposals(parcel, reach), ""
    chosen = next((one for one in offered if one.key == query.get("area")), next(iter(offered), None))
    if request.method == "POST" and chosen:
        try:
            lives_there = query.get("lives_there", "")
            page = start_search(sale, chosen, _months(query), lives_there if lives_there in LIVES_THERE else "", scope)
            messages.success(request, "The neighborhood is kept as an area; its outline can be changed on the map, under Areas.")
            return redirect(f"{page.address(scope.team)}&face=map")
        except AreaError as wrong:
            error = sentence_of(wrong)
    context = {
        "place": "find", "sale": sale, "parcel": parcel, "offered": offered, "chosen": chosen, "reach": reach, "reaches": list(REACHES),
        "months": query.get("months", MONTHS), "lives_there": query.get("lives_there", ""), "who": LIVES_THERE.items(), "error": error,
        "drawing": _drawn(offered, chosen, parcel) if chosen else None, "may_change": may(scope, AREAS),
    }  # fmt: skip
    template = "maps/_around_sale.html" if request.headers.get("HX-Request") and request.method == "GET" else "maps/around_sale.html"
    return render(request, template, context, status=400 if error else 200)
