"""How many new matches a saved search had day by day, and the rhythm that this proposes for telling of it."""

from __future__ import annotations

from datetime import timedelta

from django.db.models import Count
from django.db.models.functions import TruncDate

from jaded_ledger.core.watching.rhythms import Proposal, proposed
from jaded_ledger.records.clock import now
from jaded_ledger.searches.models import Match, SavedSearch

PAST_DAYS = 30


def proposal_for(saved: SavedSearch) -> Proposal:
    """Return the rhythm that a search's last thirty days propose, or as many as it has been kept."""
    at = now()
    days = min(PAST_DAYS, max((at.date() - saved.made_at.date()).days, 1))
    came = Match.objects.filter(search=saved, by_edit=False, entered_at__gt=at - timedelta(days))
    counts = dict(came.annotate(day=TruncDate("entered_at")).values("day").annotate(count=Count("pk")).values_list("day", "count"))
    return proposed([counts.get(at.date() - timedelta(back), 0) for back in range(days - 1, -1, -1)])
