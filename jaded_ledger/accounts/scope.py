"""On whose behalf, and on which day, something is asked."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.records.clock import today


@dataclass(frozen=True)
class Scope:
    """The team and user that ask, and the day they stand at. ``user`` is None on the command line."""

    team: Team
    user: User | None
    today: date


class RequireTeam:
    """Shows somebody who is in no team nothing but their own pages, and staff theirs."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        return self._get_response(request)

    def process_view(self, request: HttpRequest, view: object, args: object, kwargs: object) -> None:
        match = request.resolver_match
        if request.user.is_authenticated and match and not {"accounts", "admin"}.intersection(match.app_names):
            scope_of(request)


class ScopeError(Exception):
    """No team could be told; the message says what to do."""


def user_of(request: HttpRequest) -> User:
    """Return who is signed in; views that are open to others read ``request.user``."""
    assert isinstance(request.user, User)
    return request.user


def scope_of(request: HttpRequest) -> Scope:
    """Return the scope of a signed-in request. Raises PermissionDenied for a user without a team."""
    user = user_of(request)
    if user.team is None:
        raise PermissionDenied("You are not in a team yet. Ask whoever runs this installation to put you in one.")
    return Scope(user.team, user, today(user.team.time_zone))


def scope_of_command(team: str | None = None) -> Scope:
    """Return the scope of a command: the team named, or the only one there is. Raises ScopeError."""
    found = list(Team.objects.filter(name=team) if team else Team.objects.all()[:2])
    if len(found) != 1:
        names = ", ".join(Team.objects.values_list("name", flat=True))
        if not names:
            raise ScopeError("there is no team yet; bin/manage administrator NAME --team TEAM makes the first")
        raise ScopeError(f"say for which team, with --team NAME (teams: {names})")
    return Scope(found[0], None, today(found[0].time_zone))
