"""From a property to the clients whose searches it fits, and those that it misses by one line."""

from __future__ import annotations

from dataclasses import dataclass

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients.models import ClientSearch, Showing
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.find.answers_by_parcel import answers_of_parcel
from jaded_ledger.find.by_a_hair import missed_by
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.line_answers import TRUE
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches.services import current_version, page_of


@dataclass(frozen=True)
class Fit:
    """A client's search that a property fits, or misses by one line: ``misses`` says what it has of what that asks."""

    of: ClientSearch
    misses: str
    shown: Showing | None


def fits_of(parcel: Parcel, scope: Scope) -> list[Fit]:
    """Return the clients whom a property would suit, those that it fits first. Clients left out of that are not in it."""
    found = []
    every = ClientSearch.objects.filter(
        client__team=scope.team, client__deleted_at=None, client__is_left_out=False, search__deleted_at=None
    ).select_related("client", "search")
    shown = {one.client_id: one for one in Showing.objects.filter(client__team=scope.team, parcel=parcel).order_by("at", "id")}
    for of in every:
        misses = _misses(of, parcel, scope)
        if misses is not None:
            found.append(Fit(of, misses, shown.get(of.client_id)))
    return sorted(found, key=lambda one: (bool(one.misses), one.of.client.name.casefold(), one.of.pk))


def _misses(of: ClientSearch, parcel: Parcel, scope: Scope) -> str | None:
    """Return what a property lacks for a client's search: nothing, one line, or None for more."""
    try:
        search = page_of(current_version(of.search), scope).search
        answers = answers_of_parcel(compile(search, scope), parcel.pk)
    except CriteriaError:
        return None
    if answers is None:
        return None
    missed = [place for place, one in enumerate(answers) if one != str(TRUE)]
    applied = [place for place, line in enumerate(search.lines) if line.is_applied]
    if len(missed) > 1 or (missed and len(applied) == 1):
        return None
    return missed_by(search, applied[missed[0]], parcel.pk, scope) if missed else ""
