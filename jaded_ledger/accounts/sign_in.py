"""From where somebody tries to sign in, and when no more tries are taken."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from ipaddress import ip_address
from typing import Any

from axes.handlers.database import AxesDatabaseHandler
from axes.models import AccessFailureLog, AccessLog
from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone


def client_address(request: HttpRequest) -> str:
    """Return the address that a request comes from.

    That is the connection's. Where the connection is a proxy's that is trusted (``TRUSTED_PROXIES``), it is what that proxy wrote last
    into X-Forwarded-For, and so on through further trusted ones; what a stranger wrote before them is not believed.
    """
    address = str(request.META.get("REMOTE_ADDR", ""))
    for before in reversed(request.headers.get("X-Forwarded-For", "").split(",")):
        if not _is_trusted(address) or not _is_address(before.strip()):
            break
        address = before.strip()
    return address


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True


def _is_trusted(text: str) -> bool:
    return _is_address(text) and any(ip_address(text) in network for network in settings.TRUSTED_PROXIES)


@dataclass(frozen=True)
class Slower:
    """So many wrong passwords in so long a time, beside those of one name from one address."""

    tries: int
    within: timedelta


BY_NAME = Slower(50, timedelta(days=1))
"""Of one name from all addresses but those from which its owner has signed in."""
BY_ADDRESS = Slower(100, timedelta(hours=1))
"""From one address, whatever the names."""
KNOWN_FOR = timedelta(days=90)


class SignInLimits(AxesDatabaseHandler):
    """Shuts out a name from one address after a few wrong passwords, and more slowly a name from everywhere and an address for all names.

    Tries that are not taken are not counted, so that nobody can keep a name shut by going on. An address from which a name has signed in
    is not shut out by what others try elsewhere.
    """

    def is_locked(self, request: HttpRequest, credentials: Mapping[str, Any] | None = None) -> bool:
        return super().is_locked(request, credentials) or self._is_slowly_locked(request, str((credentials or {}).get("username") or ""))

    def _is_slowly_locked(self, request: HttpRequest, name: str) -> bool:
        address, now = client_address(request), timezone.now()
        from_here = AccessFailureLog.objects.filter(ip_address=address or None, attempt_time__gt=now - BY_ADDRESS.within)
        if from_here.count() >= BY_ADDRESS.tries:
            return True
        known = AccessLog.objects.filter(username=name, attempt_time__gt=now - KNOWN_FOR)
        if not name or known.filter(ip_address=address or None).exists():
            return False
        of_name = AccessFailureLog.objects.filter(username=name, attempt_time__gt=now - BY_NAME.within)
        return of_name.exclude(ip_address__in=known.values("ip_address")).count() >= BY_NAME.tries

    def user_login_failed(self, sender: Any, credentials: dict[str, Any], request: HttpRequest | None = None, **kwargs: Any) -> None:
        """Count a wrong password. What a provider says of somebody is nothing that one could guess, and has no name."""
        if credentials.get("username"):
            super().user_login_failed(sender, credentials, request, **kwargs)

    def reset_attempts(self, *, ip_address: str | None = None, username: str | None = None, ip_or_username: bool = False) -> int:
        """Forget wrong passwords, by the command ``axes_reset``: also those that the slower limits count."""
        failures = AccessFailureLog.objects.all()
        if ip_address:
            failures = failures.filter(ip_address=ip_address)
        if username:
            failures = failures.filter(username=username)
        failures.delete()
        return int(super().reset_attempts(ip_address=ip_address, username=username, ip_or_username=ip_or_username))
