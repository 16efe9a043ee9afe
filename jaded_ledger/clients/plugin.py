"""What clients add to the program."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import date
from typing import Any

from django.urls import reverse

from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients.acts import ACTS, CLIENTS
from jaded_ledger.clients.clients import clients_of
from jaded_ledger.clients.mails import parcels_of
from jaded_ledger.clients.models import Client, ClientAnswer, ClientMail, Showing
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Due, Happening, PropertySection
from jaded_ledger.records.models import Parcel


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def deletions() -> list[Deletion]:
    return [Deletion(Client, CLIENTS, lambda client: reverse("clients:client", args=[client.pk]))]


@hookimpl
def pages() -> dict[str, str]:
    return {"clients": "clients:all"}


def _fits(parcel: Parcel, scope: Scope) -> Mapping[str, Any]:
    return {"parcel": parcel, "are_any": clients_of(scope).filter(is_left_out=False, searches__isnull=False).exists()}


@hookimpl
def property_sections() -> list[PropertySection]:
    return [PropertySection("clients", "Clients it would suit", "clients/_section.html", _fits, 25)]


@hookimpl
def due(scope: Scope, until: date) -> Iterator[Due]:
    waiting = ClientMail.objects.filter(
        of__client__team=scope.team, of__client__deleted_at=None, sent_at=None, dropped_at=None, approved_at=None
    )
    for mail in waiting.select_related("of__client"):
        count = len(parcels_of(mail))
        what = f"mail to {mail.of.client} ready for review, {count} listing{'' if count == 1 else 's'}"
        yield Due(scope.today, "mail to review", what)


@hookimpl
def happened(parcel: Parcel, scope: Scope) -> Iterator[Happening]:
    for showing in Showing.objects.filter(client__team=scope.team, parcel=parcel).select_related("client"):
        yield Happening(showing.at, f"{showing.get_way_display()} to {showing.client}, no. {showing.number} of theirs")
    for answer in ClientAnswer.objects.filter(client__team=scope.team, parcel=parcel).select_related("client", "user"):
        said = f"{answer.client} {answer.get_what_display()}" if answer.what != ClientAnswer.What.NO else f"{answer.client} says no"
        who = answer.user.display_name if answer.user else ""
        yield Happening(answer.at, f"{said}{f': {answer.reason}' if answer.reason else ''}", who)


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    for model in (Showing, ClientAnswer):
        model._default_manager.filter(parcel=before).update(parcel=after)
