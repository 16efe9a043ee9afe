"""The report of comps for a seller or a buyer, as PDF. It says nothing of owners, distress or debts."""

from __future__ import annotations

from datetime import date
from typing import Any

from django.template.loader import render_to_string

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.photographs import photographs_of
from jaded_ledger.core.comps.warnings import Warned
from jaded_ledger.maps.small_map import SmallMap
from jaded_ledger.records.models import Photograph
from jaded_ledger.web.pdf import data_address, pdf_of

_OF_EACH = 1
_OF_SUBJECT = 3


def _pictures(found: list[Photograph], most: int) -> list[dict[str, str]]:
    return [{"source": data_address(one.image.content_type, bytes(one.image.content)), "caption": one.caption} for one in found[:most]]


def _told_to_others(warnings: list[str]) -> list[str]:
    """Return the warnings that a seller or a buyer is told: a neighbor's distress is not."""
    return [warning for warning in warnings if not warning.startswith(Warned.DISTRESSED)]


def report_of(about: dict[str, Any], drawing: SmallMap | None, scope: Scope) -> bytes:
    """Return the report of what a page of comps shows, with its map, as PDF."""
    subject = about["subject"]
    comps = [
        comp | {
            "warnings": _told_to_others(comp["warnings"]),
            "pictures": _pictures(photographs_of(comp["parcel_id"], date.fromisoformat(comp["sold_on"]))[0], _OF_EACH),
        }
        for comp in about["comps"]
        if comp["share"] is not None
    ]  # fmt: skip
    context = {
        "about": about, "subject": subject, "comps": comps, "drawing": drawing,
        "pictures": _pictures(photographs_of(subject["parcel_id"], None)[0], _OF_SUBJECT),
        "agent": (scope.user.get_full_name() or scope.user.username) if scope.user else "", "team": scope.team.name,
    }  # fmt: skip
    styles = (render_to_string(f"comps/{name}.css") for name in ("report", "report_drawing"))
    return pdf_of(render_to_string("comps/report.html", context), *styles)
