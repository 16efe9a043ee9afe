"""The telephone rings: pieces are found, and what came of them is noted."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.contacts.do_not_contact import refused_by
from jaded_ledger.find.named_things import current_text
from jaded_ledger.mailings.acts import REPLIES
from jaded_ledger.mailings.mail_settings import (
    sender_of,
)
from jaded_ledger.mailings.mailing_files import laid_out
from jaded_ledger.mailings.models import PieceOutcome
from jaded_ledger.mailings.replies import MOST_FOUND, note_outcome, pieces_about, pieces_of, undo_outcome
from jaded_ledger.mailings.sheet_drawing import draw_letter


@require_GET
def ring(request: HttpRequest) -> HttpResponse:
    """The pieces that somebody on the telephone may mean, each as it was sent, with the keys that note what came of it."""
    scope = scope_of(request)
    typed = request.GET.get("typed", "")
    pieces = list(pieces_about(scope, typed).prefetch_related("outcomes")[: MOST_FOUND + 1]) if typed.strip() else []
    sender = sender_of(scope)
    pages = {one.pk: [draw_letter(page) for page in laid_out(one, one.mailing, sender)] for one in pieces[:MOST_FOUND] if one.letter}
    why = {one.mailing_id: current_text(one.mailing.selection.search, scope.team) for one in pieces}
    context = {
        "place": "outreach", "view": "ring", "typed": typed, "why": why, "pages": pages, "pieces": pieces[:MOST_FOUND],
        "are_more": len(pieces) > MOST_FOUND,
        "kinds": PieceOutcome.Kind.choices, "may_note": may(scope, REPLIES), "refused": refused_by(scope),
    }  # fmt: skip
    return render(request, "mailings/_found_pieces.html" if request.htmx else "mailings/ring.html", context)  # type: ignore[attr-defined]


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
        messages.success(request, said, extra_tags=reverse("mailings:undo-reply", args=[noted.pk]))
        return redirect(f"{reverse('mailings:ring')}?typed={code}")
    messages.error(request, "Choose what came of it.")
    return redirect("mailings:ring")


@require_POST
def undo_reply(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a note back."""
    scope = scope_of(request)
    outcome = get_object_or_404(PieceOutcome.objects.select_related("piece__mailing"), pk=pk, piece__mailing__team=scope.team)
    undo_outcome(scope, outcome)
    return redirect(f"{reverse('mailings:ring')}?typed={outcome.piece.mailing.code}-{outcome.piece.number}")
