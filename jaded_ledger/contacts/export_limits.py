"""How many rows one may take out at once, by role: the team's owner sets it."""

from __future__ import annotations

from collections.abc import Mapping

from jaded_ledger.accounts.roles import require, role_of
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS, EXPORT_LIMITS
from jaded_ledger.contacts.models import MailSettings
from jaded_ledger.core.whole_numbers import whole_number

LIMITED = sorted(CONTACTS.allowed)
"""The roles that take contact data out."""
MOST = 10_000_000


class SettingError(ValueError):
    """What can't be set; the message says why."""


def limits_of(scope: Scope) -> dict[str, int]:
    """Return the limits that the team has, by role; a role without one has none."""
    found = MailSettings.objects.filter(team=scope.team).first()
    return dict(found.export_limits) if found else {}


def set_limits(scope: Scope, said: Mapping[str, str]) -> None:
    """Set the limits of roles; blank is none. Raises SettingError and PermissionDenied."""
    require(scope, EXPORT_LIMITS)
    limits = {}
    for role in LIMITED:
        text = said.get(role, "").strip().replace(",", "")
        if not text:
            continue
        most = whole_number(text)
        if most is None or not 1 <= most <= MOST:
            raise SettingError(f"how many rows a file has at most is a whole number from 1 to {MOST:,}, or blank; not “{text[:12]}”")
        limits[role] = most
    MailSettings.objects.update_or_create(team=scope.team, defaults={"export_limits": limits})


def limit_of(scope: Scope) -> int | None:
    """Return how many rows somebody may take out at once; None where nothing limits it. Commands are not limited."""
    role = role_of(scope)
    return limits_of(scope).get(role) if role else None
