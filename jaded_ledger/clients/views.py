"""Clients: all of them, one with their history, the mail that waits for a look, and how the team writes to them."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db.models import Count, Max, Q
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from jaded_ledger.accounts.deletion import delete_and_say
from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope, scope_of
from jaded_ledger.accounts.team_mail import absolute
from jaded_ledger.clients import clients, links, mails
from jaded_ledger.clients.acts import CLIENT_SETTINGS, CLIENTS
from jaded_ledger.clients.cards import cards_of, changed_since
from jaded_ledger.clients.clients import ClientError, clients_of, current_answers, settings_of
from jaded_ledger.clients.fits import fits_of
from jaded_ledger.clients.forms import ClientForm
from jaded_ledger.clients.history import history_of
from jaded_ledger.clients.models import Client, ClientAnswer, ClientMail, ClientSearch
from jaded_ledger.clients.written_mails import mail_context, named, photographs
from jaded_ledger.core.watching.rhythms import DAYS, Rhythm
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.new_matches import narrowings_for, proposal_for
from jaded_ledger.searches.services import current_version, searches_of
from jaded_ledger.web.pdf import data_address


@require_GET
def all_clients(request: HttpRequest) -> HttpResponse:
    """Every client, with what waits for the agent."""
    scope = scope_of(request)
    waits = Q(
        searches__mails__sent_at=None, searches__mails__dropped_at=None, searches__mails__approved_at=None, searches__mails__isnull=False
    )
    found = clients_of(scope).annotate(
        searching=Count("searches", distinct=True), shown=Count("showings__parcel", distinct=True), last=Max("showings__at"),
        waiting=Count("searches__mails", filter=waits, distinct=True),
    )  # fmt: skip
    context = {
        "place": "morning", "clients": found, "answers": current_answers(scope)[:12], "settings": settings_of(scope),
        "may_change": may(scope, CLIENTS), "may_set": may(scope, CLIENT_SETTINGS), "waiting": mails.mails_waiting(scope),
        "mails": ClientMail.objects.filter(
            of__client__team=scope.team, of__client__deleted_at=None, sent_at=None, dropped_at=None, approved_at=None
        ).select_related("of__client", "of__search"),
    }  # fmt: skip
    return render(request, "clients/all.html", context)


@require_http_methods(["GET", "POST"])
def new(request: HttpRequest) -> HttpResponse:
    """A client who is new."""
    scope = scope_of(request)
    form = ClientForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        client = clients.keep_client(scope, form.cleaned_data)
        messages.success(request, f"{client} is kept. Give them a search next.")
        return redirect("clients:client", client.pk)
    return render(request, "clients/new.html", {"place": "morning", "form": form}, status=400 if form.errors else 200)


def _client(scope: Scope, pk: int) -> Client:
    return get_object_or_404(clients_of(scope).select_related("agent"), pk=pk)


def _search_context(of: ClientSearch, scope: Scope) -> dict[str, Any]:
    version = current_version(of.search).number
    waiting = of.mails.filter(sent_at=None, dropped_at=None).first()
    return {
        "of": of, "new": len(mails.new_for(of)), "proposal": proposal_for(of.search),
        "narrowings": narrowings_for(of.search, scope), "is_edited": version != of.told_version,
        "waiting": waiting, "waiting_count": len(mails.parcels_of(waiting)) if waiting else 0,
        "last": of.mails.exclude(sent_at=None).first(),
    }  # fmt: skip


@require_http_methods(["GET", "POST"])
def client(request: HttpRequest, pk: int) -> HttpResponse:
    """A client: who they are, what they want, their searches, and what they were shown and said."""
    scope = scope_of(request)
    found = _client(scope, pk)
    form = ClientForm(request.POST or None, instance=found)
    if request.method == "POST" and form.is_valid():
        clients.keep_client(scope, form.cleaned_data, found)
        messages.success(request, "Kept.")
        return redirect("clients:client", pk)
    link = links.current_link(found)
    theirs = found.searches.filter(search__deleted_at=None).select_related("search__team", "search__owner")
    context = {
        "place": "morning", "client": found, "form": form,
        "searches": [_search_context(of, scope) for of in theirs], "days": list(enumerate(DAYS, 1)),
        "others": searches_of(scope).exclude(pk__in=theirs.values("search")), "history": history_of(found), "settings": settings_of(scope),
        "whats": ClientAnswer.What.choices, "rhythms": [(one.value, one.words) for one in Rhythm], "link": link,
        "address": absolute(reverse("clients:page", args=[links.key_of(link)])) if link else "", "may_change": may(scope, CLIENTS),
        "openings": link.openings.all()[:5] if link else [],
    }  # fmt: skip
    return render(request, "clients/client.html", context, status=400 if form.errors else 200)


def _covering_fields(sent: QueryDict) -> dict[str, Any]:
    rhythm = sent.get("rhythm", "")
    return {
        "subject": sent.get("subject", "")[:150], "message": sent.get("message", "")[:4000], "edit_note": sent.get("edit_note", "")[:500],
        "rhythm": rhythm if rhythm in list(Rhythm) else Rhythm.MORNING,
        "days": [day for one in sent.getlist("day") if (day := whole_number(one)) is not None and 1 <= day <= 7],
        "is_reviewed": sent.get("is_reviewed") != "no", "copy_to_agent": "copy_to_agent" in sent, "past_too": "past_too" in sent,
    }  # fmt: skip


def _give(request: HttpRequest, scope: Scope, found: Client) -> str:
    """Give a client a search with what is proposed for it."""
    saved: SavedSearch = get_object_or_404(searches_of(scope), pk=whole_number(request.POST.get("saved")))
    proposal = proposal_for(saved)
    fields = {
        "subject": clients.SUBJECT, "message": settings_of(scope).message, "rhythm": proposal.rhythm, "days": [1],
        "is_reviewed": True, "copy_to_agent": False, "past_too": False, "edit_note": "",
    }  # fmt: skip
    clients.give_search(scope, found, saved, fields)
    return f"“{saved}” is searched for {found}. Look at what it would send."


@require_POST
def act(request: HttpRequest, pk: int) -> HttpResponse:
    """Do something for a client."""
    scope = scope_of(request)
    found = _client(scope, pk)
    do, _, of_text = request.POST.get("do", "").partition(":")
    if do == "delete":
        delete_and_say(request, scope, found)
        return redirect("clients:all")
    try:
        messages.success(request, _do(request, scope, found, do, whole_number(of_text)))
    except ClientError as error:
        messages.error(request, str(error))
    return redirect("clients:client", pk)


def _do(request: HttpRequest, scope: Scope, found: Client, do: str, number: int | None) -> str:
    """Do what was asked and return what is said of it. Raises ClientError and Http404."""
    match do:
        case "give":
            return _give(request, scope, found)
        case "link":
            links.renew(scope, found)
            return "Their page has an address; the one before opens nothing more."
        case "revoke":
            links.revoke(scope, found)
            return "Their page is opened by nobody any more."
        case "answer":
            parcel = get_object_or_404(Parcel, pk=number, pk__in=found.showings.values("parcel"))
            clients.note_answer(found, parcel, request.POST.get("what", ""), request.POST.get("reason", ""), scope=scope)
            return "Noted."
    return _do_with_search(request, scope, get_object_or_404(found.searches.select_related("search"), pk=number), do)


def _do_with_search(request: HttpRequest, scope: Scope, of: ClientSearch, do: str) -> str:
    match do:
        case "tell":
            clients.give_search(scope, of.client, of.search, _covering_fields(request.POST))
            return "Kept."
        case "take":
            clients.take_search(scope, of)
            return f"“{of.search}” is searched for them no more."
        case "pause" | "resume":
            clients.pause_search(scope, of, paused=do == "pause")
            return "Paused." if do == "pause" else "Taken up again."
        case "write":
            if mails.write_now(scope, of) is None:
                raise ClientError("Nothing is new for them: they were shown all that it finds.")
            return "Written: look at it below, and send it."
    raise Http404("there is no such thing to do")


@require_http_methods(["GET", "POST"])
def mail(request: HttpRequest, pk: int) -> HttpResponse:
    """A mail to a client: looked at, thinned out, sent or dropped; afterwards as it was sent."""
    scope = scope_of(request)
    found = get_object_or_404(ClientMail.objects.select_related("of__client__team", "of__search"), pk=pk, of__client__team=scope.team)
    if request.method == "POST":
        try:
            if request.POST.get("do") == "drop":
                mails.drop(scope, found)
                messages.success(request, "Dropped; what is in it waits for the next mail.")
            else:
                parcels = [number for one in request.POST.getlist("parcel") if (number := whole_number(one)) is not None]
                mails.approve(scope, found, parcels, request.POST.get("subject", ""), request.POST.get("message", ""))
                mails.send_approved()
                found.refresh_from_db()
                said = f"Sent to {found.of.client.email}." if found.sent_at else f"It leaves with the next round. {found.fault}"
                messages.success(request, said)
            return redirect("clients:client", found.of.client_id)
        except ClientError as error:
            messages.error(request, str(error))
            return redirect("clients:mail", pk)
    return render(request, "clients/mail_page.html", _mail_shown(found, scope, found.subject, found.message))


def _mail_shown(found: ClientMail, scope: Scope, subject: str, message: str, kept: set[int] | None = None) -> dict[str, Any]:
    """Return what the page of a mail shows: what is in it, and what arrives with the properties that are left in."""
    shown = mails.latest_showings(found.of)
    from_before = {pk: showing.watched for pk, showing in shown.items() if showing.mail_id != found.pk}
    now_watched = mails.watched_now(found)
    changed = {pk: changed_since(before, now_watched.get(pk, {})) for pk, before in from_before.items() if pk in found.parcels}
    numbers = {one.parcel_id: one.number for one in found.showings.all()}
    every = cards_of(found.parcels if found.sent_at else mails.parcels_of(found), scope, changed)
    cards = [(numbers.get(card.parcel_id), card) for card in every]
    sent = [pair for pair in cards if kept is None or pair[1].parcel_id in kept]
    images = photographs([card for _, card in sent])

    def source_of(image: int) -> str:
        return data_address(images[image][1], images[image][0]) if image in images else ""

    # The client's own links are for the client: here they lead nowhere.
    context = mail_context(found, message, sent, source_of, page="#preview", stop="#preview")
    return context | {
        "place": "morning", "mail": found, "client": found.of.client, "cards": cards, "preview_cards": context["cards"],
        "subject": named(subject, found.of.client),
        "is_open": may(scope, CLIENTS) and found.sent_at is None and found.dropped_at is None,
    }  # fmt: skip


@require_POST
def preview_mail(request: HttpRequest, pk: int) -> HttpResponse:
    """A mail as it would arrive with the words and properties of a form. Nothing is saved or sent."""
    scope = scope_of(request)
    found = get_object_or_404(ClientMail.objects.select_related("of__client__team", "of__search"), pk=pk, of__client__team=scope.team)
    kept = {number for one in request.POST.getlist("parcel") if (number := whole_number(one)) is not None}
    shown = _mail_shown(found, scope, request.POST.get("subject", "")[:150], request.POST.get("message", "")[:4000], kept)
    return render(request, "clients/_preview.html", shown)


@require_POST
def settings(request: HttpRequest) -> HttpResponse:
    """Change how the team writes to clients."""
    scope = scope_of(request)
    try:
        clients.change_settings(
            scope,
            request.POST.get("reasons", "").splitlines(),
            request.POST.get("message", "")[:4000],
            whole_number(request.POST.get("link_days")),
        )
        messages.success(request, "Kept.")
    except ClientError as error:
        messages.error(request, str(error))
    return redirect("clients:all")


@require_GET
def fits(request: HttpRequest, pk: int) -> HttpResponse:
    """The clients whom a property would suit: asked for when one comes to it."""
    scope = scope_of(request)
    parcel = get_object_or_404(Parcel, pk=pk)
    return render(request, "clients/_fits.html", {"fits": fits_of(parcel, scope), "parcel": parcel})
