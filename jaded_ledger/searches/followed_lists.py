"""Lists that follow a saved search: what it finds is on them, and what it no longer finds comes off."""

from __future__ import annotations

from collections.abc import Collection

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.named_things import stored_text
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.messages import ListError, named
from jaded_ledger.lists.models import Membership, ParcelList
from jaded_ledger.searches.acts import FOLLOWED_LISTS
from jaded_ledger.searches.models import FollowedList, Match, SavedSearch


def followers_of(saved: SavedSearch) -> QuerySet[FollowedList]:
    """Return which lists follow a search."""
    return FollowedList.objects.filter(search=saved, list__deleted=None).select_related("list").order_by("list__name")


def followed_by(which: ParcelList, scope: Scope) -> SavedSearch | None:
    """Return the search that a list follows; None where it follows none that is still there."""
    found = FollowedList.objects.filter(list=which, search__team=scope.team, search__deleted_at=None).select_related("search").first()
    return found.search if found else None


def follow_up(saved: SavedSearch, found: Collection[int], asked: SearchPage, scope: Scope) -> None:
    """Put on the lists that follow a search what it finds, and take off what it doesn't."""
    for one in followers_of(saved):
        there = set(Membership.objects.filter(list=one.list, removed=None).values_list("parcel_id", flat=True))
        lists.add(scope, one.list, set(found) - there, stored_text(asked.search, scope.team))
        lists.remove(scope, one.list, there - set(found))


@transaction.atomic
def follow(scope: Scope, saved: SavedSearch, name: str, asked: SearchPage) -> ParcelList:
    """Have a list of a name follow a search, whose matches are up to date; it is made if there is none.

    Raises ListError where the list follows another search, and PermissionDenied.
    """
    require(scope, FOLLOWED_LISTS)
    kept, key = named(name, 80, "list")
    which = ParcelList.objects.filter(team=scope.team, folded=key, deleted=None).first() or lists.make_list(scope, kept)
    if other := FollowedList.objects.filter(list=which).exclude(search=saved).select_related("search").first():
        raise ListError(f"“{which.name}” follows the search “{other.search}” already; choose another list, or end that first")
    FollowedList.objects.get_or_create(list=which, search=saved)
    follow_up(saved, set(Match.objects.filter(search=saved, left_at=None).values_list("parcel_id", flat=True)), asked, scope)
    return which


def unfollow(scope: Scope, saved: SavedSearch, list_id: int) -> None:
    """Have a list follow a search no longer; what is on it stays on it."""
    require(scope, FOLLOWED_LISTS)
    FollowedList.objects.filter(search=saved, list_id=list_id).delete()
