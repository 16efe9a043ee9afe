"""The page that tells what mailings brought."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.mail.response import Brought, may_be_chance
from jaded_ledger.mailings.response import (
    REPLY,
    brought_by_letters,
    brought_together,
    lists_named,
    responses,
    row_of,
    search_named,
    starter_named,
)

_SHOWN = 100


@require_GET
def response(request: HttpRequest) -> HttpResponse:
    """What each mailing brought, and together all mailings of a letter, to a search, to a list, and from a starter."""
    scope = scope_of(request)
    found = responses(scope)
    letters, searches = brought_by_letters(scope), brought_together(found, search_named)
    tables = (
        ("By letter", letters), ("By search", searches), ("By list", brought_together(found, lists_named)),
        ("By starter search", brought_together(found, starter_named)),
    )  # fmt: skip
    context: dict[str, Any] = {
        "place": "outreach", "view": "response", "later": [("Met", "one costs"), ("Listings", "one costs"), ("Deals", "one costs")],
        "tables": [(title, [row_of(one) for one in rows[:_SHOWN]]) for title, rows in tables if rows],
        "mailings": [row_of(one.brought, one.mailing.pk) for one in found[:_SHOWN]],
        "compared": [one for rows in (letters, searches) if (one := _compared(rows))],
    }  # fmt: skip
    return render(request, "mailings/response.html", context)


def _compared(rows: Sequence[Brought]) -> dict[str, Any] | None:
    """Return the two that cost least a reply beside each other, and whether they may differ by chance alone."""
    if len(rows) < 2 or not any(one.outcomes.get(REPLY) for one in rows[:2]):
        return None
    first, second = rows[0].share_of(REPLY), rows[1].share_of(REPLY)
    return {
        "one": rows[0].label or "all parcels", "other": rows[1].label or "all parcels", "share": first.value if first else None,
        "other_share": second.value if second else None, "is_chance": may_be_chance(first, second),
    }  # fmt: skip
