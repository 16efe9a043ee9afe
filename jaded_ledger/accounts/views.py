"""The signed-in user's own page."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from jaded_ledger.accounts.models import ContactExport
from jaded_ledger.accounts.scope import scope_of


@require_http_methods(["GET", "POST"])
def you(request: HttpRequest) -> HttpResponse:
    """Show who is signed in, the shortcut setting, and what the team took out lately."""
    if request.method == "POST":
        request.user.single_key_shortcuts = "single_key_shortcuts" in request.POST
        request.user.save(update_fields=["single_key_shortcuts"])
        messages.success(request, "Saved.")
        return redirect("accounts:you")
    exports = ContactExport.objects.filter(team=scope_of(request).team).select_related("user")[:20]
    return render(request, "accounts/you.html", {"exports": exports})
