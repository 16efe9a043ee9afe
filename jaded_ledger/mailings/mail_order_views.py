"""A mailing is given to a mail house, and the house is asked what became of it."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import scope_of
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.contacts.exports import BeyondLimitError
from jaded_ledger.mailings.mail_houses import MailHouseError
from jaded_ledger.mailings.mail_orders import catch_up, give_to
from jaded_ledger.mailings.mailing_terms import MailingError
from jaded_ledger.mailings.mailings import mailings_of
from jaded_ledger.mailings.models import MailOrder
from jaded_ledger.web.sentences import sentence_of


@require_POST
def give(request: HttpRequest, pk: int) -> HttpResponse:
    """Give a made mailing to a mail house."""
    scope = scope_of(request)
    mailing = get_object_or_404(mailings_of(scope), pk=pk)
    try:
        order = give_to(scope, mailing, request.POST.get("house", ""))
    except (MailingError, MailHouseError, BeyondLimitError) as error:
        messages.error(request, sentence_of(error))
    else:
        messages.success(request, f"Given to the mail house as {order.reference}; it charges ${order.charge:,}.")
    return redirect("mailings:mailing", pk=pk)


@require_POST
def ask_again(request: HttpRequest, pk: int) -> HttpResponse:
    """Ask the mail house for news of a mailing."""
    scope = scope_of(request)
    require(scope, CONTACTS)
    order = get_object_or_404(MailOrder, mailing__in=mailings_of(scope), mailing=pk)
    new = catch_up(scope, order)
    messages.success(request, f"{new:,} report{'' if new == 1 else 's'} came in." if new else "There is nothing new.")
    return redirect("mailings:mailing", pk=pk)
