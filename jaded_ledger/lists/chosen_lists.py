"""Which of a team's lists a page is asked about."""

from __future__ import annotations

from django.http import QueryDict

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.models import ParcelList


def chosen_lists(sent: QueryDict, team: Team, *, unless_asked: bool) -> tuple[list[ParcelList], list[ParcelList]]:
    """Return all lists of a team, and of them those asked for by ``list=``; all of them (or none) when none is."""
    every = list(lists_of(team))
    asked = {whole_number(pk) for pk in sent.getlist("list")}
    chosen = [one for one in every if one.pk in asked]
    return every, chosen or (every if unless_asked else [])
