"""How many rows lists have, how many are stale, and how lists overlap: counted by the database."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db import connection
from django.db.models import Aggregate, Case, Count, IntegerField, QuerySet, Value, When

from jaded_ledger.accounts.models import Team
from jaded_ledger.lists.cached_counts import cached_count
from jaded_ledger.lists.models import Membership, ParcelList
from jaded_ledger.lists.staleness import fresh_memberships, stale_memberships
from jaded_ledger.records.models import Parcel


@dataclass(frozen=True)
class Counted:
    """A list with how many parcels are on it, of them how many stale, and how many are on another list too."""

    list: ParcelList
    count: int
    stale: int
    shared: int


def lists_of(team: Team) -> QuerySet[ParcelList]:
    """Return a team's lists, by name."""
    return ParcelList.objects.filter(team=team, deleted=None).select_related("made__user").order_by("folded")


_RETIRED = Parcel.objects.filter(retired_on__isnull=False)


def current(lists: Sequence[ParcelList]) -> QuerySet[Membership]:
    """Return what is on some lists, as Find has it: parcels that their county has retired are left out."""
    return Membership.objects.filter(list__in=lists, removed=None).exclude(parcel__in=_RETIRED)


def retired(lists: Sequence[ParcelList]) -> QuerySet[Membership]:
    """Return the rows of some lists whose parcels their county has retired, such as when it splits or renumbers them."""
    return Membership.objects.filter(list__in=lists, removed=None, parcel__in=_RETIRED)


def _by_list(rows: QuerySet[Membership]) -> dict[int, int]:
    return dict(rows.order_by().values("list").annotate(rows=Count("pk")).values_list("list", "rows"))


def _counts(lists: Sequence[ParcelList]) -> tuple[dict[int, int], dict[int, int], dict[int, int]]:
    """Return by list how many parcels are on each, how many of them are stale, and how many are on another list too."""
    rows = current(lists)
    several = rows.order_by().values("parcel").annotate(lists=Count("pk")).filter(lists__gt=1).values("parcel")
    return _by_list(rows), _by_list(stale_memberships(rows)), _by_list(rows.filter(parcel__in=several))


def counted(team: Team) -> list[Counted]:
    """Return a team's lists with their counts."""
    lists = list(lists_of(team))
    counts, stale, shared = cached_count(team.pk, "all", lambda: _counts(lists))
    return [
        Counted(parcel_list, counts.get(parcel_list.pk, 0), stale.get(parcel_list.pk, 0), shared.get(parcel_list.pk, 0))
        for parcel_list in lists
    ]


class _BitOr(Aggregate):
    function = "BIT_OR"
    output_field = IntegerField()


def exactly(lists: Sequence[ParcelList], *, with_stale: bool = True) -> dict[int, int]:
    """Return how many parcels are on exactly which of some lists of a team, by a number with a bit for each list in its place."""
    what = f"exactly:{'-'.join(str(parcel_list.pk) for parcel_list in lists)}:{with_stale}"
    return cached_count(lists[0].team_id, what, lambda: count_exactly(lists, with_stale=with_stale)) if lists else {}


def count_exactly(lists: Sequence[ParcelList], *, with_stale: bool = True) -> dict[int, int]:
    """Count what ``exactly`` returns."""
    rows = current(lists)
    if not with_stale:
        rows = fresh_memberships(rows)
    bits = Case(*(When(list=parcel_list, then=Value(1 << place)) for place, parcel_list in enumerate(lists)), output_field=IntegerField())
    masks = rows.order_by().values("parcel").annotate(mask=_BitOr(bits)).values("mask")
    statement, parameters = masks.query.sql_with_params()
    with connection.cursor() as cursor:
        # The statement within is Django's own, its values are given apart.
        cursor.execute(f"SELECT mask, count(*) FROM ({statement}) AS masks GROUP BY mask", parameters)  # noqa: S608
        return dict(cursor.fetchall())
