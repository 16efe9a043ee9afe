"""What the team's mailings brought: each mailing, each letter, and each search, list and starter that they went to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db.models import Count

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.mail.response import Brought, together
from jaded_ledger.find.named_things import current_text, search_from
from jaded_ledger.mailings.letter_fields import lists_in
from jaded_ledger.mailings.models import Mailing, MailPiece, PieceOutcome
from jaded_ledger.searches.starters import starter_of

_SHOWN = 6
OUTCOMES = (PieceOutcome.Kind.REPLY, PieceOutcome.Kind.MEETING, PieceOutcome.Kind.LISTING, PieceOutcome.Kind.DEAL)
"""What is hoped for, the nearest first. A piece that came to a later one came to those before it, too."""


REPLY, *_LATER = OUTCOMES


def row_of(brought: Brought, pk: int | None = None) -> dict[str, Any]:
    """Return what was brought as a row of a table shows it, with the mailing's id where it is one."""
    return {
        "pk": pk, "label": brought.label, "pieces": brought.pieces, "cost": brought.cost, "share": brought.share_of(REPLY),
        "replies": brought.outcomes.get(REPLY, 0), "reply_costs": brought.cost_per(REPLY),
        "later": [(brought.outcomes.get(kind, 0), brought.cost_per(kind), brought.share_of(kind)) for kind in _LATER],
    }  # fmt: skip


@dataclass(frozen=True)
class Response:
    """What a mailing brought, and the search that it went to, as its lines read now; ``asked`` is None where it can't be read any more."""

    mailing: Mailing
    search: str
    asked: Search | None
    brought: Brought


def responses(scope: Scope) -> list[Response]:
    """Return what each made mailing brought, the newest first."""
    made = Mailing.objects.filter(**_of_made(scope)).select_related("selection")
    counts: dict[int, dict[str, int]] = defaultdict(dict)
    noted = PieceOutcome.objects.filter(undone_at=None, **_of_made(scope, "piece__mailing__")).order_by()
    for mailing, kind, count in noted.values_list("piece__mailing", "kind").annotate(count=Count("piece", distinct=True)):
        counts[mailing][kind] = count
    return [
        Response(one, *_search(one, scope), Brought(one.name, one.pieces_made, one.cost, counts[one.pk]))
        for one in made.order_by("-made_at", "-pk")
    ]


def _of_made(scope: Scope, by: str = "") -> dict[str, Any]:
    """Return the condition that a mailing, reached so, was made by the team."""
    return {f"{by}team": scope.team, f"{by}deleted_at": None, f"{by}made_at__isnull": False}


def _search(mailing: Mailing, scope: Scope) -> tuple[str, Search | None]:
    try:
        return current_text(mailing.selection.search, scope.team), search_from(mailing.selection.search, scope.team)
    except CriteriaError:
        return mailing.selection.search, None


def cheapest_first(given: Iterable[Brought]) -> list[Brought]:
    """Return those that cost least a reply first; those without a reply last."""
    return sorted(given, key=lambda one: (one.cost_per(REPLY) is None, one.cost_per(REPLY) or 0, one.label))


def brought_together(given: Iterable[Response], names: Callable[[Response], Iterable[str]]) -> list[Brought]:
    """Return what the mailings of each name brought together, those that cost least a reply first. A mailing may have several names."""
    groups: dict[str, list[Brought]] = defaultdict(list)
    for one in given:
        for name in names(one):
            groups[name].append(one.brought)
    return cheapest_first(together(name, several) for name, several in groups.items())


def search_named(one: Response) -> Iterable[str]:
    """Return the search that a mailing went to."""
    return [one.search]


def lists_named(one: Response) -> Iterable[str]:
    """Return the lists that a mailing went to."""
    return dict.fromkeys(lists_in(one.asked)) if one.asked is not None else ()


def starter_named(one: Response) -> Iterable[str]:
    """Return the starter search that a mailing's search asks all of."""
    starter = starter_of(one.asked) if one.asked is not None else None
    return [starter.name] if starter else ()


def brought_by_letters(scope: Scope) -> list[Brought]:
    """Return what each letter brought, in all mailings: of a mailing's cost each has its pieces' share."""
    pieces = MailPiece.objects.filter(letter__isnull=False, **_of_made(scope, "mailing__")).order_by()
    names = dict(pieces.values_list("letter__letter_id", "letter__letter__name").distinct())
    sent: dict[int, int] = defaultdict(int)
    cost: dict[int, Decimal] = defaultdict(Decimal)
    by_mailing = pieces.values_list("letter__letter_id", "mailing__cost", "mailing__pieces_made", "mailing").annotate(count=Count("pk"))
    for letter, total, made, _, count in by_mailing:
        sent[letter] += count
        cost[letter] += total * count / made
    outcomes: dict[int, dict[str, int]] = defaultdict(dict)
    noted = PieceOutcome.objects.filter(piece__letter__isnull=False, undone_at=None, **_of_made(scope, "piece__mailing__")).order_by()
    for letter, kind, count in noted.values_list("piece__letter__letter_id", "kind").annotate(count=Count("piece", distinct=True)):
        outcomes[letter][kind] = count
    cents = Decimal("0.01")
    return cheapest_first(Brought(names[one], count, cost[one].quantize(cents), outcomes[one]) for one, count in sent.items())


def brought_by(mailing: Mailing, scope: Scope) -> list[Brought]:
    """Return what the earlier mailings to the same search, or to a list of it, brought, the newest first."""
    search, asked = _search(mailing, scope)
    lists = set(lists_in(asked)) if asked is not None else set()
    found = []
    for one in responses(scope):
        is_of_list = one.asked is not None and not lists.isdisjoint(lists_in(one.asked))
        if one.mailing.pk != mailing.pk and (one.search == search or is_of_list):
            found.append(one.brought)
    return found[:_SHOWN]
