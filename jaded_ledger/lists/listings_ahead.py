"""Listings that run out soon, of properties on the team's lists."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from datetime import date
from typing import cast

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.market.on_market import ENDED, NOT_SHOWN
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.plugins.entries import Due
from jaded_ledger.records.models import Listing, Parcel


def listings_ahead(scope: Scope, until: date) -> Iterator[Due]:
    """Yield each listing of a property on a list that runs out from today to a day, the day included."""
    names: dict[int, list[str]] = defaultdict(list)
    for parcel_id, name in memberships(scope).order_by("list__folded").values_list("parcel_id", "list__name"):
        names[parcel_id].append(f"“{name}”")
    ending = Listing.objects.filter(superseded_at=None, parcel__in=names, expiration_date__range=(scope.today, until))
    for listing in ending.exclude(standard_status__in=[*ENDED, *NOT_SHOWN]).select_related("parcel__facts__address"):
        parcel = cast(Parcel, listing.parcel)
        facts = getattr(parcel, "facts", None)
        where = (facts.street_line if facts else "") or f"parcel {parcel.number}"
        what = f"listing of {where} runs out, on {', '.join(names[parcel.pk])}"
        yield Due(cast(date, listing.expiration_date), "listing runs out", what, parcel.pk)
