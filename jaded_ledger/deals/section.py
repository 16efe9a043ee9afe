"""Deals on a property's page: the range of its comps with the likest, asked for when it comes into view; its worksheets and files."""

from __future__ import annotations

from typing import Any

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.deals.acts import FILES
from jaded_ledger.deals.comps_page import shown
from jaded_ledger.deals.files import files_of
from jaded_ledger.deals.kept import kept_of
from jaded_ledger.deals.models.files import FileKind
from jaded_ledger.deals.valuation import value
from jaded_ledger.deals.worksheets.services import worksheets_of
from jaded_ledger.records.models import Parcel, ParcelFacts

_SHOWN = 6


def section_context(parcel: Parcel, scope: Scope) -> dict[str, Any] | None:
    """Return what the section needs at first; None of a parcel of which neither a living area nor a lot is known."""
    facts = ParcelFacts.objects.filter(pk=parcel.pk).values_list("living_area", "lot_sqft").first()
    if facts is None or facts == (None, None):
        return None
    return {"parcel": parcel, "kept": list(kept_of(scope).filter(parcel=parcel)[:_SHOWN])}


def likest_context(parcel: Parcel, scope: Scope) -> dict[str, Any]:
    """Return the range of a property and its likest comps."""
    about = shown(value(parcel, scope))
    return {"comps": about, "rows": [comp for comp in about["comps"] if comp["share"] is not None][:_SHOWN]}


def deals_context(parcel: Parcel, scope: Scope) -> dict[str, Any]:
    """Return a property's worksheets and files."""
    worksheets, files = list(worksheets_of(scope).filter(parcel=parcel)[:_SHOWN]), list(files_of(scope).filter(parcel=parcel))
    return {
        "parcel": parcel, "worksheets": worksheets, "files": files, "count": len(worksheets) + len(files),
        "may_change": may(scope, FILES), "file_kinds": FileKind.choices,
    }  # fmt: skip
