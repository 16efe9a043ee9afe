"""Who came in, what they took out, and what they changed for the whole team: for the team's owner to look through."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from enum import StrEnum
from itertools import chain
from typing import Any
from zoneinfo import ZoneInfo

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.dispatch import receiver
from django.http import HttpRequest

from jaded_ledger.accounts.models import AuditEntry, User
from jaded_ledger.accounts.roles import TEAM_OWNERS, Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.accounts.sign_in import client_address
from jaded_ledger.plugins import hooks
from jaded_ledger.records.clock import now

AUDIT = Act("audit", "look through who did what", "what others did it doesn't look through", TEAM_OWNERS)


class AuditKind(StrEnum):
    SIGN_IN = "sign-in"
    CONTACTS_SEEN = "contacts seen"
    TAKEN_OUT = "taken out"
    BULK_ACT = "bulk act"
    SETTING = "setting"


@dataclass(frozen=True)
class Audited:
    """Something that somebody did: when, who (blank for the command line), of what kind, what, and of how many rows."""

    at: datetime
    who: str
    kind: AuditKind
    what: str
    count: int | None = None
    address: str = ""


@dataclass(frozen=True)
class AuditFilter:
    """What of it somebody wants to see: from one day through another, of one kind, of one user; blank for all."""

    since: date
    until: date
    kind: str = ""
    who: str = ""

    def span(self, scope: Scope) -> tuple[datetime, datetime]:
        """Return the first moment and the one after the last, in the team's time."""
        zone = ZoneInfo(scope.team.time_zone)
        begins, ends = (datetime.combine(day, time(), zone) for day in (self.since, self.until + timedelta(days=1)))
        return begins, ends


def audited(scope: Scope, asked: AuditFilter) -> list[Audited]:
    """Return what a team's people did, the newest first."""
    begins, ends = asked.span(scope)
    given: Iterable[Iterable[Audited]] = hooks.audited(scope=scope, begins=begins, ends=ends)
    wanted = (one for one in chain.from_iterable(given) if asked.kind in ("", one.kind) and asked.who in ("", one.who))
    return sorted(wanted, key=lambda one: one.at, reverse=True)


def note(scope: Scope, kind: AuditKind, what: str) -> None:
    """Note what somebody did that is kept nowhere else."""
    AuditEntry.objects.create(team=scope.team, user=scope.user, at=now(), kind=kind, what=what[:200])


def entries_of(scope: Scope, begins: datetime, ends: datetime) -> Iterable[Audited]:
    """Return what was noted."""
    for one in AuditEntry.objects.filter(team=scope.team, at__gte=begins, at__lt=ends).select_related("user"):
        yield Audited(one.at, one.user.username if one.user else "", AuditKind(one.kind), one.what, None, one.address or "")


def note_of(user: User, what: str, request: HttpRequest | None, kind: AuditKind = AuditKind.SIGN_IN) -> None:
    """Note what a user did to come in, or at their own pages, and from where."""
    if user.team_id:
        address = client_address(request) or None if request else None
        AuditEntry.objects.create(team_id=user.team_id, user=user, at=now(), kind=kind, what=what[:200], address=address)


@receiver(user_logged_in)
def _note_in(user: User, request: HttpRequest, **_: Any) -> None:
    note_of(user, "signed in", request)


@receiver(user_logged_out)
def _note_out(user: User | None, request: HttpRequest, **_: Any) -> None:
    if user is not None:
        note_of(user, "signed out", request)


@receiver(user_login_failed)
def _note_failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    # Tries that are not taken are told by none: they would fill it.
    if request is None or getattr(request, "axes_locked_out", False):
        return
    if user := User.objects.filter(username=credentials.get("username") or "").first():
        note_of(user, "wrong password", request)
