"""Letters: all of a team's, and one on its page, beside what it says to real owners."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from django.contrib import messages
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.mail.letters import LONGEST_TEXT, LetterError
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.mailings import letters
from jaded_ledger.mailings.acts import LETTERS
from jaded_ledger.mailings.letter_fields import FIELDS
from jaded_ledger.mailings.letter_sample import names_free, sample
from jaded_ledger.mailings.models import LetterTemplate
from jaded_ledger.mailings.sheet_drawing import draw_letter
from jaded_ledger.web.sentences import sentence_of

Form = LetterTemplate.Form


@require_GET
def all_letters(request: HttpRequest) -> HttpResponse:
    """The team's letters and postcards."""
    scope = scope_of(request)
    if may(scope, LETTERS):
        letters.begin_with_shipped(scope)
    rows = letters.letters_of(scope).annotate(mailings=Count("sent", filter=Q(sent__mailing__deleted_at=None)))
    context = {
        "place": "outreach", "view": "letters", "letters": rows, "forms": Form.choices, "may_write": may(scope, LETTERS),
    }  # fmt: skip
    return render(request, "mailings/letters.html", context)


@require_POST
def new_letter(request: HttpRequest) -> HttpResponse:
    """Begin a letter: a copy of another of the team's, or one that says only to whom it is."""
    scope = scope_of(request)
    require(scope, LETTERS)
    form = request.POST.get("form", "")
    copied = letters.letters_of(scope).filter(pk=whole_number(request.POST.get("copy", "")) or 0).first()
    if copied is None and form not in Form:
        messages.error(request, "Choose a letter or a postcard.")
        return redirect("mailings:letters")
    name = names_free(scope, f"{copied.name[:70]} again" if copied else f"New {Form(form).label}")
    text = copied.text if copied else "Dear {salutation|neighbor},\n\n\n\n{sender|}\n{team}\n{phone|}\n{license|}"
    return redirect("mailings:letter", pk=letters.write(scope, name, copied.form if copied else form, text).pk)


def _found(request: HttpRequest, pk: int) -> tuple[LetterTemplate, Scope]:
    scope = scope_of(request)
    return get_object_or_404(letters.letters_of(scope), pk=pk), scope


def _sampled(letter: LetterTemplate, text: str, scope: Scope, number: int) -> dict[str, Any]:
    """Return what a text says to owners, or what is wrong with it."""
    try:
        found = sample(scope, letters.read(text, letter.pk, letter.name), letter.form, number)
    except LetterError as error:
        return {"wrong": sentence_of(error)}
    at = max(1, min(number, len(found.pieces)))
    return {
        "sample": found,
        "pages": [draw_letter(page) for page in found.pages],
        "at": at,
        "before": at - 1 if at > 1 else None,
        "after": at + 1 if at < len(found.pieces) else None,
    }


@require_http_methods(["GET", "POST"])
def letter(request: HttpRequest, pk: int) -> HttpResponse:
    """A letter to be edited; posted, it is kept."""
    found, scope = _found(request, pk)
    number = whole_number(request.POST.get("piece", request.GET.get("piece", ""))) or 1
    name, text = request.POST.get("name", found.name), request.POST.get("text", found.text)
    status = 200
    context: dict[str, Any] = {}
    if request.method == "POST":
        require(scope, LETTERS)
        try:
            kept = letters.change(scope, found, name, text, request.POST.get("seen", ""))
        except letters.ChangedMeanwhileError as error:
            # Both texts are shown; saved once more, one's own takes the place of theirs.
            context |= {"error": sentence_of(error), "theirs": error.theirs}
            status, found = 409, error.theirs
        except LetterError as error:
            context["error"], status = sentence_of(error), 400
            found.refresh_from_db()
        else:
            messages.success(request, f"“{kept.name}” is kept.")
            return redirect(f"{reverse('mailings:letter', args=[pk])}?piece={number}")
    context |= {
        "place": "outreach", "letter": found, "name": name, "text": text, "may_write": may(scope, LETTERS), "most": LONGEST_TEXT,
        "seen": letters.version_of(found),
        "fields": [(section, list(fields)) for section, fields in groupby(FIELDS.values(), key=lambda field: field.section)],
        **_sampled(found, text, scope, number),
    }  # fmt: skip
    return render(request, "mailings/letter.html", context, status=status)


@require_POST
def preview_letter(request: HttpRequest, pk: int) -> HttpResponse:
    """What a letter says to real owners, as it is being written. Nothing is kept."""
    found, scope = _found(request, pk)
    number = whole_number(request.POST.get("piece", "")) or 1
    return render(request, "mailings/_sample.html", {"letter": found, **_sampled(found, request.POST.get("text", ""), scope, number)})


@require_POST
def remove_letter(request: HttpRequest, pk: int) -> HttpResponse:
    """Delete a letter; mailings keep it."""
    found, scope = _found(request, pk)
    delete_and_say(request, scope, found)
    return redirect("mailings:letters")
