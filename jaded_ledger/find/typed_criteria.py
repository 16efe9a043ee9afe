"""What is typed or chosen as a criterion: what it means here, and whether any record has the name that it asks for."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import CriteriaError, parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.neighbors import neighbors
from jaded_ledger.find.suggestions import first_of, offered
from jaded_ledger.find.unrecorded_names import check_names


@dataclass(frozen=True)
class Typed:
    """What was typed means: ``criteria`` to be added, or where they are None the trait whose editor ``opens`` for its value."""

    criteria: Search | None
    opens: str = ""


def criteria_of(text: str) -> Search:
    """Return the criteria of a text to be added. Raises CriteriaError."""
    added = parse(text)
    if not added.counties and not added.lines:
        raise CriteriaError("nothing is typed yet; write a trait, a value, a street or an owner")
    return added


def check_recorded(added: Search, search: Search, scope: Scope) -> None:
    """Raise CriteriaError where what is added to a search asks for a name that no record in its counties has."""
    counties = compile(replace(added, counties=added.counties or search.counties), scope).counties
    for criterion in added:
        check_names(criterion, counties, scope)


def meaning_of(typed: str, search: Search, scope: Scope, opens: str = "") -> Typed:
    """Return what was typed in the box and sent without waiting for what it offers: what it would have offered first.

    ``opens`` is the trait that was taken before and waits for its value. Raises CriteriaError.
    """
    typed = typed.strip()
    if not typed or ":" in typed:
        return Typed(criteria_of(typed), opens)
    if opens and (value := _value_of(opens, typed, search, scope)):
        return Typed(value)
    offer = offered(typed, search, scope)
    first = first_of(offer, typed)
    if offer.reading and (near := neighbors(offer.reading, search, scope)):
        options = ", ".join(f"{one.label} finds {one.count:,}" for one in near)
        raise CriteriaError(f"“{typed}” finds nothing; {options}. Choose with ↓, or write it otherwise", word=typed)
    return Typed(criteria_of(first.line), opens) if first.line else Typed(None, first.trait.key)


def _value_of(trait: str, typed: str, search: Search, scope: Scope) -> Search | None:
    """Return the criterion of a trait with what was typed as its value; None where it is no value of it."""
    try:
        value = criteria_of(f"{trait}: {typed}")
        check_recorded(value, search, scope)
    except CriteriaError:
        return None
    return value
