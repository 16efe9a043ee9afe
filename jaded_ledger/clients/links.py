"""The addresses of clients' own pages: signed, until a day, revoked at will; each opening is noted."""

from __future__ import annotations

from datetime import timedelta

from django.db import transaction

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.accounts.signed_keys import SignedKeys
from jaded_ledger.clients.acts import CLIENTS
from jaded_ledger.clients.models import Client, ClientLink, ClientSettings, LinkOpening
from jaded_ledger.records.clock import now

_KEYS = SignedKeys("jaded_ledger.clients.page")
LINK_DAYS = 30


def current_link(client: Client) -> ClientLink | None:
    """Return the link that opens a client's page now."""
    last = ClientLink.objects.filter(client=client).first()
    return last if last and last.revoked_at is None and last.ends_at > now() else None


def _new_link(client: Client) -> ClientLink:
    found = ClientSettings.objects.filter(team=client.team_id).first()
    days = found.link_days if found else LINK_DAYS
    return ClientLink.objects.create(client=client, made_at=now(), ends_at=now() + timedelta(days))


@transaction.atomic
def renew(scope: Scope, client: Client) -> ClientLink:
    """Give a client's page another address: the one before opens nothing more."""
    require(scope, CLIENTS)
    revoke(scope, client)
    return _new_link(client)


def revoke(scope: Scope, client: Client) -> None:
    """Have a client's page be opened by nobody."""
    require(scope, CLIENTS)
    ClientLink.objects.filter(client=client, revoked_at=None).update(revoked_at=now())


def key_of(link: ClientLink) -> str:
    return _KEYS.key_of(str(link.pk))


def link_for_mail(client: Client) -> str:
    """Return the key that a mail leads to a client's page by: that of the link there is, or of a new one."""
    return key_of(current_link(client) or _new_link(client))


def link_called(key: str) -> ClientLink | None:
    """Return the link of a key; None for one that is made up, has ended, was revoked, or has another after it."""
    value = _KEYS.value_of(key)
    if value is None:
        return None
    link = ClientLink.objects.filter(pk=value, client__deleted_at=None).select_related("client__team", "client__agent").first()
    return link if link and current_link(link.client) == link else None


def note_opening(link: ClientLink) -> None:
    LinkOpening.objects.create(link=link, at=now())
