"""The signed-in user's own page."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods


@require_http_methods(["GET", "POST"])
def you(request: HttpRequest) -> HttpResponse:
    """Show who is signed in, and the shortcut setting."""
    if request.method == "POST":
        request.user.single_key_shortcuts = "single_key_shortcuts" in request.POST
        request.user.save(update_fields=["single_key_shortcuts"])
        messages.success(request, "Saved.")
        return redirect("accounts:you")
    return render(request, "accounts/you.html", {"place": "you"})
