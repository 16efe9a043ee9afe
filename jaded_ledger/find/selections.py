"""What was chosen from a search, kept under an address of its own."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find.columns import shown_columns
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.models import Selection
from jaded_ledger.find.named_things import search_from, stored_text
from jaded_ledger.find.parcels import parcels
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.plugins.entries import SelectionAct
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.versions import facts_version


def selection_acts() -> list[SelectionAct]:
    """Return what can be done with a selection, in order."""
    return in_order(hooks.selection_acts())


def keep(scope: Scope, search_page: SearchPage, parcel_ids: Sequence[int], *, is_all: bool) -> Selection:
    """Keep a selection: the parcels named, or all matches but those. Raises ValueError when it names none."""
    if not is_all and not parcel_ids:
        raise ValueError("nothing is chosen")
    return Selection.objects.create(
        team=scope.team,
        user=scope.user,
        made_at=now(),
        search=stored_text(search_page.search, scope.team),
        columns=list(shown_columns(search_page, scope)),
        sort=search_page.sort,
        is_all=is_all,
        parcel_ids=sorted(set(parcel_ids)),
        facts_version=facts_version(),
    )


def parcels_of(selection: Selection, scope: Scope) -> QuerySet[ParcelFacts]:
    """Return the parcels of a selection as they stand now. Raises CriteriaError when its search no longer can be asked."""
    return chosen_from(search_from(selection.search, scope.team), scope, selection.parcel_ids, is_all=selection.is_all)


def chosen_from(search: Search, scope: Scope, parcel_ids: Sequence[int], *, is_all: bool) -> QuerySet[ParcelFacts]:
    """Return the parcels named, or all matches of a search but those."""
    if not is_all:
        return parcels(scope).filter(parcel__in=parcel_ids)
    # The parcel is the row's key and never unknown, so leaving out is plain here.
    return compile(search, scope).matches.exclude(parcel__in=parcel_ids)


def has_aged(selection: Selection) -> bool:
    """Whether facts were derived anew since the selection was made."""
    return selection.facts_version != facts_version()
