"""A client's own page, which is opened without signing in: the address is the key. It shows what listings say, and takes answers."""

from __future__ import annotations

from functools import partial

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from jaded_ledger.accounts.ending_mails import End, ends_mails
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients import links, mails
from jaded_ledger.clients.cards import cards_of, photographs_of
from jaded_ledger.clients.clients import ClientError, TooManyAnswersError, note_answer, settings_of
from jaded_ledger.clients.history import shown_to
from jaded_ledger.clients.models import ClientAnswer, ClientLink
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import Parcel, StoredImage

ANSWERS = (ClientAnswer.What.WANTS, ClientAnswer.What.MAYBE, ClientAnswer.What.NO)


def _link(key: str) -> ClientLink:
    link = links.link_called(key)
    if link is None:
        raise Http404("no such address")
    return link


def _scope(link: ClientLink) -> Scope:
    return Scope(link.client.team, None, today(link.client.team.time_zone))


@login_not_required
@never_cache
@require_GET
def page(request: HttpRequest, key: str) -> HttpResponse:
    """What a client was shown, the latest first, with what they said of each."""
    link = _link(key)
    links.note_opening(link)
    shown = shown_to(link.client)
    cards = {card.parcel_id: card for card in cards_of([one.showing.parcel_id for one in shown], _scope(link))}
    rows = [(one, cards[one.showing.parcel_id]) for one in shown if one.showing.parcel_id in cards]
    context = {
        "client": link.client, "agent": link.client.agent, "team": link.client.team, "rows": rows, "key": key,
        "reasons": settings_of(_scope(link)).reasons, "answers": [(one.value, one.label) for one in ANSWERS],
    }  # fmt: skip
    return render(request, "clients/page.html", context)


# Nobody is signed in, so that there is nothing that another page could do in somebody's name: the key is all.
@csrf_exempt
@login_not_required
@require_POST
def answer(request: HttpRequest, key: str) -> HttpResponse:
    """Take a client's answer."""
    link = _link(key)
    parcel = get_object_or_404(Parcel, pk=whole_number(request.POST.get("parcel")), pk__in=link.client.showings.values("parcel"))
    what, reason = request.POST.get("what", ""), request.POST.get("words", "") or request.POST.get("reason", "")
    try:
        if what not in ANSWERS:
            raise ClientError("Choose what you say of it.")
        note_answer(link.client, parcel, what, reason if what == ClientAnswer.What.NO else request.POST.get("words", ""))
    except TooManyAnswersError as error:
        return render(request, "said.html", {"title": "One moment", "text": str(error)}, status=429)
    except ClientError as error:
        raise Http404(str(error)) from error
    return redirect(f"{request.path.removesuffix('answer')}#property-{parcel.pk}")


@login_not_required
@require_GET
def photograph(request: HttpRequest, key: str, pk: int) -> HttpResponse:
    """A photograph of a property that a client was shown."""
    link = _link(key)
    shown = list(link.client.showings.values_list("parcel_id", flat=True))
    if not photographs_of(shown).filter(image=pk).exists():
        raise Http404("no such photograph")
    image = get_object_or_404(StoredImage, pk=pk)
    return HttpResponse(bytes(image.content), content_type=image.content_type)


@ends_mails("clients/stop.html")
def stop(key: str) -> End | None:
    """Find which search's mails to a client a key ends."""
    of = mails.search_of_key(key)
    return partial(mails.stop, of) if of else None
