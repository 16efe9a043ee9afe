"""What a role may do."""

from __future__ import annotations

from django.core.exceptions import PermissionDenied

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope


def may_change(scope: Scope) -> bool:
    """Return whether somebody may change what the team keeps, and take contact data out. A command may."""
    return scope.user is None or scope.user.role != User.Role.READER


def require_contacts(scope: Scope) -> None:
    """Raise PermissionDenied for a reader, who sees contact data and takes none out."""
    require_changer(scope, "it sees contact data but takes none out")


def require_changer(scope: Scope, otherwise: str) -> None:
    """Raise PermissionDenied for a reader. ``otherwise`` is what the role does not do: ``it changes no lists``."""
    if not may_change(scope):
        raise PermissionDenied(f"Your role is reader: {otherwise}. Ask your team's owner.")
