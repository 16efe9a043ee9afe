"""The page that tells what mailings brought."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.mail.response import Brought, may_be_chance
from jaded_ledger.outreach.models import PieceOutcome
from jaded_ledger.outreach.response import OUTCOMES, by_search, responses

_REPLY, *_LATER = OUTCOMES
_SHOWN = 100


def _row(brought: Brought, pk: int | None = None) -> dict[str, Any]:
    return {
        "pk": pk, "label": brought.label, "pieces": brought.pieces, "cost": brought.cost, "share": brought.share_of(_REPLY),
        "replies": brought.outcomes.get(_REPLY, 0), "later": [brought.outcomes.get(kind, 0) for kind in _LATER],
        "reply_costs": brought.cost_per(_REPLY), "deal_costs": brought.cost_per(PieceOutcome.Kind.DEAL),
    }  # fmt: skip


@require_GET
def response(request: HttpRequest) -> HttpResponse:
    """What each mailing brought, and all mailings to the same search together."""
    found = responses(scope_of(request))
    groups = [brought for _, brought in by_search(found)]
    context: dict[str, Any] = {
        "place": "outreach", "view": "response", "later": ["Met", "Listings", "Deals"], "groups": [_row(one) for one in groups[:_SHOWN]],
        "mailings": [_row(one.brought, one.mailing.pk) for one in found[:_SHOWN]],
    }  # fmt: skip
    if len(groups) > 1 and any(one.outcomes.get(_REPLY) for one in groups[:2]):
        first, second = (one.share_of(_REPLY) for one in groups[:2])
        context["compared"] = {
            "one": groups[0].label or "all parcels", "other": groups[1].label or "all parcels", "share": first.value if first else None,
            "other_share": second.value if second else None, "is_chance": may_be_chance(first, second),
        }  # fmt: skip
    return render(request, "outreach/response.html", context)
