"""What Find adds to the program."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from django.urls import reverse

from jaded_ledger.accounts.audit import Audited, AuditKind
from jaded_ledger.accounts.deletion import Deletion
from jaded_ledger.accounts.roles import Act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.acts import ACTS, PHRASE_BOOKS
from jaded_ledger.find.models import PhraseChange, PhraseCorrection
from jaded_ledger.find.phrase_views import CORRECTIONS
from jaded_ledger.find.rows_by_hand import TRAITS, join_parcels
from jaded_ledger.find.table import table_context
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Face, NavigationPlace


@hookimpl
def acts() -> tuple[Act, ...]:
    return ACTS


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("find", "Find", "funnel", "find:find", 10)]


@hookimpl
def audited(scope: Scope, begins: datetime, ends: datetime) -> Iterator[Audited]:
    for one in PhraseChange.objects.filter(team=scope.team, at__gte=begins, at__lt=ends).select_related("user"):
        yield Audited(one.at, one.user.username if one.user else "", AuditKind.SETTING, f"phrase book, {one.get_verb_display()}: {one.key}")
    for row in PhraseCorrection.objects.filter(team=scope.team, at__gte=begins, at__lt=ends).select_related("user"):
        yield Audited(row.at, row.user.username if row.user else "", AuditKind.SETTING, f"phrase book, corrected: {row.phrase}")


@hookimpl
def deletions() -> list[Deletion]:
    return [Deletion(PhraseCorrection, PHRASE_BOOKS, lambda _: f"{reverse('find:phrases')}?group={CORRECTIONS}")]


@hookimpl
def faces() -> list[Face]:
    return [Face("table", "Table", "find/faces/table.html", table_context, 10, redrawn=True)]


@hookimpl
def pages() -> dict[str, str]:
    return {"find": "find:find", "meanings": "find:meanings"}


@hookimpl
def team_traits() -> list[TeamTrait]:
    return list(TRAITS)


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    join_parcels(before, after)
