"""The ranges of properties that were chosen in Find, each beside its price."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.comps.screening import Screened, screen
from jaded_ledger.comps.valuation import addresses_of
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.models import Selection
from jaded_ledger.find.selections import parcels_of

MOST = 300
"""So many properties are told on a page; more are named, and not told."""
_SORTS = {
    "difference": lambda one: (one.difference is None, one.difference or 0.0),
    "value": lambda one: (one.range is None, one.range.value if one.range else 0.0),
    "spread": lambda one: (one.range is None, one.range.spread if one.range else 0.0),
    "price": lambda one: (one.price is None, one.price or 0.0),
}  # fmt: skip


def _shown(one: Screened, addresses: dict[int, tuple[str, str]]) -> dict[str, Any]:
    address, number = addresses.get(one.parcel_id, (str(one.parcel_id), ""))
    by = one.difference
    return {
        "parcel_id": one.parcel_id, "address": address, "number": number, "range": one.range, "price": one.price, "is_asked": one.is_asked,
        "by": "" if by is None else f"{abs(by):.0f} % {'over' if by > 0 else 'under'}", "is_under": by is not None and by < 0,
    }  # fmt: skip


@require_GET
def screening(request: HttpRequest, key: str) -> HttpResponse:
    """Each chosen property's range by its comps, beside what is asked for it; the most under it first."""
    scope = scope_of(request)
    selection = get_object_or_404(Selection, key=key, team=scope.team)
    sort, error = request.GET.get("sort", "difference"), ""
    sort = sort if sort.removeprefix("-") in _SORTS else "difference"
    try:
        chosen = parcels_of(selection, scope)
        count, rows = chosen.count(), list(chosen.order_by("parcel_id")[:MOST])
    except CriteriaError as wrong:
        count, rows, error = 0, [], str(wrong)
    found = sorted(screen(rows, scope), key=_SORTS[sort.removeprefix("-")], reverse=sort.startswith("-"))
    addresses = addresses_of([one.parcel_id for one in found])
    context = {
        "place": "deals", "rows": [_shown(one, addresses) for one in found], "count": count, "most": MOST, "sort": sort, "error": error,
        "without": sum(one.range is None for one in found),
        "headings": (
            ("", "Property", False), ("price", "Price", True), ("", "Told by", False), ("", "Comps", True), ("", "Low", True),
            ("value", "Value", True),
            ("", "High", True), ("spread", "Spread", True), ("difference", "Price against value", True),
        ),
    }  # fmt: skip
    return render(request, "comps/screening.html", context)
