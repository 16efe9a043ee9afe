"""Addresses that end mails without signing in (RFC 8058)."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods

End = Callable[[], None]
"""What ends the mails."""


def ends_mails(template: str) -> Callable[[Callable[[str], End | None]], Callable[..., HttpResponse]]:
    """Make a view of a function that finds, for the key in an address, what ends the mails; None where the key is made up.

    A mail program posts to the address with neither a session nor a token: the key is all that is asked (3.1 there). To look at it ends
    nothing: the page asks.
    """

    def made(find: Callable[[str], End | None]) -> Callable[..., HttpResponse]:
        @csrf_exempt
        @login_not_required
        @require_http_methods(["GET", "POST"])
        def view(request: HttpRequest, key: str) -> HttpResponse:
            end = find(key)
            if end is None:
                raise Http404("no such address")
            if request.method == "POST":
                end()
            return render(request, template, {"is_done": request.method == "POST"})

        return view

    return made
