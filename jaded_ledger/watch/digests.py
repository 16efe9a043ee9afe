"""What is new, as a mail: written once for what was not mailed yet, sent until it has left, and ended without signing in."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

from django.db import transaction
from django.template.loader import render_to_string
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.outbox import TRIED_FOR, UnsendableError, send_waiting
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.accounts.signed_keys import SignedKeys
from jaded_ledger.accounts.team_mail import TeamMail, absolute, headers_of
from jaded_ledger.core.watching.news import NewsKind
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.clock import now, today
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.searches.services import searches_of
from jaded_ledger.watch.models import Digest, Watch
from jaded_ledger.watch.news import EditTold, Item, Window, edits_in, unread
from jaded_ledger.watch.reasons import Reason, reason_of

MOST_ROWS = 20
"""Of one search; the page has all."""
_KEYS = SignedKeys("jaded_ledger.watch.digest")


@dataclass(frozen=True)
class MailedRow:
    """A row of a mail: which property, what is new about it and why."""

    item: Item
    place: str
    reason: Reason
    address: str


@dataclass(frozen=True)
class MailedSearch:
    """A search in a mail: how many rows of each kind, the first of them, and how many more the page has."""

    watch: Watch
    counts: tuple[tuple[int, str], ...]
    rows: tuple[MailedRow, ...]
    more: int
    edits: tuple[EditTold, ...]


def counts_of(items: list[Item]) -> tuple[tuple[int, str], ...]:
    """Return how many rows there are of each kind that there is any of."""
    counts = {kind: sum(one.news.kind is kind for one in items) for kind in NewsKind}
    return tuple((count, kind.value) for kind, count in counts.items() if count)


def _mailed(watch: Watch, items: list[Item], edits: list[EditTold], scope: Scope) -> MailedSearch:
    some = items[:MOST_ROWS]
    facts = {one.pk: one for one in ParcelFacts.objects.filter(pk__in=among_ids([one.parcel_id for one in some])).select_related("address")}
    rows = []
    for one in some:
        place = facts[one.parcel_id].street_line if one.parcel_id in facts else ""
        link = absolute(reverse("properties:property", args=[one.parcel_id]))
        rows.append(MailedRow(one, place or "a property without an address", reason_of(one, scope), link))
    return MailedSearch(watch, counts_of(items), tuple(rows), len(items) - len(some), tuple(edits))


@transaction.atomic
def write_digest(user: User) -> Digest | None:
    """Write a mail of what a user wants mailed and was neither mailed nor read; None where there is nothing."""
    assert user.team is not None
    scope = Scope(user.team, user, today(user.team.time_zone))
    every = Watch.objects.select_for_update(of=("self",)).filter(user=user, by_mail=True, paused_at=None, search__in=searches_of(scope))
    watches = [one for one in every.select_related("search") if one.told_to > one.mailed_to]
    if not watches:
        return None
    items = unread(watches, mailed=True)
    edits = edits_in(watches, {one.pk: Window(one.mailed_to, one.told_to) for one in watches})
    for watch in watches:
        Watch.objects.filter(pk=watch.pk).update(mailed_to=watch.told_to)
    if not items and not edits:
        return None
    by_watch = {key: list(rows) for key, rows in groupby(items, key=lambda one: one.watch.pk)}
    mailed = [
        _mailed(watch, by_watch.get(watch.pk, []), [one for one in edits if one.watch is watch], scope)
        for watch in sorted(watches, key=lambda one: one.search.name.casefold())
        if watch.pk in by_watch or any(one.watch is watch for one in edits)
    ]
    rows = len({one.parcel_id for one in items})
    context = {
        "searches": mailed, "rows": rows, "user": user, "day": scope.today, "page": absolute(reverse("watch:morning")),
        "unsubscribe": unsubscribe_address(user),
    }  # fmt: skip
    return Digest.objects.create(
        user=user,
        made_at=now(),
        rows=rows,
        subject=_subject(mailed, rows),
        text=render_to_string("watch/digest.txt", context),
        html=render_to_string("watch/digest.html", context),
    )


def _subject(mailed: list[MailedSearch], rows: int) -> str:
    """Return what the mail is about: of one search its counts, of several how many rows in how many."""
    if len(mailed) == 1:
        counts = ", ".join(f"{count:,} {kind}" for count, kind in mailed[0].counts) or "edited"
        return f"{mailed[0].watch.search.name}: {counts}"
    return f"{rows:,} propert{'y' if rows == 1 else 'ies'} in {len(mailed)} searches"


def send_unsent() -> int:
    """Send what was written and has not left; return how many mails left."""
    waiting = Digest.objects.filter(sent_at=None, made_at__gt=now() - TRIED_FOR).select_related("user__team")
    return send_waiting("sending mails of watched searches", waiting, _composed)


def _composed(digest: Digest) -> TeamMail:
    """Return a digest as it leaves. Raises UnsendableError."""
    user = digest.user
    if not user.email or user.team is None:
        raise UnsendableError("The account has no email address or no team.")
    headers = headers_of(f"morning-{digest.pk}-{digest.made_at:%Y%m%d%H%M%S}", digest.made_at, unsubscribe_address(user))
    return TeamMail(user.team, [user.email], digest.subject, digest.text, digest.html, headers=headers)


def unsubscribe_address(user: User) -> str:
    """Return where a user ends these mails without signing in."""
    return absolute(reverse("watch:unsubscribe", args=[_KEYS.key_of(str(user.pk))]))


def user_of_key(key: str) -> User | None:
    """Return whose mails a key ends; None for one that is made up."""
    value = _KEYS.value_of(key)
    return None if value is None else User.objects.filter(pk=value).first()


def unsubscribe(user: User) -> None:
    """Mail a user nothing more of what they watch; it is told on the page."""
    Watch.objects.filter(user=user).update(by_mail=False)
