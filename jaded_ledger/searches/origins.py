"""Where a page of Find came from: a saved search, by its number, or a starter, by its key."""

from __future__ import annotations

from difflib import get_close_matches

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import SearchError, current_version, page_of, searches_of
from jaded_ledger.searches.starters import BY_KEY, Starter


def search_of_origin(origin: str, scope: Scope) -> SavedSearch | None:
    """Return the saved search that a page of Find came from; None where it came from none, or from one that is gone."""
    number = whole_number(origin)
    return searches_of(scope).filter(pk=number).first() if number is not None else None


def starter_of_origin(origin: str) -> Starter | None:
    """Return the starter search that a page of Find came from, if it came from one."""
    return BY_KEY.get(origin)


def named_page(name: str, scope: Scope) -> SearchPage:
    """Return the saved search of a name as a page of Find, or the starter of a name or key. Raises SearchError and CriteriaError."""
    found = list(searches_of(scope).filter(name__iexact=name))
    if len(found) > 1:
        owners = ", ".join(str(one.owner) for one in found)
        raise SearchError(f"several searches are called “{name}” (of {owners}); give one of them another name")
    if found:
        return page_of(current_version(found[0]), scope)
    starter = BY_KEY.get(name) or next((one for one in BY_KEY.values() if one.name.casefold() == name.casefold()), None)
    if starter is None:
        names = [*searches_of(scope).values_list("name", flat=True), *(one.name for one in BY_KEY.values())]
        nearest = get_close_matches(name, names, 1)
        raise SearchError(
            f"there is no search “{name}”" + (f"; did you mean “{nearest[0]}”?" if nearest else "; bin/manage searches lists them")
        )
    return SearchPage(starter.search, starter.columns, origin=starter.key)
