"""Who must get nothing: noted by hand or from a file, and taken back."""

from __future__ import annotations

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST

from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.contacts import do_not_contact as notes
from jaded_ledger.contacts.acts import DO_NOT_CONTACT
from jaded_ledger.contacts.do_not_contact import DoNotContactError, Wrong, day_said, note_entries
from jaded_ledger.contacts.models import DoNotContact
from jaded_ledger.contacts.suppression_file import entries
from jaded_ledger.web.returning import address_to_return_to
from jaded_ledger.web.sentences import sentence_of

_MOST_BYTES = 2_000_000
_SHOWN_WRONG = 10
_SAID = (DoNotContact.Source.BY_HAND, DoNotContact.Source.CALL, DoNotContact.Source.UNSUBSCRIBED)
"""How somebody may have said so, where no file does."""


def _noted(request: HttpRequest, scope: Scope, typed: str) -> tuple[int, list[Wrong]]:
    """Note what was typed, or what a file holds. Raises DoNotContactError, and nothing is noted."""
    file, said = request.FILES.get("file"), request.POST.get("source", "")
    if file is not None and file.size is not None and file.size > _MOST_BYTES:
        raise DoNotContactError(f"the file has {file.size / 1e6:,.1f} MB; split it into files of {_MOST_BYTES / 1e6:,.0f} MB")
    source = DoNotContact.Source.FILE if file is not None else next((one for one in _SAID if one == said), _SAID[0])
    content = file.read().decode("utf-8-sig", errors="replace") if file is not None else typed
    since = day_said(request.POST.get("since", ""), scope.today)
    return note_entries(scope, entries(content), source, text=request.POST.get("note", ""), since=since)


@require_http_methods(["GET", "POST"])
def do_not_contact(request: HttpRequest) -> HttpResponse:
    """Who must get nothing, and a form to note more of them: typed, pasted, or from a file."""
    scope = scope_of(request)
    wrong: list[str] = []
    typed = request.POST.get("lines", "")
    if request.method == "POST":
        require(scope, DO_NOT_CONTACT)
        try:
            noted, left = _noted(request, scope, typed)
        except DoNotContactError as error:
            wrong = [sentence_of(error)]
        else:
            if noted:
                messages.success(request, f"{noted:,} noted.")
            if not left:
                return redirect("contacts:do-not-contact")
            wrong = [f"line {one.entry.line:,}: {one.why}" for one in left]
            # What was noted need not be typed again.
            typed = "" if request.FILES else "\n".join(one.entry.text for one in left)
    rows = DoNotContact.objects.filter(team=scope.team, ended_at=None).select_related("noted_by")
    context = {
        "place": "outreach", "view": "do-not-contact", "page": Paginator(rows, 50).get_page(request.GET.get("page")),
        "may_note": may(scope, DO_NOT_CONTACT), "wrong": wrong[:_SHOWN_WRONG], "wrong_count": len(wrong),
        "typed": typed, "sources": [(one.value, one.label) for one in _SAID],
    }  # fmt: skip
    return render(request, "contacts/do_not_contact.html", context, status=400 if wrong else 200)


@require_POST
def end_do_not_contact(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a note back, or put it back."""
    scope = scope_of(request)
    row = get_object_or_404(DoNotContact, pk=pk, team=scope.team)
    if row.ended_at is None:
        notes.end(scope, row)
        messages.success(request, f"{row.label} may be contacted again.", extra_tags=reverse("contacts:end-do-not-contact", args=[pk]))
    else:
        notes.put_back(scope, row)
    return HttpResponseRedirect(address_to_return_to(request, reverse("contacts:do-not-contact")))
