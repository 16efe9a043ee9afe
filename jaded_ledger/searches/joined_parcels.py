"""A parcel that was begun at its address has become the numbered one: what searches found of it goes along."""

from __future__ import annotations

from jaded_ledger.searches.models import Match


def join_parcel(before: int, after: int) -> None:
    """Have the matches of a parcel be of another, but where a search finds that other one itself already."""
    there = Match.objects.filter(parcel=after, left_at=None).values("search")
    Match.objects.filter(parcel=before).exclude(search__in=there, left_at=None).update(parcel=after)
