"""Mails to clients: what is new in a client's search and was not shown to them, looked at by the agent first or sent by itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.urls import reverse

from jaded_ledger.accounts.outbox import TRIED_FOR, send_waiting
from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.accounts.signed_keys import SignedKeys
from jaded_ledger.accounts.team_mail import TeamMail, absolute, headers_of
from jaded_ledger.clients.acts import CLIENTS
from jaded_ledger.clients.cards import SEEN, cards_of, changed_since
from jaded_ledger.clients.clients import ClientError, show
from jaded_ledger.clients.models import ClientMail, ClientSearch, Showing
from jaded_ledger.clients.written_mails import named, written
from jaded_ledger.core.criteria.catalogue.choices import ON_OFFER
from jaded_ledger.records.clock import now
from jaded_ledger.records.rounds import go_round
from jaded_ledger.searches.matching import reckon_if_askable, scope_of_search, watched_of
from jaded_ledger.searches.models import Match
from jaded_ledger.searches.services import current_version

ON_MARKET_NOW = [choice.code for choice in ON_OFFER if choice.key in ("for-sale", "for-rent")]
MOST = 25
"""Properties in one mail: more are read by nobody. The rest waits for the next."""
_KEYS = SignedKeys("jaded_ledger.clients.stop")


@dataclass(frozen=True)
class Round:
    """What a round did: how many searches it asked, how many mails it wrote, how many left."""

    asked: int
    written: int
    sent: int


def latest_showings(of: ClientSearch) -> dict[int, Showing]:
    """Return when a client was last shown each property."""
    shown = Showing.objects.filter(client=of.client_id).order_by("parcel", "-at", "-id").distinct("parcel")
    return {one.parcel_id: one for one in shown}


def matches_for(of: ClientSearch) -> QuerySet[Match]:
    """Return the matches to email to a client: those on the market, unless the agent included others."""
    here = Match.objects.filter(search=of.search_id, left_at=None)
    return here if of.past_too else here.filter(parcel__facts__on_offer__overlap=ON_MARKET_NOW)


def parcels_of(mail: ClientMail) -> list[int]:
    """Return the properties of an unsent mail that can still be sent: some may have left the search or the market since it was written."""
    here = set(matches_for(mail.of).values_list("parcel_id", flat=True))
    return [pk for pk in mail.parcels if pk in here]


def new_for(of: ClientSearch) -> list[int]:
    """Return the matches of a client's search that they were not shown since price or status last changed, the newest first."""
    shown = latest_showings(of)
    here = matches_for(of).order_by("-entered_at", "parcel")
    return [match.parcel_id for match in here if match.parcel_id not in shown or _is_other(shown[match.parcel_id], match)]


def _is_other(showing: Showing, match: Match) -> bool:
    return any(showing.watched.get(key) != match.watched.get(key) for key in SEEN)


@transaction.atomic
def write(of: ClientSearch) -> ClientMail | None:
    """Write a client what is new; where a mail waits already, that one stays. None where nothing is new."""
    locked = ClientSearch.objects.select_for_update(of=("self",)).select_related("client__team", "search").get(pk=of.pk)
    reckon_if_askable(locked.search, scope_of_search(locked.search))
    parcels = new_for(locked)[:MOST]
    waiting = ClientMail.objects.filter(of=locked, sent_at=None, dropped_at=None).first()
    ClientSearch.objects.filter(pk=locked.pk).update(asked_to=now())
    if waiting is not None:
        # What the agent took out, or approved, stays as the agent left it.
        return waiting
    if not parcels:
        return None
    return ClientMail.objects.create(
        of=locked, made_at=now(), parcels=parcels, subject=named(locked.subject, locked.client)[:150],
        message=named(locked.message, locked.client), edit_note=locked.edit_note,
        version=current_version(locked.search).number, approved_at=None if locked.is_reviewed else now(),
    )  # fmt: skip


def write_now(scope: Scope, of: ClientSearch) -> ClientMail | None:
    """Write a client what is new before it is due; it waits for the agent who asked for it."""
    require(scope, CLIENTS)
    mail = write(of)
    if mail is not None and mail.sent_at is None:
        ClientMail.objects.filter(pk=mail.pk, sent_at=None).update(approved_at=None)
    return mail


def watched_now(mail: ClientMail) -> dict[int, dict[str, Any]]:
    """Return what is watched of a mail's properties now."""
    return watched_of(mail.parcels)


def approve(scope: Scope, mail: ClientMail, parcels: Sequence[int], subject: str, message: str) -> None:
    """Have a mail that waits be sent, with those of its properties that are left in. Raises ClientError and PermissionDenied."""
    require(scope, CLIENTS)
    kept = [pk for pk in mail.parcels if pk in set(parcels)]
    if not kept:
        raise ClientError("Leave at least one property in, or drop the mail.")
    if not mail.of.client.email:
        raise ClientError(f"{mail.of.client} has no e-mail address yet.")
    if not " ".join(subject.split()):
        raise ClientError("Give the mail a subject.")
    ClientMail.objects.filter(pk=mail.pk, sent_at=None, dropped_at=None).update(
        parcels=kept, subject=" ".join(subject.split())[:150], message=message, approved_at=now()
    )


def drop(scope: Scope, mail: ClientMail) -> None:
    """Send a mail never; what is in it waits for the next."""
    require(scope, CLIENTS)
    ClientMail.objects.filter(pk=mail.pk, sent_at=None).update(dropped_at=now())


def _composed(mail: ClientMail) -> TeamMail | None:
    """Return a mail as it leaves, and note what is shown by it; None where every property has left the search or the market since."""
    client, parcels = mail.of.client, parcels_of(mail)
    before = latest_showings(mail.of)
    if not parcels:
        ClientMail.objects.filter(pk=mail.pk).update(dropped_at=now())
        return None
    showings = show(client, parcels, Showing.Way.MAIL, mail=mail)
    changed = {one.parcel_id: changed_since(before[one.parcel_id].watched, one.watched) for one in showings if one.parcel_id in before}
    numbers = {one.parcel_id: one.number for one in showings}
    cards = [(numbers[card.parcel_id], card) for card in cards_of(parcels, scope_of_search(mail.of.search), changed)]
    whole = written(mail, mail.message, cards, stop_address(mail.of))
    agent = client.agent.email if client.agent and client.agent.email else ""
    headers = headers_of(f"client-{mail.pk}-{mail.made_at:%Y%m%d%H%M%S}", now(), stop_address(mail.of))
    subject = named(mail.subject, client)
    message = TeamMail(client.team, [client.email], subject, whole.text, whole.html, headers=headers, reply_to=[agent] if agent else [])
    for image, (content, kind) in whole.images.items():
        message.embed(str(image), content, kind)
    if mail.of.copy_to_agent and agent:
        message.bcc = [agent]
    ClientSearch.objects.filter(pk=mail.of_id).update(told_version=mail.version, edit_note="")
    return message


def send_approved() -> int:
    """Send the mails that wait for nobody; return how many left. One that could not be sent for three days goes back to the agent."""
    unsent = ClientMail.objects.filter(sent_at=None, dropped_at=None)
    unsent.filter(approved_at__lte=now() - TRIED_FOR).exclude(fault="").update(approved_at=None)
    waiting = unsent.filter(approved_at__isnull=False, of__paused_at=None, of__client__deleted_at=None).exclude(of__client__email="")
    return send_waiting("sending mails to clients", waiting, _composed)


def run_due() -> Round:
    """Write and send what is due."""
    at = now()
    active = ClientSearch.objects.filter(paused_at=None, client__deleted_at=None, search__deleted_at=None)
    due = [one for one in active.select_related("client__team", "search") if one.schedule.is_due(one.client.team.times, one.asked_to, at)]
    written = go_round("clients’ searches", due, write)
    return Round(len(due), sum(one is not None for one in written), send_approved())


def stop_address(of: ClientSearch) -> str:
    """Return where a client ends these mails."""
    return absolute(reverse("clients:stop", args=[_KEYS.key_of(str(of.pk))]))


def search_of_key(key: str) -> ClientSearch | None:
    """Return whose mails a key ends; None for one that is made up."""
    value = _KEYS.value_of(key)
    return ClientSearch.objects.filter(pk=value).first() if value else None


def stop(of: ClientSearch) -> None:
    """Write a client nothing more of a search; the agent sees that it is paused."""
    ClientSearch.objects.filter(pk=of.pk, paused_at=None).update(paused_at=now())


def mails_waiting(scope: Scope) -> int:
    """Return how many mails of a team wait for an agent."""
    waiting = ClientMail.objects.filter(of__client__team=scope.team, of__client__deleted_at=None, sent_at=None, dropped_at=None)
    return waiting.filter(approved_at=None).count()
