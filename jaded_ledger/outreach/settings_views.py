"""Prices, the return address, limits and printers."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.roles import may, role_label
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.mail.label_pdf import LabelFit, write_labels
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.postage import LABELS, Prices
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.maps.messages import sentence_of
from jaded_ledger.outreach.acts import EXPORT_LIMITS, PRICES
from jaded_ledger.outreach.export_limits import LIMITED, limits_of, set_limits
from jaded_ledger.outreach.mail_settings import (
    SettingError,
    change_settings,
    prices_of,
    printers_of,
    put_back_printer,
    remove_printer,
    sender_of,
    set_printer,
)
from jaded_ledger.outreach.mailing_files import NOWHERE
from jaded_ledger.outreach.models import Printer


def _removed(request: HttpRequest, scope: Scope) -> HttpResponse:
    """Remove a printer, and say how that is undone."""
    printer = get_object_or_404(printers_of(scope), name=request.POST.get("name", ""))
    remove_printer(scope, printer)
    messages.success(request, f"“{printer}” is removed.", extra_tags=reverse("outreach:put-back-printer", args=[printer.pk]))
    return redirect("outreach:settings")


@require_POST
def put_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo that a printer was removed."""
    scope = scope_of(request)
    put_back_printer(scope, get_object_or_404(Printer, pk=pk, team=scope.team))
    return redirect("outreach:settings")


@require_GET
def return_labels(request: HttpRequest, key: str) -> HttpResponse:
    """A sheet of labels with the team's return address."""
    scope = scope_of(request)
    sender = sender_of(scope)
    if key not in SHEETS or not sender:
        messages.error(request, "Set a return address first: it is what the labels say.")
        return redirect("outreach:settings")
    room = LabelFit(SHEETS[key])
    if wrong := room(sender):
        messages.error(request, f"The return address is {wrong[0].words}: {wrong[1]}.")
        return redirect("outreach:settings")
    pieces = [Piece(0, sender, NOWHERE)] * SHEETS[key].count
    response = HttpResponse(write_labels(room.labels(pieces), SHEETS[key]), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="return-labels-{key}.pdf"'
    return response


@require_http_methods(["GET", "POST"])
def settings(request: HttpRequest) -> HttpResponse:
    """Prices, the return address and printers."""
    scope, error = scope_of(request), ""
    if request.method == "POST":
        try:
            match request.POST.get("do"):
                case "printer":
                    set_printer(scope, request.POST.get("name", ""), request.POST.get("right", ""), request.POST.get("down", ""))
                case "limits":
                    set_limits(scope, {role: request.POST.get(f"most-{role}", "") for role in LIMITED})
                case "remove-printer":
                    return _removed(request, scope)
                case _:
                    said = {name: request.POST[name] for name in LABELS if name in request.POST}
                    change_settings(scope, said, request.POST.get("sender", "").splitlines())
            messages.success(request, "Set.")
            return redirect("outreach:settings")
        except SettingError as wrong:
            error = sentence_of(wrong)
    prices: Prices = prices_of(scope)
    context = {
        "place": "outreach", "view": "settings", "error": error, "may_set": may(scope, PRICES),
        "limits": [(role, role_label(role), limits_of(scope).get(role, "")) for role in LIMITED],
        "may_limit": may(scope, EXPORT_LIMITS), "sheets": SHEETS.values(),
        "prices": [(name, label, request.POST.get(name, f"{getattr(prices, name):f}")) for name, label in LABELS.items()],
        "sender": request.POST.get("sender", "\n".join(sender_of(scope))), "printers": printers_of(scope),
        "typed": request.POST,
    }  # fmt: skip
    return render(request, "outreach/settings.html", context, status=400 if error else 200)
