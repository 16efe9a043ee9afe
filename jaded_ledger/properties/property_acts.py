"""What is done to one property on its page: every act of every app goes through here, so that its role is asked for in one place."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_POST

from jaded_ledger.accounts.roles import may, require
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep, selection_acts
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.plugins.entries import ActField, PropertyAct, SelectionAct
from jaded_ledger.records.models import Parcel
from jaded_ledger.web.returning import address_to_return_to
from jaded_ledger.web.sentences import sentence_of


def property_acts() -> list[PropertyAct]:
    """Return everything that can be done to a property, in order."""
    return in_order(hooks.property_acts())


@dataclass(frozen=True)
class OfferedAct:
    """An act as a property's page offers it."""

    act: PropertyAct
    field: ActField | None


def offered_acts(parcel: Parcel, scope: Scope) -> list[OfferedAct]:
    """Return what somebody may do to a property."""
    allowed = [act for act in property_acts() if act.needs is None or may(scope, act.needs)]
    return [OfferedAct(act, act.fill(parcel, scope) if act.fill else None) for act in allowed]


def offered_selection_acts() -> list[SelectionAct]:
    """Return what is done with chosen rows and, since the page has no field of its own for it, with this property alone."""
    own = {act.key for act in property_acts()}
    return [act for act in selection_acts() if act.key not in own]


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Do something to a property, and go back to its page or on to where the act leads."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel.objects.select_related("county").filter(facts__isnull=False), pk=pk)
    back = address_to_return_to(request, reverse("properties:property", args=[pk]))
    wanted = next((one for one in property_acts() if one.key == request.POST.get("do")), None)
    if wanted is None:
        return _with_selection(request, scope, parcel)
    if wanted.needs is not None:
        require(scope, wanted.needs)
    try:
        done = wanted.do(parcel, scope, request.POST.get("typed", ""))
    except wanted.refuses as error:
        messages.error(request, sentence_of(error))
        return HttpResponseRedirect(back)
    if done.said:
        messages.success(request, done.said, extra_tags=done.undo)
    return HttpResponseRedirect(done.leads_to or back)


def _with_selection(request: HttpRequest, scope: Scope, parcel: Parcel) -> HttpResponse:
    """Go on with this property as Find goes on with chosen rows."""
    wanted = next((one for one in offered_selection_acts() if one.key == request.POST.get("do")), None)
    if wanted is None:
        raise Http404("there is no such act")
    selection = keep(scope, SearchPage(Search()), [parcel.pk], is_all=False)
    return HttpResponseRedirect(reverse(wanted.url_name, args=[selection.key]))
