"""Auctions that are near, of properties on the team's lists."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from datetime import date
from typing import cast

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.plugins.entries import Due


def auctions_ahead(scope: Scope, until: date) -> Iterator[Due]:
    """Yield each property on a list that is auctioned from today to a day, the day included."""
    rows = memberships(scope).filter(parcel__facts__auction__range=(scope.today, until)).order_by("list__folded")
    lists: dict[int, list[str]] = defaultdict(list)
    facts = {}
    for row in rows.select_related("list", "parcel__facts__address"):
        lists[row.parcel_id].append(f"“{row.list.name}”")
        facts[row.parcel_id] = row.parcel.facts
    for parcel_id, names in lists.items():
        where = facts[parcel_id].street_line or f"parcel {facts[parcel_id].parcel_number}"
        what = f"auction of {where}, on {', '.join(names)}"
        yield Due(cast(date, facts[parcel_id].auction), "auction", what, parcel_id)
