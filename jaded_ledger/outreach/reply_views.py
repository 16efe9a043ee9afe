"""The telephone rings; who must get nothing; prices and printers."""

from __future__ import annotations

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.mail.postage import LABELS, Prices
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.find.named_things import current_text
from jaded_ledger.maps.messages import sentence_of
from jaded_ledger.outreach import do_not_contact as notes
from jaded_ledger.outreach.acts import DO_NOT_CONTACT, PRICES, REPLIES
from jaded_ledger.outreach.do_not_contact import note_lines, refused_by
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
from jaded_ledger.outreach.mailing_files import laid_out
from jaded_ledger.outreach.models import DoNotContact, PieceOutcome, Printer
from jaded_ledger.outreach.replies import MOST_FOUND, note_outcome, pieces_about, pieces_of, undo_outcome

_MOST_BYTES = 2_000_000
_SHOWN_WRONG = 10


@require_GET
def ring(request: HttpRequest) -> HttpResponse:
    """The pieces that somebody on the telephone may mean, each as it was sent, with the keys that note what came of it."""
    scope = scope_of(request)
    typed = request.GET.get("typed", "")
    pieces = list(pieces_about(scope, typed).prefetch_related("outcomes")[: MOST_FOUND + 1]) if typed.strip() else []
    sender = sender_of(scope)
    pages = {one.pk: laid_out(one, one.mailing, sender) for one in pieces[:MOST_FOUND] if one.letter}
    why = {one.mailing_id: current_text(one.mailing.selection.search, scope.team) for one in pieces}
    context = {
        "place": "outreach", "view": "ring", "typed": typed, "why": why, "pages": pages, "pieces": pieces[:MOST_FOUND],
        "are_more": len(pieces) > MOST_FOUND,
        "kinds": PieceOutcome.Kind.choices, "may_note": may(scope, REPLIES), "refused": refused_by(scope),
    }  # fmt: skip
    return render(request, "outreach/_found_pieces.html" if request.htmx else "outreach/ring.html", context)  # type: ignore[attr-defined]


@require_POST
def note_reply(request: HttpRequest, pk: int) -> HttpResponse:
    """Note what came of a piece."""
    scope = scope_of(request)
    piece = get_object_or_404(pieces_of(scope), pk=pk)
    kind = request.POST.get("kind", "")
    if kind in PieceOutcome.Kind:
        noted = note_outcome(scope, piece, PieceOutcome.Kind(kind), request.POST.get("note", ""))
        code = f"{piece.mailing.code}-{piece.number}"
        said = f"Noted of {code}: {noted.get_kind_display()}."
        messages.success(request, said, extra_tags=reverse("outreach:undo-reply", args=[noted.pk]))
        return redirect(f"{reverse('outreach:ring')}?typed={code}")
    messages.error(request, "Choose what came of it.")
    return redirect("outreach:ring")


@require_POST
def undo_reply(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a note back."""
    scope = scope_of(request)
    outcome = get_object_or_404(PieceOutcome.objects.select_related("piece__mailing"), pk=pk, piece__mailing__team=scope.team)
    undo_outcome(scope, outcome)
    return redirect(f"{reverse('outreach:ring')}?typed={outcome.piece.mailing.code}-{outcome.piece.number}")


@require_http_methods(["GET", "POST"])
def do_not_contact(request: HttpRequest) -> HttpResponse:
    """Who must get nothing, and a form to note more of them: typed, pasted, or from a file."""
    scope = scope_of(request)
    wrong: list[str] = []
    if request.method == "POST":
        require(scope, DO_NOT_CONTACT)
        file, text = request.FILES.get("file"), request.POST.get("lines", "")
        if file is not None and file.size > _MOST_BYTES:
            wrong = [f"the file has {file.size / 1e6:,.1f} MB; split it into files of {_MOST_BYTES / 1e6:,.0f} MB"]
        else:
            source = DoNotContact.Source.FILE if file is not None else DoNotContact.Source.BY_HAND
            content = file.read().decode("utf-8-sig", errors="replace") if file is not None else text
            noted, wrong = note_lines(scope, content.splitlines(), source, text=request.POST.get("note", ""))
            if noted:
                messages.success(request, f"{noted:,} noted.")
            if not wrong:
                return redirect("outreach:do-not-contact")
    rows = DoNotContact.objects.filter(team=scope.team, ended_at=None).select_related("noted_by")
    context = {
        "place": "outreach", "view": "do-not-contact", "page": Paginator(rows, 50).get_page(request.GET.get("page")),
        "may_note": may(scope, DO_NOT_CONTACT), "wrong": wrong[:_SHOWN_WRONG], "wrong_count": len(wrong),
        "typed": request.POST.get("lines", ""),
    }  # fmt: skip
    return render(request, "outreach/do_not_contact.html", context, status=400 if wrong else 200)


@require_POST
def end_do_not_contact(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a note back, or put it back."""
    scope = scope_of(request)
    row = get_object_or_404(DoNotContact, pk=pk, team=scope.team)
    if row.ended_at is None:
        notes.end(scope, row)
        messages.success(request, f"{row.label} may be contacted again.", extra_tags=reverse("outreach:end-do-not-contact", args=[pk]))
    else:
        notes.put_back(scope, row)
    return redirect("outreach:do-not-contact")


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


@require_http_methods(["GET", "POST"])
def settings(request: HttpRequest) -> HttpResponse:
    """Prices, the return address and printers."""
    scope, error = scope_of(request), ""
    if request.method == "POST":
        try:
            match request.POST.get("do"):
                case "printer":
                    set_printer(scope, request.POST.get("name", ""), request.POST.get("right", ""), request.POST.get("down", ""))
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
        "place": "outreach", "view": "settings", "error": error, "may_set": may(scope, PRICES), "sheets": SHEETS.values(),
        "prices": [(name, label, request.POST.get(name, f"{getattr(prices, name):f}")) for name, label in LABELS.items()],
        "sender": request.POST.get("sender", "\n".join(sender_of(scope))), "printers": printers_of(scope),
        "typed": request.POST,
    }  # fmt: skip
    return render(request, "outreach/settings.html", context, status=400 if error else 200)
