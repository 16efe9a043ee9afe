"""A user's private calendar address: given, renewed, ended, and read without signing in."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta
from itertools import chain

from django.db import transaction
from django.db.models import F, QuerySet
from django.db.models.functions import Coalesce

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.accounts.signed_keys import SignedKeys
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.plugins import hooks
from jaded_ledger.plugins.entries import Due
from jaded_ledger.records.clock import now, today
from jaded_ledger.watch.models import CalendarFeed

AHEAD, IN_CALENDAR = timedelta(days=14), timedelta(days=120)
"""How far ahead the page tells, and how far the calendar."""
UNUSED = timedelta(days=60)
"""How long an address works that no program reads: a link found later must show nothing."""
_KEYS = SignedKeys("jaded_ledger.watch.calendar")


def due_until(scope: Scope, ahead: timedelta) -> list[Due]:
    """Return what is due from today on, by day."""
    found = chain.from_iterable(hooks.due(scope=scope, until=scope.today + ahead))
    return sorted(found, key=lambda due: (due.on, due.what))


def feed_of(user: User) -> CalendarFeed | None:
    """Return a user's calendar; None where there is none, or it has ended."""
    return _open_feeds().filter(user=user).first()


def has_lapsed(user: User) -> bool:
    """Return whether a user without a current calendar had one that ended because no program read it."""
    return CalendarFeed.objects.filter(user=user, ended_at=None).exists()


def _open_feeds() -> QuerySet[CalendarFeed]:
    """Return the calendars that can be read: not ended, and read or created recently."""
    return CalendarFeed.objects.filter(ended_at=None).annotate(used=Coalesce("read_at", "made_at")).filter(used__gte=now() - UNUSED)


@transaction.atomic
def renew(user: User) -> CalendarFeed:
    """Give a user a calendar, or the one there is another address: who had the one before reads nothing more."""
    feed, is_new = CalendarFeed.objects.select_for_update().get_or_create(user=user, defaults={"made_at": now()})
    if not is_new:
        CalendarFeed.objects.filter(pk=feed.pk).update(serial=F("serial") + 1, made_at=now(), read_at=None, ended_at=None)
        feed.refresh_from_db()
    return feed


def show(user: User, shows: str) -> None:
    """Set what a user's calendar shows. An unknown choice changes nothing."""
    if shows in CalendarFeed.Shows:
        CalendarFeed.objects.filter(user=user).update(shows=shows)


def end(user: User) -> None:
    """End a user's calendar: its address tells nothing more."""
    CalendarFeed.objects.filter(user=user, ended_at=None).update(ended_at=now())


def key_of(feed: CalendarFeed) -> str:
    """Return what stands in a calendar's address."""
    return _KEYS.key_of(f"{feed.user_id}.{feed.serial}")


def feed_called(key: str) -> CalendarFeed | None:
    """Return the calendar of an address; None where it was renewed, ended, or made up, or where its user may not come in any more."""
    value = _KEYS.value_of(key)
    if value is None:
        return None
    user, _, serial = value.partition(".")
    if (number := whole_number(user)) is None:
        return None
    found = _open_feeds().filter(user_id=number, serial=serial, user__is_active=True, user__team__isnull=False)
    return found.select_related("user__team").first()


def read(feed: CalendarFeed) -> tuple[Scope, list[Due]]:
    """Return what a calendar holds, as its user chose to have it shown; that it was read is noted."""
    CalendarFeed.objects.filter(pk=feed.pk).update(read_at=now())
    user = feed.user
    assert user.team is not None
    scope = Scope(user.team, user, today(user.team.time_zone))
    due = due_until(scope, IN_CALENDAR)
    if feed.shows == CalendarFeed.Shows.DATES:
        due = [replace(one, what=one.kind.capitalize()) for one in due]
    return scope, due
