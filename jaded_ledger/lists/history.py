"""What a team did with one parcel: the acts by which it came on lists, was tagged and given stages, and went off again."""

from __future__ import annotations

from itertools import chain

from django.db.models import QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.lists.models import Activity, Membership, StageEntry, Tagging
from jaded_ledger.records.models import Parcel


def acts_on(parcel: Parcel, scope: Scope) -> QuerySet[Activity]:
    """Return the acts that changed something of a parcel, those that were undone apart."""
    rows = chain(
        Membership.objects.filter(parcel=parcel, list__team=scope.team).values_list("added", "removed"),
        Tagging.objects.filter(parcel=parcel, tag__team=scope.team).values_list("added", "removed"),
        StageEntry.objects.filter(parcel=parcel, team=scope.team).values_list("added", "superseded"),
    )
    ids = {pk for row in rows for pk in row if pk}
    return Activity.objects.filter(pk__in=ids, undone_at=None).select_related("user")
