"""A second factor beside the password: a code that an authenticator shows (RFC 6238), or one of ten recovery codes."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Callable
from typing import Any

import django_otp
import segno
from django.conf import settings
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.utils.http import urlencode
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import user_of

ISSUER = "Jaded Ledger"
SIGNED_ON_ELSEWHERE = "signed_on_elsewhere"
"""A session's mark that somebody came in by single sign-on: how many factors that takes is said there."""
_CODES = 10


def is_required(user: User) -> bool:
    """Return whether a user's role, or being staff, calls for a second factor (``TWO_FACTOR``)."""
    return user.role in settings.TWO_FACTOR or (user.is_staff and "staff" in settings.TWO_FACTOR)


def is_set_up(user: User) -> bool:
    return bool(TOTPDevice.objects.devices_for_user(user, confirmed=True).exists())


def begin(user: User) -> TOTPDevice:
    """Return the authenticator that a user is setting up; it counts once a code of its was given."""
    device, _ = TOTPDevice.objects.get_or_create(user=user, confirmed=False, defaults={"name": "authenticator"})
    return device


def secret_of(device: TOTPDevice) -> str:
    """Return an authenticator's secret as it is typed by hand, in fours."""
    text = base64.b32encode(device.bin_key).decode().rstrip("=")
    return " ".join(text[at : at + 4] for at in range(0, len(text), 4))


def picture_of(device: TOTPDevice) -> str:
    """Return an authenticator's secret as a QR code (ISO/IEC 18004), an SVG."""
    return str(segno.make(device.config_url, error="m").svg_inline(scale=4, border=2))


@transaction.atomic
def finish(user: User, code: str) -> list[str]:
    """Have the authenticator that is being set up count, if a code is of it; return fresh recovery codes, none where it is not."""
    device = TOTPDevice.objects.select_for_update().filter(user=user, confirmed=False).first()
    if device is None or not device.verify_token(_plain(code)):
        return []
    TOTPDevice.objects.devices_for_user(user, confirmed=True).delete()
    device.confirmed = True
    device.save()
    return fresh_codes(user)


@transaction.atomic
def fresh_codes(user: User) -> list[str]:
    """Return new recovery codes, each good once; earlier ones are none any more."""
    StaticDevice.objects.filter(user=user).delete()
    device = StaticDevice.objects.create(user=user, name="recovery codes")
    codes = [secrets.token_hex(5) for _ in range(_CODES)]
    for code in codes:
        device.token_set.create(token=code)
    return [f"{code[:5]} {code[5:]}" for code in codes]


def codes_left(user: User) -> int:
    return sum(device.token_set.count() for device in StaticDevice.objects.filter(user=user))


@transaction.atomic
def take_away(user: User) -> None:
    """Forget a user's authenticator and recovery codes."""
    TOTPDevice.objects.filter(user=user).delete()
    StaticDevice.objects.filter(user=user).delete()


def _plain(code: str) -> str:
    return "".join(code.split()).casefold()


def wait_for(user: User) -> int:
    """Return how many seconds no code is taken after wrong ones: it doubles with each."""
    waits = [found[1]["locked_until"] for device in django_otp.devices_for_user(user) if not (found := device.verify_is_allowed())[0]]
    return max((int((until - timezone.now()).total_seconds()) + 1 for until in waits), default=0)


def verify(request: HttpRequest, code: str) -> bool:
    """Take a code of the signed-in user's authenticator, or a recovery code, for the session; return whether it was one."""
    plain = _plain(code)
    # An authenticator's are digits; a wrong one of one kind must not count against the other.
    model = TOTPDevice if plain.isdecimal() and len(plain) == 6 else StaticDevice
    for device in model.objects.devices_for_user(request.user, confirmed=True):
        if found := django_otp.verify_token(request.user, device.persistent_id, plain):
            django_otp.login(request, found)
            return True
    return False


def mark_verified(request: HttpRequest) -> None:
    """Have the session be one in which the second factor was shown: it was just set up in it."""
    django_otp.login(request, TOTPDevice.objects.devices_for_user(request.user, confirmed=True).first())


def passes(request: HttpRequest) -> bool:
    """Return whether a signed-in request has shown the second factor that it needs."""
    user = user_of(request)
    # django_otp adds the question to whoever is signed in.
    if user.is_verified() or SIGNED_ON_ELSEWHERE in request.session:  # type: ignore[attr-defined]
        return True
    return not is_set_up(user) and not is_required(user)


def open_without(view: Any) -> Any:
    """Mark a view that is open to somebody whose second factor is still to be shown."""
    view.is_open_without_second_factor = True
    return view


class RequireSecondFactor:
    """Leads whoever has signed in with a password alone, and needs more, to where the code is asked for, or set up."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self._get_response(request)

    def process_view(self, request: HttpRequest, view: object, args: object, kwargs: object) -> HttpResponse | None:
        is_open = getattr(view, "is_open_without_second_factor", False) or not getattr(view, "login_required", True)
        if not request.user.is_authenticated or is_open or passes(request):
            return None
        page = reverse("accounts:code") if is_set_up(request.user) else reverse("accounts:two-factor")
        back = request.get_full_path() if request.method == "GET" else ""
        return redirect(f"{page}?{urlencode({'next': back})}" if back else page)
