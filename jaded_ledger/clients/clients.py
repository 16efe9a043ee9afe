"""What is done with clients: kept, given searches, left alone; and how a team writes to them."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients.acts import CLIENT_SETTINGS, CLIENTS
from jaded_ledger.clients.models import Client, ClientAnswer, ClientSearch, ClientSettings, Showing
from jaded_ledger.core.watching.rhythms import Rhythm
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.matching import reckon_if_askable, watched_of
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import current_version

REASONS = ("too dear", "wrong place", "too small", "too much work", "too little yield", "seen before")
"""Why a client may say no, where a team has named no reasons of its own."""
SUBJECT = "New for you, {first-name}"
"""The subject of a new search's mails: it is the client's, and says nothing of what the search is called."""
MESSAGE = "Good morning {first-name},\n\nhere is what is new in what I look for on your behalf."


MOST_ANSWERS = 30
ANSWERED_WITHIN = timedelta(minutes=10)
"""The most answers that a client's page accepts in this time."""
MOST_REMEMBERED = 10
"""How many of a client's own answers about one property are stored, the latest ones."""


class ClientError(ValueError):
    """Something that can't be done for a client; the message says why, and what would do."""


class TooManyAnswersError(ClientError):
    """More answers than a client's page takes at a time."""


def settings_of(scope: Scope) -> ClientSettings:
    """Return how a team writes to its clients, as it set it or as it is shipped."""
    return ClientSettings.objects.filter(team=scope.team).first() or ClientSettings(team=scope.team, reasons=list(REASONS), message=MESSAGE)


def change_settings(scope: Scope, reasons: Sequence[str], message: str, link_days: int | None) -> None:
    """Change how a team writes to its clients. Raises ClientError and PermissionDenied."""
    require(scope, CLIENT_SETTINGS)
    kept = list(dict.fromkeys(" ".join(one.split()) for one in reasons if one.strip()))
    if any(len(one) > 60 for one in kept) or len(kept) > 20:
        raise ClientError("There are at most 20 reasons, of 60 characters each.")
    if link_days is None or not 1 <= link_days <= 366:
        raise ClientError("A link lasts 1 to 366 days.")
    ClientSettings.objects.update_or_create(team=scope.team, defaults={"reasons": kept, "message": message, "link_days": link_days})


def clients_of(scope: Scope) -> QuerySet[Client]:
    """Return a team's clients."""
    return Client.objects.filter(team=scope.team, deleted_at=None)


def keep_client(scope: Scope, about: Mapping[str, Any], client: Client | None = None) -> Client:
    """Keep a client, a new one or as they are now; ``about`` was checked by the form. Raises PermissionDenied."""
    require(scope, CLIENTS)
    if client is None:
        return Client.objects.create(team=scope.team, agent=scope.user, made_at=now(), **about)
    Client.objects.filter(pk=client.pk, team=scope.team).update(**about)
    client.refresh_from_db()
    return client


@transaction.atomic
def give_search(scope: Scope, client: Client, saved: SavedSearch, fields: Mapping[str, Any]) -> ClientSearch:
    """Have a saved search be a client's, or be told otherwise than before. Raises ClientError and PermissionDenied."""
    require(scope, CLIENTS)
    rhythm, days = fields["rhythm"], sorted(set(fields["days"])) if fields["rhythm"] == Rhythm.WEEKLY else []
    if rhythm == Rhythm.WEEKLY and not days:
        raise ClientError("Choose the days of the week on which to write.")
    if not " ".join(fields["subject"].split()):
        raise ClientError("Give the mail a subject.")
    kept = {**fields, "subject": " ".join(fields["subject"].split()), "days": days}
    found = ClientSearch.objects.filter(client=client, search=saved).first()
    if found is None:
        reckon_if_askable(saved, scope)
        version = current_version(saved).number
        return ClientSearch.objects.create(client=client, search=saved, asked_to=now(), told_version=version, **kept)
    ClientSearch.objects.filter(pk=found.pk).update(**kept)
    found.refresh_from_db()
    return found


def take_search(scope: Scope, of: ClientSearch) -> None:
    """Have a search be a client's no longer; what they were shown stays in their history."""
    require(scope, CLIENTS)
    of.delete()


def pause_search(scope: Scope, of: ClientSearch, *, paused: bool) -> None:
    require(scope, CLIENTS)
    ClientSearch.objects.filter(pk=of.pk).update(paused_at=now() if paused else None)


@transaction.atomic
def note_answer(client: Client, parcel: Parcel, what: str, reason: str, *, scope: Scope | None = None) -> ClientAnswer:
    """Note what a client said of a property: by the agent, or without a scope by the client on their own page.

    The same answer twice is stored once. Clients may pass their link on, so a page accepts a limited number of answers at a time and
    stores the latest ones about each property. Raises ClientError, and TooManyAnswersError for more than a page takes.
    """
    if scope is not None:
        require(scope, CLIENTS)
    if what not in ClientAnswer.What.values:
        raise ClientError("Choose what they said of it.")
    plain = " ".join(reason.replace("\x00", "").split())[:300]
    user, by_client = scope.user if scope else None, scope is None
    Client.objects.select_for_update(of=("self",)).get(pk=client.pk)
    earlier = ClientAnswer.objects.filter(client=client, parcel=parcel)
    current = earlier.first()
    if current and (current.what, current.reason, current.by_client) == (what, plain, by_client):
        return current
    if by_client:
        if ClientAnswer.objects.filter(client=client, by_client=True, at__gt=now() - ANSWERED_WITHIN).count() >= MOST_ANSWERS:
            raise TooManyAnswersError("These are many answers at once. Wait a few minutes, then go on.")
        oldest = earlier.filter(by_client=True).values_list("pk", flat=True)[MOST_REMEMBERED - 1 :]
        ClientAnswer.objects.filter(pk__in=list(oldest)).delete()
    return ClientAnswer.objects.create(client=client, parcel=parcel, what=what, reason=plain, at=now(), user=user, by_client=by_client)


def current_answers(scope: Scope) -> QuerySet[ClientAnswer]:
    """Return what clients themselves say now, the latest answer of each about each property, the latest first."""
    by_clients = ClientAnswer.objects.filter(client__team=scope.team, client__deleted_at=None, by_client=True)
    current = by_clients.order_by("client_id", "parcel_id", "-at", "-id").distinct("client_id", "parcel_id").values("pk")
    return ClientAnswer.objects.filter(pk__in=current).select_related("client", "parcel")


@transaction.atomic
def show(client: Client, parcels: Collection[int], way: Showing.Way, **more: Any) -> list[Showing]:
    """Note that a client is shown some properties, with what is watched of each now. One shown before keeps its number."""
    Client.objects.select_for_update().get(pk=client.pk)
    numbers = dict(Showing.objects.filter(client=client).order_by("number").values_list("parcel_id", "number"))
    last = max(numbers.values(), default=0)
    at, watched, rows = now(), watched_of(list(parcels)), []
    for parcel in parcels:
        if parcel not in numbers:
            last += 1
            numbers[parcel] = last
        rows.append(
            Showing(client=client, parcel_id=parcel, number=numbers[parcel], at=at, way=way, watched=watched.get(parcel, {}), **more)
        )
    return Showing.objects.bulk_create(rows)
