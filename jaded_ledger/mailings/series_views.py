"""Series: begun from a mailing, the next of them prepared, ended and gone on with."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.mailings import series
from jaded_ledger.mailings.mailing_terms import MailingError
from jaded_ledger.mailings.mailings import mailings_of
from jaded_ledger.mailings.models import Series
from jaded_ledger.web.sentences import sentence_of


@require_POST
def repeat(request: HttpRequest, pk: int) -> HttpResponse:
    """Have a made mailing be the first of a series."""
    scope = scope_of(request)
    found = get_object_or_404(mailings_of(scope), pk=pk)
    try:
        begun = series.begin_series(scope, found, request.POST.get("every_days", ""), request.POST.get("rounds", ""))
    except MailingError as error:
        messages.error(request, sentence_of(error))
    else:
        messages.success(request, f"Repeated every {begun.every_days} days; the next is due on {begun.next_on:%-d %b %Y}.")
    return redirect("mailings:mailing", pk=pk)


@require_POST
def act_on_series(request: HttpRequest, pk: int) -> HttpResponse:
    """Prepare the next mailing of a series, or end the series, or go on with it."""
    scope = scope_of(request)
    found = get_object_or_404(Series, pk=pk, team=scope.team)
    match request.POST.get("do"):
        case "prepare":
            try:
                return redirect("mailings:mailing", pk=series.begin_round(scope, found).pk)
            except (MailingError, CriteriaError) as error:
                messages.error(request, sentence_of(error))
        case "end":
            series.end_series(scope, found)
            undo = reverse("mailings:continue-series", args=[pk])
            messages.success(request, f"The series “{found.name}” is ended.", extra_tags=undo)
    return redirect("mailings:mailings")


@require_POST
def continue_series(request: HttpRequest, pk: int) -> HttpResponse:
    """Undo that a series was ended."""
    scope = scope_of(request)
    series.continue_series(scope, get_object_or_404(Series, pk=pk, team=scope.team))
    return redirect("mailings:mailings")
