"""Series: begun from a mailing that was made, their next mailings prepared when they are due, ended and gone on with."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings.acts import SERIES
from jaded_ledger.mailings.mailing_terms import MailingError
from jaded_ledger.mailings.mailings import begin, terms_to_repeat
from jaded_ledger.mailings.models import Mailing, Series
from jaded_ledger.mailings.stopped import first_pieces
from jaded_ledger.plugins.entries import Due
from jaded_ledger.records.clock import now

MOST_DAYS, MOST_ROUNDS = 730, 24


@dataclass(frozen=True)
class Standing:
    """A series: how many of its mailings were made, the draft of the next where it is prepared, and whether it is due."""

    series: Series
    made: int
    draft: Mailing | None
    is_due: bool


def series_of(scope: Scope) -> QuerySet[Series]:
    """Return the team's series, those that are due first."""
    return Series.objects.filter(team=scope.team).prefetch_related("mailings")


def standings(scope: Scope) -> list[Standing]:
    """Return the series that go on, those that are due first."""
    found = []
    for series in series_of(scope).filter(ended_at=None, next_on__isnull=False):
        rounds = [one for one in series.mailings.all() if one.deleted_at is None]
        made = max((one.round for one in rounds if one.made_at), default=0)
        draft = next((one for one in rounds if one.made_at is None), None)
        assert series.next_on is not None
        found.append(Standing(series, made, draft, series.next_on <= scope.today))
    return found


def _whole(text: str, what: str, least: int, most: int) -> int:
    found = whole_number(text.strip())
    if found is None or not least <= found <= most:
        raise MailingError(f"{what} is a whole number from {least} to {most}, not “{text.strip()[:12]}”")
    return found


@transaction.atomic
def begin_series(scope: Scope, mailing: Mailing, every_days: str, rounds: str) -> Series:
    """Have a made mailing be the first of a series. Raises MailingError and PermissionDenied."""
    require(scope, SERIES)
    days = _whole(every_days, "the number of days between two", 1, MOST_DAYS)
    count = _whole(rounds, "how many in all", 2, MOST_ROUNDS)
    kept = Mailing.objects.select_for_update().get(pk=mailing.pk)
    if kept.made_on is None:
        raise MailingError("make the mailing first: a series goes on from one that was made")
    if kept.series_id is not None:
        raise MailingError(f"{kept.name} is of a series already")
    series = Series.objects.create(
        team=scope.team, user=scope.user, name=kept.name, begun_at=now(), every_days=days, rounds=count,
        next_on=kept.made_on + timedelta(days=days),
    )  # fmt: skip
    kept.series, kept.round = series, 1
    kept.save(update_fields=["series", "round"])
    return series


@transaction.atomic
def begin_round(scope: Scope, series: Series) -> Mailing:
    """Prepare the next mailing of a series, or return the one that is prepared. Raises MailingError and PermissionDenied."""
    require(scope, SERIES)
    Series.objects.select_for_update().get(pk=series.pk)
    standing = next((one for one in standings(scope) if one.series == series), None)
    if standing is None:
        raise MailingError(f"the series {series.name} has ended")
    if standing.draft:
        return standing.draft
    last = series.mailings.get(round=standing.made, deleted_at=None)
    parcels = {parcel for piece in first_pieces(series) for parcel in (piece.parcel_id, *piece.parcels)}
    page = SearchPage(search_from(last.selection.search, scope.team), None, last.selection.sort)
    terms = terms_to_repeat(last) | {"mailed_within": min(last.mailed_within, series.every_days)}
    mailing = begin(scope, keep(scope, page, sorted(parcels), is_all=False), **terms)
    mailing.series, mailing.round = series, standing.made + 1
    mailing.name = f"{series.name[:60]}, no. {mailing.round}"
    mailing.save(update_fields=["series", "round", "name"])
    return mailing


def end_series(scope: Scope, series: Series) -> None:
    """End a series before its last mailing. Raises PermissionDenied."""
    require(scope, SERIES)
    Series.objects.filter(pk=series.pk, ended_at=None).update(ended_at=now())


def continue_series(scope: Scope, series: Series) -> None:
    """Undo that a series was ended. Raises PermissionDenied."""
    require(scope, SERIES)
    Series.objects.filter(pk=series.pk).update(ended_at=None)


def due_mailings(scope: Scope, until: date) -> Iterator[Due]:
    """Yield the mailings of series that are due from today to a day; what is overdue is due today."""
    for standing in standings(scope):
        series = standing.series
        if series.next_on is not None and series.next_on <= until:
            what = f"mailing due: {series.name}, no. {standing.made + 1} of {series.rounds}"
            yield Due(max(series.next_on, scope.today), "mailing due", what)
