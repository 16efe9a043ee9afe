"""From where somebody tries to sign in."""

from __future__ import annotations

from django.http import HttpRequest


def client_address(request: HttpRequest) -> str:
    """Return the address of the connection itself. Headers that a stranger can write are not believed."""
    return str(request.META.get("REMOTE_ADDR", ""))
