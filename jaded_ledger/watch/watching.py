"""What is done with watches: begun, changed, paused, taken up again, ended; and which a user has."""

from __future__ import annotations

from collections.abc import Collection

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.watching.rhythms import Rhythm
from jaded_ledger.records.clock import now
from jaded_ledger.searches.matching import WATCHED, reckon_if_askable
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import searches_of
from jaded_ledger.watch.models import Watch


class WatchError(ValueError):
    """Something that can't be done with a watch; the message says why, and what would do."""


def set_hour(team: Team, hour: int) -> None:
    """Have a team's morning begin at another hour. Raises WatchError."""
    if not 0 <= hour <= 23:
        raise WatchError("The hour of the morning is one from 0 to 23.")
    Team.objects.filter(pk=team.pk).update(morning_hour=hour)
    team.refresh_from_db(fields=["morning_hour"])


def watches_of(scope: Scope) -> QuerySet[Watch]:
    """Return what a user watches, of the searches that they can open; paused ones too."""
    return Watch.objects.filter(user=scope.user, search__in=searches_of(scope)).select_related("search__owner", "search__team")


def watch_of(scope: Scope, saved: SavedSearch) -> Watch | None:
    return watches_of(scope).filter(search=saved).first()


def _checked(rhythm: str, days: Collection[int], traits: Collection[str]) -> dict[str, object]:
    """Return what a watch is told by, as it is kept. Raises WatchError."""
    if rhythm not in list(Rhythm):
        raise WatchError("Choose how often to be told.")
    kept = sorted(set(days)) if rhythm == Rhythm.WEEKLY else []
    if rhythm == Rhythm.WEEKLY and not kept:
        raise WatchError("Choose the days of the week on which to be told.")
    if not set(kept) <= set(range(1, 8)):
        raise WatchError("A day of the week is 1 for Monday to 7 for Sunday.")
    if not set(traits) <= set(WATCHED):
        raise WatchError(f"Only these are watched: {', '.join(WATCHED)}.")
    return {"rhythm": rhythm, "days": kept, "traits": [one for one in WATCHED if one in set(traits)]}


@transaction.atomic
def watch(
    scope: Scope, saved: SavedSearch, rhythm: str, *, days: Collection[int] = (), traits: Collection[str] = WATCHED, by_mail: bool = False
) -> Watch:
    """Have a user watch a search from now on, or otherwise than before. Raises WatchError."""
    values = {**_checked(rhythm, days, traits), "by_mail": by_mail}
    if by_mail and scope.user is not None and not scope.user.email:
        raise WatchError("Your account has no e-mail address; whoever runs this installation enters it.")
    SavedSearch.objects.select_for_update().get(pk=saved.pk)
    if found := Watch.objects.filter(search=saved, user=scope.user).first():
        if by_mail and not found.by_mail:
            values["mailed_to"] = now()
        Watch.objects.filter(pk=found.pk).update(**values)
        found.refresh_from_db()
        return found
    # What is there already is not new.
    reckon_if_askable(saved, scope)
    at = now()
    assert scope.user is not None
    return Watch.objects.create(
        search=saved, user=scope.user, began_at=at, told_to=at, done_to=at, mailed_to=at, **values
    )  # fmt: skip


def end(scope: Scope, saved: SavedSearch) -> None:
    """Have a user watch a search no longer."""
    Watch.objects.filter(search=saved, user=scope.user).delete()


def pause(scope: Scope, saved: SavedSearch) -> None:
    """Tell nothing of a search until it is taken up again; what is new meanwhile is told then."""
    Watch.objects.filter(search=saved, user=scope.user, paused_at=None).update(paused_at=now())


def resume(scope: Scope, saved: SavedSearch) -> None:
    Watch.objects.filter(search=saved, user=scope.user).update(paused_at=None)
