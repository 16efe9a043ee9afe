"""Mailings: all of them, one as a ledger, and what is done with it."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.mail.envelopes import ENVELOPES
from jaded_ledger.core.mail.label_pdf import write_alignment
from jaded_ledger.core.mail.letter_layout import PAPERS, LaidPage, lay_out
from jaded_ledger.core.mail.letters import Recipient
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.core.mail.postage import LABELS, POSTAGE
from jaded_ledger.core.mail.sheets import MM, SHEETS
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import current_text, search_from
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.made_files.kinds import MakingError
from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.responses import answer
from jaded_ledger.made_files.services import ask, files_of
from jaded_ledger.mailings.acts import SERIES
from jaded_ledger.mailings.file_kinds import LETTERS, MAILING, MERGE_DATA
from jaded_ledger.mailings.gone_wrong import gone_wrong
from jaded_ledger.mailings.letter_fields import CODE
from jaded_ledger.mailings.letters import letters_of
from jaded_ledger.mailings.mail_houses import mail_houses
from jaded_ledger.mailings.mail_orders import offers, report_counts
from jaded_ledger.mailings.mail_settings import printers_of, sender_of
from jaded_ledger.mailings.mailing_files import file_name, is_archive
from jaded_ledger.mailings.mailing_terms import STOCK, WRITTEN, MailingError, change
from jaded_ledger.mailings.mailings import (
    Form,
    Plan,
    begin,
    code_of_piece,
    copy_of,
    lacks_phone,
    mailings_of,
    note_of,
    planned,
)
from jaded_ledger.mailings.models import Mailing, MailOrder, Printer
from jaded_ledger.mailings.response import brought_by, row_of
from jaded_ledger.mailings.series import standings
from jaded_ledger.mailings.sheet_drawing import Drawing, draw_envelope, draw_letter, draw_sheet
from jaded_ledger.web.sentences import sentence_of

_LEFT_OUT = 200
FIELDS = (
    "name", "to", "form", "stock", "start", "batch", "note", "printer", "postage", "bought_within", "mailed_within", "letter", "against",
    *(f"letter-{recipient}" for recipient in Recipient),
)  # fmt: skip


def _mailing(request: HttpRequest, pk: int) -> tuple[Mailing, Scope]:
    scope = scope_of(request)
    return get_object_or_404(mailings_of(scope), pk=pk), scope


@require_GET
def mailings(request: HttpRequest) -> HttpResponse:
    """The team's mailings."""
    scope = scope_of(request)
    page = Paginator(mailings_of(scope), 50).get_page(request.GET.get("page"))
    context = {"place": "outreach", "view": "mailings", "page": page, "standings": standings(scope), "may_repeat": may(scope, SERIES)}
    return render(request, "mailings/mailings.html", context)


@require_GET
def begin_mailing(request: HttpRequest, key: str) -> HttpResponse:
    """Begin a mailing to what was chosen; coming back leads to the one that was begun."""
    scope = scope_of(request)
    require(scope, CONTACTS)
    selection = get_object_or_404(Selection, key=key, team=scope.team)
    begun = mailings_of(scope).filter(selection=selection, user=scope.user, made_at=None).first()
    return redirect("mailings:mailing", pk=(begun or begin(scope, selection)).pk)


def _drawing(plan: Plan, sender: tuple[str, ...], page: int) -> Drawing | None:
    mailing = plan.mailing
    if not plan.made.pieces:
        return None
    if plan.letters:
        return None
    if mailing.form == Form.LABELS:
        return draw_sheet(plan.labels, SHEETS[mailing.stock], mailing.start, page)
    return draw_envelope(plan.made.pieces[page - 1].lines, ENVELOPES[mailing.stock], sender if mailing.return_address else ())


def _letter_of_plan(plan: Plan, scope: Scope, number: int) -> dict[str, Any]:
    """Return the letter of a piece as it would be printed, and which letter goes to whom."""
    if not plan.letters:
        return {}
    mailing = plan.mailing
    pages: tuple[LaidPage, ...] = ()
    if plan.made.pieces:
        piece = plan.made.pieces[number - 1]
        written = plan.written[piece.parcel_id]
        values, note = {**written.values, CODE: code_of_piece(mailing, number)}, note_of(mailing, number) if mailing.note else ""
        pages = lay_out(written.letter, values, piece.lines, PAPERS[mailing.stock], sender_of(scope), note)
    return {
        "pages": [draw_letter(page) for page in pages],
        "whom": [row for recipient in Recipient if (row := _row_of_whom(plan, recipient))],
    }


def _row_of_whom(plan: Plan, recipient: Recipient) -> dict[str, Any] | None:
    """Return how many of a kind of owner get which letter; None of one that nobody is of, and for which none is chosen."""
    mailing = plan.mailing
    counts = {key: count for (who, key), count in plan.written_to.items() if who == recipient}
    if not counts and recipient.value not in mailing.letter_of:
        return None
    halves = [counts.get(key, 0) for key in (mailing.letter_id, mailing.against_id) if key is not None]
    return {
        "recipient": recipient, "count": sum(counts.values()), "chosen": mailing.letter_of.get(recipient.value),
        "halves": halves if mailing.against_id else None,
    }  # fmt: skip


def _context(request: HttpRequest, mailing: Mailing, scope: Scope, error: str = "") -> dict[str, Any]:
    """Return what the page of a mailing is rendered with: as it would be made, or as it was."""
    given = request.GET
    context: dict[str, Any] = {
        "place": "outreach", "mailing": mailing, "may_take_out": may(scope, CONTACTS), "error": error,
        "addressings": list(Addressing), "forms": Form, "stocks": STOCK[Form(mailing.form)].values(), "start_most": 1,
        "postages": [(key, LABELS[key].removeprefix("postage, ")) for key in POSTAGE],
        "printers": printers_of(scope), "view": given.get("view", "pieces"),
        "search": current_text(mailing.selection.search, scope.team), "back": _back(mailing, scope),
    }  # fmt: skip
    if mailing.form in WRITTEN:
        context["letters"] = letters_of(scope, mailing.form)
    if mailing.form == Form.LABELS:
        context["start_most"] = SHEETS[mailing.stock].count
    if mailing.made_at is not None:
        made = files_of(scope).filter(pk=whole_number(given.get("file", "")) or 0, kind=MAILING, arguments__mailing=mailing.pk)
        return context | _as_made(mailing, scope) | {"file": made.first()}
    try:
        plan = planned(mailing, scope)
    except CriteriaError as wrong:
        return context | {"broken": str(wrong)}
    page = max(1, min(whole_number(given.get("sheet", "")) or 1, max(plan.sheets, 1)))
    reason = given.get("reason", "")
    refusals = [one for one in plan.made.refusals if not reason or one.reason == reason]
    return context | {
        "plan": plan, "drawing": _drawing(plan, sender_of(scope), page), "sheet": page, "refused": refusals[:_LEFT_OUT],
        "refused_count": len(refusals), "reason": next((one for one in Reason if one == reason), None),
        "brought": [row_of(one) for one in brought_by(mailing, scope)], "lacks_phone": lacks_phone(plan, scope),
        **_letter_of_plan(plan, scope, page),
    }  # fmt: skip


def _as_made(mailing: Mailing, scope: Scope) -> dict[str, Any]:
    """Return the ledger and the pieces of a mailing as it was made, and what of them has become wrong since."""
    left, lines = mailing.account["parcels"], []
    for reason in Reason:
        if off := mailing.account["refused"].get(reason, 0):
            left -= off
            lines.append({"words": reason.words, "off": off, "left": left})
    order = MailOrder.objects.filter(mailing=mailing).first()
    return {
        "order": order, "reports": report_counts(order) if order else (), "offers": () if order else offers(mailing),
        "house": mail_houses()[order.house].name if order and order.house in mail_houses() else order and order.house,
        "lines": lines, "pieces": mailing.pieces.select_related("parcel", "letter")[:_LEFT_OUT],
        "wrong": list(gone_wrong(mailing, scope)), "may_repeat": may(scope, SERIES), "has_letters": mailing.form in WRITTEN,
    }  # fmt: skip


def _back(mailing: Mailing, scope: Scope) -> str:
    """Return the address of the search that it was begun from."""
    selection = mailing.selection
    try:
        page = SearchPage(search_from(selection.search, scope.team), tuple(selection.columns) or None, selection.sort)
    except CriteriaError:
        return "/"
    return page.address(scope.team)


@require_GET
def mailing(request: HttpRequest, pk: int) -> HttpResponse:
    """A mailing: its ledger, its pieces as they print, who is left out; once made, what was sent."""
    found, scope = _mailing(request, pk)
    return render(request, "mailings/mailing.html", _context(request, found, scope))


@require_POST
def change_mailing(request: HttpRequest, pk: int) -> HttpResponse:
    """Change the terms of a mailing; what is wrong is said, and nothing is changed."""
    found, scope = _mailing(request, pk)
    said = {name: request.POST[name] for name in FIELDS if name in request.POST}
    # A box that is not ticked is not sent.
    said["return_address"] = request.POST.get("return_address", "")
    error, form = "", found.form
    try:
        change(scope, found, said, request.POST.getlist("relaxed"))
    except MailingError as wrong:
        error = sentence_of(wrong)
        found.refresh_from_db()
    if not request.htmx and not error:  # type: ignore[attr-defined]
        return redirect("mailings:mailing", pk=pk)
    template = "mailings/_mailing.html" if request.htmx else "mailings/mailing.html"  # type: ignore[attr-defined]
    status = 400 if error and not request.htmx else 200  # type: ignore[attr-defined]
    context = _context(request, found, scope, error) | {"form_changed": found.form != form}
    return render(request, template, context, status=status)


@require_POST
def make_mailing(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Make a mailing, or have its file again: at once where it is small, else by the worker."""
    found, scope = _mailing(request, pk)
    require(scope, CONTACTS)
    is_new = found.made_at is None
    if is_new:
        try:
            pieces = len(planned(found, scope).made.pieces)
        except CriteriaError:
            return redirect("mailings:mailing", pk=pk)
        if not pieces:
            messages.error(request, "Nothing was made: every parcel was left out.")
            return redirect("mailings:mailing", pk=pk)
        found.pieces_made, found.made_on = pieces, scope.today
    content_type = "application/zip" if is_archive(found) else "application/pdf"
    about = f"{found.name}: {found.pieces_made:,} {found.form}"
    try:
        file = ask(
            scope, MAILING, {"mailing": found.pk}, name=file_name(found), content_type=content_type, rows=found.pieces_made, about=about
        )
    except MakingError as error:
        # Somebody else may have mailed to the same owners since this was counted.
        messages.error(request, sentence_of(error))
        return redirect("mailings:mailing", pk=pk)
    if is_new and file.state == MadeFile.State.READY:
        # The page of the mailing as it is now; it hands the file over.
        return redirect(f"{reverse('mailings:mailing', args=[pk])}?file={file.pk}")
    return answer(scope, file)


@require_POST
def act_on_mailing(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin another on the same terms, throw one away, or put it back."""
    scope = scope_of(request)
    found = get_object_or_404(Mailing, pk=pk, team=scope.team)
    match request.POST.get("do"):
        case "copy":
            return redirect("mailings:mailing", pk=copy_of(found, scope).pk)
        case "delete":
            if not delete_and_say(request, scope, found):
                return redirect("mailings:mailing", pk=pk)
    return redirect("mailings:mailings")


@require_POST
def merge(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The pieces of a made mailing as CSV."""
    found, scope = _mailing(request, pk)
    return _taken(request, found, scope, MERGE_DATA, f"pieces-{found.code}.csv", "text/csv; charset=utf-8")


@require_POST
def documents(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The letters of a made mailing as documents with merge fields, and the merge data that fill them."""
    found, scope = _mailing(request, pk)
    if found.form not in WRITTEN:
        messages.error(request, "This mailing has no letters to merge.")
        return redirect("mailings:mailing", pk=pk)
    return _taken(request, found, scope, LETTERS, f"letters-{found.code}.zip", "application/zip")


def _taken(request: HttpRequest, mailing: Mailing, scope: Scope, kind: str, name: str, content_type: str) -> HttpResponseBase:
    """Answer with a file of the pieces that were made, or say why there is none."""
    if mailing.made_at is None:
        messages.error(request, "Make the mailing first: its data are of the pieces that were made.")
        return redirect("mailings:mailing", pk=mailing.pk)
    about = f"{mailing.name}: merge data of {mailing.pieces_made:,} {mailing.form}"
    try:
        file = ask(scope, kind, {"mailing": mailing.pk}, name=name, content_type=content_type, rows=mailing.pieces_made, about=about)
    except MakingError as error:
        messages.error(request, sentence_of(error))
        return redirect("mailings:mailing", pk=mailing.pk)
    return answer(scope, file)


@require_GET
def alignment(request: HttpRequest, key: str) -> HttpResponse:
    """A sheet to hold over the labels, as a printer prints it."""
    scope = scope_of(request)
    if key not in SHEETS:
        return redirect("mailings:settings")
    printer = Printer.objects.filter(team=scope.team, pk=whole_number(request.GET.get("printer", "")) or 0).first()
    offset = (printer.right * MM, printer.down * MM) if printer else (0.0, 0.0)
    response = HttpResponse(write_alignment(SHEETS[key], offset), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="alignment-{key}.pdf"'
    return response
