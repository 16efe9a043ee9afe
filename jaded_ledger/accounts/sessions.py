"""How long somebody stays signed in, and what a browser may keep of what they saw."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import logout
from django.contrib.auth.signals import user_logged_in
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.urls import reverse
from django.utils.cache import patch_cache_control
from django.utils.http import urlencode

_Respond = Callable[[HttpRequest], HttpResponseBase]
_BEGAN, _SEEN = "signed_in_at", "seen_at"
_NOTED_EVERY = 60
"""So many seconds pass before it is noted anew that somebody is there."""


@receiver(user_logged_in)
def note_beginning(request: HttpRequest, **_: Any) -> None:
    """Note in a session when it began."""
    request.session[_BEGAN] = request.session[_SEEN] = int(time.time())


class LimitSessions:
    """Signs somebody out who has been signed in for long (SESSION_SECONDS), or has asked for nothing for a while (IDLE_SECONDS)."""

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if request.user.is_authenticated:
            now = int(time.time())
            began, seen = request.session.get(_BEGAN, 0), request.session.get(_SEEN, 0)
            if now - began >= settings.SESSION_SECONDS or now - seen >= settings.IDLE_SECONDS:
                logout(request)
                messages.info(request, "You were signed out after a while. Sign in, and you are back where you were.")
            elif now - seen >= _NOTED_EVERY:
                request.session[_SEEN] = now
        return self._get_response(request)


class LeadWholePage:
    """Leads the whole page to where somebody signs in, who had asked for a part of it only: a sign-in has no place in a part."""

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self._get_response(request)
        if response.status_code != 302 or not request.headers.get("HX-Request"):
            return response
        page = urlsplit(response["Location"])
        if page.path not in (reverse("accounts:sign-in"), reverse("accounts:code"), reverse("accounts:two-factor")):
            return response
        here = urlsplit(request.headers.get("HX-Current-URL", ""))
        back = urlencode({"next": here.path + (f"?{here.query}" if here.query else "")}) if here.path else page.query
        return HttpResponse(status=204, headers={"HX-Redirect": f"{page.path}?{back}"})


class KeepNothing:
    """Has browsers and proxies store nothing of what somebody sees who is signed in, except where a page says otherwise."""

    def __init__(self, get_response: _Respond) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self._get_response(request)
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            patch_cache_control(response, private=True, no_store=True)
        return response
