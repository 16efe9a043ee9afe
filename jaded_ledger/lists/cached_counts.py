"""What was counted of a team's lists is remembered until its lists or the facts change: each page of them asks for the same counts."""

from __future__ import annotations

from collections.abc import Callable
from hashlib import sha256
from typing import TypeVar

from django.core.cache import caches

from jaded_ledger.accounts.models import Team
from jaded_ledger.records.versions import facts_version

T = TypeVar("T")


def cached_count(team_id: int, what: str, count: Callable[[], T]) -> T:
    """Return what was counted for a team, counting it where that was not done yet since something changed.

    ``what`` tells one count of a team's from another. Which state it is of is read before it is counted, and not from a
    team that may have been read a while ago.
    """
    version = Team.objects.values_list("version", flat=True).get(pk=team_id)
    # Names of lists are in it, and a key has no more than 255 characters.
    key, memory = f"lists:{facts_version()}:{team_id}:{version}:{sha256(what.encode()).hexdigest()}", caches["tallies"]
    found: T | None = memory.get(key)
    if found is None:
        found = count()
        memory.set(key, found)
    return found
