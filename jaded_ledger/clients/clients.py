"""What is done with clients: kept, given searches, left alone; and how a team writes to them."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
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
MESSAGE = (
    "Good morning {name},\n\nhere is what is new in what I look for on your behalf. Tell me on your page which you want to see: each "
    "takes a click.\n\nShall I arrange a visit this week?"
)


class ClientError(ValueError):
    """Something that can't be done for a client; the message says why, and what would do."""


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


def delete_client(scope: Scope, client: Client) -> None:
    """Let go of a client: nothing more is sent, and their links end. It can be undone."""
    require(scope, CLIENTS)
    Client.objects.filter(pk=client.pk, team=scope.team).update(deleted_at=now())


def undelete_client(scope: Scope, client: Client) -> None:
    require(scope, CLIENTS)
    Client.objects.filter(pk=client.pk, team=scope.team).update(deleted_at=None)


@transaction.atomic
def give_search(scope: Scope, client: Client, saved: SavedSearch, told: Mapping[str, Any]) -> ClientSearch:
    """Have a saved search be a client's, or be told otherwise than before. Raises ClientError and PermissionDenied."""
    require(scope, CLIENTS)
    rhythm, days = told["rhythm"], sorted(set(told["days"])) if told["rhythm"] == Rhythm.WEEKLY else []
    if rhythm == Rhythm.WEEKLY and not days:
        raise ClientError("Choose the days of the week on which to write.")
    if not " ".join(told["subject"].split()):
        raise ClientError("Give the mail a subject.")
    kept = {**told, "subject": " ".join(told["subject"].split()), "days": days}
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


def note_answer(client: Client, parcel: Parcel, what: str, reason: str, *, scope: Scope | None = None) -> ClientAnswer:
    """Note what a client said of a property: by the agent, or without a scope by the client on their own page. Raises ClientError."""
    if scope is not None:
        require(scope, CLIENTS)
    if what not in ClientAnswer.What.values:
        raise ClientError("Choose what they said of it.")
    plain = " ".join(reason.replace("\x00", "").split())[:300]
    user = scope.user if scope else None
    return ClientAnswer.objects.create(client=client, parcel=parcel, what=what, reason=plain, at=now(), user=user, by_client=scope is None)


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
