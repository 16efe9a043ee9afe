"""Back to the page on which something was done."""

from __future__ import annotations

from django.http import HttpRequest
from django.utils.http import url_has_allowed_host_and_scheme


def address_to_return_to(request: HttpRequest, otherwise: str) -> str:
    """Return the page that a form names as ``back``, where it is one of ours; else the one given."""
    back = request.POST.get("back", "")
    return back if url_has_allowed_host_and_scheme(back, allowed_hosts=None) else otherwise
