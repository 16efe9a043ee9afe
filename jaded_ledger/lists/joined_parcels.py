"""A parcel that was begun at its address has become the numbered one: what a team keeps of it goes along."""

from __future__ import annotations

from jaded_ledger.lists.models import Membership, StageEntry, Tagging


def join_parcel(before: int, after: int) -> None:
    """Have lists, tags and stages of a parcel be of another, but where that other is on the same list itself already."""
    for model, thing, is_current in ((Membership, "list", "removed"), (Tagging, "tag", "removed"), (StageEntry, "team", "superseded")):
        there = model._default_manager.filter(**{"parcel": after, is_current: None}).values(thing)
        mine = model._default_manager.filter(parcel=before)
        mine.exclude(**{f"{thing}__in": there, is_current: None}).update(parcel=after)
