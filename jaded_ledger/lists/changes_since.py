"""What has come about of the rows of a list since they were added, asked of the database; the rule is ``core.stacking.since``."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Count, F, Q, QuerySet

from jaded_ledger.core.criteria.catalogue.choices import STATUSES, key_of
from jaded_ledger.core.market.listings import StandardStatus
from jaded_ledger.core.market.on_market import OFFERED, UNSOLD
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.stacking.changes_since import SinceAdded
from jaded_ledger.lists.models import Membership

_CODES = {choice.key: choice.code for choice in STATUSES}


def _codes(statuses: Iterable[StandardStatus]) -> list[int]:
    return sorted(_CODES[key_of(status)] for status in statuses)


def _unlike(column: str, values: Iterable[object]) -> Q:
    """Not one of some values, where nothing counts as none of them."""
    return Q(**{f"{column}__isnull": True}) | ~Q(**{f"{column}__in": values})


_NOW = "parcel__facts"
_OFFERED_NOW, _UNSOLD_NOW = Q(**{f"{_NOW}__status__in": _codes(OFFERED)}), Q(**{f"{_NOW}__status__in": _codes(UNSOLD)})
_ASKED: dict[SinceAdded, Q] = {
    SinceAdded.LISTED: _OFFERED_NOW & _unlike("status", _codes(OFFERED)),
    SinceAdded.OFF_MARKET: _UNSOLD_NOW & (Q(status__in=_codes(OFFERED)) | Q(**{f"{_NOW}__status_since__gt": F("added_on")})),
    SinceAdded.DIED: Q(**{f"{_NOW}__probate__gt": F("added_on")})
    | (
        Q(**{f"{_NOW}__owner_name__kind": OwnerKind.ESTATE})
        & Q(owner_name__kind__in=[kind for kind in OwnerKind if kind is not OwnerKind.ESTATE])
    ),
    SinceAdded.PAID_UP: Q(tax_due__gt=0, **{f"{_NOW}__tax_due": 0}),
}


def with_change(rows: QuerySet[Membership], what: SinceAdded) -> QuerySet[Membership]:
    """Return those of some memberships of whose parcels something has come about since they were added."""
    return rows.filter(_ASKED[what])


def change_counts(rows: QuerySet[Membership]) -> dict[SinceAdded, int]:
    """Return of how many of some memberships' parcels each has come about, counted at once."""
    found = rows.aggregate(**{what.name: Count("pk", filter=asked) for what, asked in _ASKED.items()})
    return {what: found[what.name] for what in SinceAdded}
