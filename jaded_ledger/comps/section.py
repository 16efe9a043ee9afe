"""Comps on a property's page: their range and the most similar ones, loaded when the section is scrolled to."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.comps_page import shown
from jaded_ledger.comps.kept import kept_of
from jaded_ledger.comps.valuation import value
from jaded_ledger.records.models import Parcel, ParcelFacts

_SHOWN = 6


def section_context(parcel: Parcel, scope: Scope) -> dict[str, Any] | None:
    """Return what the section needs at first; None of a parcel of which neither a living area nor a lot is known."""
    facts = ParcelFacts.objects.filter(pk=parcel.pk).values_list("living_area", "lot_sqft").first()
    if facts is None or facts == (None, None):
        return None
    return {"parcel": parcel, "kept": list(kept_of(scope).filter(parcel=parcel)[:_SHOWN])}


def most_similar_context(parcel: Parcel, scope: Scope) -> dict[str, Any]:
    """Return the range of a property and its most similar comps."""
    about = shown(value(parcel, scope))
    return {"comps": about, "rows": [comp for comp in about["comps"] if comp["share"] is not None][:_SHOWN]}
