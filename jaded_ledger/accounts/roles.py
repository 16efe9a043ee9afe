"""What each role may do: an act is declared once, by the app that it is of, and asked for by ``may`` and ``require`` alone."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import chain

from django.core.exceptions import PermissionDenied

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.plugins import hooks

STAFF = "staff"
"""Not a role: whoever runs the installation. Staff have a role in their team besides."""
CHANGERS = frozenset({User.Role.OWNER, User.Role.AGENT})
TEAM_OWNERS = frozenset({User.Role.OWNER})


@dataclass(frozen=True)
class Act:
    """Something that not everybody may do: what it lets one do, what somebody is told who may not, and whose it is."""

    key: str
    label: str
    refused: str
    allowed: frozenset[str] = CHANGERS


def role_of(scope: Scope) -> str | None:
    """Return in which role somebody acts; None for a command."""
    return scope.user.role if scope.user else None


def role_label(role: str) -> str:
    """Return what a role is called."""
    return str(User.Role(role).label)


def may(scope: Scope, act: Act) -> bool:
    """Return whether somebody may do something. A command may."""
    if scope.user is None:
        return True
    return scope.user.role in act.allowed or (scope.user.is_staff and STAFF in act.allowed)


def require(scope: Scope, act: Act) -> None:
    """Raise PermissionDenied for somebody who may not do something."""
    if may(scope, act):
        return
    if scope.user is None or act.allowed == {STAFF}:
        raise PermissionDenied(f"{act.refused} Ask whoever runs this installation.")
    raise PermissionDenied(f"Your role is {scope.user.get_role_display().lower()}: {act.refused}. Ask your team's owner.")


def every_act() -> list[Act]:
    """Return the acts of all apps, by what they let one do."""
    given: Iterable[Iterable[Act]] = hooks.acts()
    return sorted(chain.from_iterable(given), key=lambda act: act.label)
