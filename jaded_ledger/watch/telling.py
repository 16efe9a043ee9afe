"""The round of watched searches: each that is due is asked anew, what is new is told up to then, and mailed to who wants that."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from jaded_ledger.accounts.models import User
from jaded_ledger.records.clock import now
from jaded_ledger.records.rounds import go_round
from jaded_ledger.searches.matching import reckon_if_askable, scope_of_search
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.watch.digests import send_unsent, write_digest
from jaded_ledger.watch.models import Watch


@dataclass(frozen=True)
class Round:
    """What a round did: how many searches it asked, how many watches it told, which searches were not told, how many mails left."""

    asked: int
    watches: int
    failed: tuple[str, ...]
    mails: int


def _due(at: datetime, *, every: bool) -> list[Watch]:
    active = Watch.objects.filter(paused_at=None, search__deleted_at=None, user__is_active=True).select_related("search__team")
    return [one for one in active if every or one.is_due(at)]


@transaction.atomic
def _tell(saved: SavedSearch, watches: Iterable[Watch]) -> int:
    """Ask a search anew and tell some of its watches up to now; how many. Those told meanwhile, by another round, are left as they are."""
    # The search first, as where a user changes a watch: the other order can deadlock.
    SavedSearch.objects.select_for_update().get(pk=saved.pk)
    keys = [one.pk for one in watches]
    locked = Watch.objects.select_for_update(of=("self",)).filter(pk__in=keys, paused_at=None)
    before = {one.pk: one.told_to for one in watches}
    wanted = [one.pk for one in locked if one.told_to == before[one.pk]]
    if not wanted or not reckon_if_askable(saved, scope_of_search(saved)):
        return 0
    return Watch.objects.filter(pk__in=wanted).update(told_to=now())


def run_due(*, search: str = "", every: bool = False) -> Round:
    """Tell each watch that is due, or with ``every`` all of them, at once; of one search where its name is given."""
    due: dict[int, list[Watch]] = {}
    for watch in _due(now(), every=every):
        if not search or watch.search.name.casefold() == search.casefold():
            due.setdefault(watch.search_id, []).append(watch)
    counts = dict(go_round("watched searches", [one[0].search for one in due.values()], lambda one: (one.pk, _tell(one, due[one.pk]))))
    failed = tuple(one[0].search.name for one in due.values() if not counts.get(one[0].search_id))
    mailed = User.objects.filter(watches__by_mail=True, watches__paused_at=None, is_active=True, team__isnull=False).distinct()
    go_round("mails of watched searches", mailed, write_digest)
    return Round(len(due), sum(counts.values()), failed, send_unsent())
