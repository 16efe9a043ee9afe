"""Prices, the return address, limits and printers."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may, role_label
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.contacts.acts import EXPORT_LIMITS
from jaded_ledger.contacts.export_limits import LIMITED, SettingError, limits_of, set_limits
from jaded_ledger.core.mail.label_pdf import LabelFit, write_labels
from jaded_ledger.core.mail.pieces import Piece
from jaded_ledger.core.mail.postage import LABELS
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.mailings.acts import PRICES
from jaded_ledger.mailings.mail_settings import (
    change_settings,
    prices_of,
    printers_of,
    sender_of,
    set_printer,
    signature_of,
)
from jaded_ledger.mailings.mailing_files import NOWHERE
from jaded_ledger.web.sentences import sentence_of


def _removed(request: HttpRequest, scope: Scope) -> HttpResponse:
    """Delete a printer; mailings that were to go through it keep its offset."""
    printer = get_object_or_404(printers_of(scope), name=request.POST.get("name", ""))
    delete_and_say(request, scope, printer)
    return redirect("mailings:settings")


@require_GET
def return_labels(request: HttpRequest, key: str) -> HttpResponse:
    """A sheet of labels with the team's return address."""
    scope = scope_of(request)
    sender = sender_of(scope)
    if key not in SHEETS or not sender:
        messages.error(request, "Set a return address first: it is what the labels say.")
        return redirect("mailings:settings")
    room = LabelFit(SHEETS[key])
    if wrong := room(sender):
        messages.error(request, f"The return address is {wrong[0].words}: {wrong[1]}.")
        return redirect("mailings:settings")
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
                    sent = request.POST
                    change_settings(scope, said, sent.get("sender", "").splitlines(), sent.get("phone", ""), sent.get("license", ""))
            messages.success(request, "Set.")
            return redirect("mailings:settings")
        except SettingError as wrong:
            error = sentence_of(wrong)
    prices, signature = prices_of(scope), signature_of(scope)
    context = {
        "place": "outreach", "view": "settings", "error": error, "may_set": may(scope, PRICES),
        "limits": [(role, role_label(role), limits_of(scope).get(role, "")) for role in LIMITED],
        "may_limit": may(scope, EXPORT_LIMITS), "sheets": SHEETS.values(),
        "prices": [(name, label, request.POST.get(name, f"{getattr(prices, name):f}")) for name, label in LABELS.items()],
        "sender": request.POST.get("sender", "\n".join(sender_of(scope))),
        "phone": request.POST.get("phone", signature.phone), "license": request.POST.get("license", signature.license),
        "printers": printers_of(scope),
        "typed": request.POST,
    }  # fmt: skip
    return render(request, "mailings/settings.html", context, status=400 if error else 200)
