"""What the team's mailings brought: each mailing, each list and search that they went to, each starter they came from."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import Count

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.mail.response import Brought, together
from jaded_ledger.find.named_things import current_text
from jaded_ledger.outreach.models import Mailing, PieceOutcome

OUTCOMES = (PieceOutcome.Kind.REPLY, PieceOutcome.Kind.MEETING, PieceOutcome.Kind.LISTING, PieceOutcome.Kind.DEAL)
"""What is hoped for, the nearest first. A piece that came to a later one came to those before it, too."""


@dataclass(frozen=True)
class Response:
    """What a mailing brought, and the search that it went to."""

    mailing: Mailing
    search: str
    brought: Brought


def responses(scope: Scope) -> list[Response]:
    """Return what each made mailing brought, the newest first."""
    made = Mailing.objects.filter(team=scope.team, thrown_away_at=None, made_at__isnull=False).select_related("selection")
    counts: dict[int, dict[str, int]] = defaultdict(dict)
    noted = PieceOutcome.objects.filter(piece__mailing__in=made, undone_at=None).order_by()
    for mailing, kind, count in noted.values_list("piece__mailing", "kind").annotate(count=Count("piece", distinct=True)):
        counts[mailing][kind] = count
    return [
        Response(one, _search(one, scope), Brought(one.name, one.pieces_made, one.cost, counts[one.pk]))
        for one in made.order_by("-made_at", "-pk")
    ]


def _search(mailing: Mailing, scope: Scope) -> str:
    try:
        return current_text(mailing.selection.search, scope.team)
    except CriteriaError:
        return mailing.selection.search


def by_search(given: Iterable[Response]) -> list[tuple[str, Brought]]:
    """Return what the mailings to each search brought together, those that cost least a reply first."""
    groups: dict[str, list[Brought]] = defaultdict(list)
    for one in given:
        groups[one.search].append(one.brought)
    found = [(search, together(search, several)) for search, several in groups.items()]
    return sorted(found, key=lambda pair: (pair[1].cost_per(OUTCOMES[0]) is None, pair[1].cost_per(OUTCOMES[0]) or 0, pair[0]))
