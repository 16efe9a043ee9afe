"""The table: the matches as rows under headings, and what can be done with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from jaded_ledger.accounts.roles import may
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.traits import Section, Trait
from jaded_ledger.find.acts import TEAM_COLUMNS
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.by_owner import summary_of
from jaded_ledger.find.column_sets import column_sets
from jaded_ledger.find.faces import layout_of
from jaded_ledger.find.hits import SORT as HITS
from jaded_ledger.find.results import PAGE
from jaded_ledger.find.search_page import BY_OWNER, SearchPage
from jaded_ledger.find.selections import selection_acts
from jaded_ledger.find.sorting import MOST, Sort, known_sorts, sorts_text
from jaded_ledger.plugins import hooks, in_order
from jaded_ledger.records.models import County
from jaded_ledger.records.own_columns import traits_of


@dataclass(frozen=True)
class Heading:
    """A column: its trait, and how the table is sorted by it.

    ``alone`` and ``also`` are what the rows are sorted by when it is chosen in place of the others, or after them; ``place`` says which
    of several it is, from 1.
    """

    trait: Trait
    alone: str
    also: str
    sorted: str = ""
    place: int | None = None
    width: int | None = None
    """In CSS pixels, where the user made it wider or narrower."""
    summary: str = ""
    """What the column says of several parcels together: their total, their median."""

    @property
    def label(self) -> str:
        return f"{self.trait.label}, {self.summary}" if self.summary else self.trait.label


def heading(trait: Trait, sorts: Sequence[Sort]) -> Heading:
    """Return a column's heading. Figures sort largest first at the first click, words from A; each further click turns the order."""
    place = next((place for place, sort in enumerate(sorts) if sort.key == trait.key), None)
    if place is None:
        fresh = Sort(trait.key, trait.is_range)
        return Heading(trait, str(fresh), sorts_text([*sorts, fresh][-MOST:]))
    now = sorts[place]
    turned = replace(now, largest_first=not now.largest_first)
    also = sorts_text([turned if sort is now else sort for sort in sorts])
    direction = "descending" if now.largest_first else "ascending"
    return Heading(trait, str(turned), also, direction, place + 1 if len(sorts) > 1 else None)


def in_sections(traits: Sequence[Trait]) -> list[tuple[Section, list[Trait]]]:
    """Return traits by their sections, in the order in which they are browsed."""
    return [(section, [trait for trait in traits if trait.section is section]) for section in dict.fromkeys(one.section for one in traits)]


def columns_context(answer: Answer) -> dict[str, Any]:
    """Return what the box of columns needs: those shown, all others by section, and the sets that were kept."""
    offered = traits_of(answer.counties)
    return {
        "chosen_columns": [CATALOGUE[key] for key in answer.columns],
        "sections": in_sections([trait for trait in offered if trait.key not in answer.columns]),
        **sets_context(answer.scope),
    }


def sets_context(scope: Scope) -> dict[str, Any]:
    """Return what the sets of columns need."""
    return {"column_sets": column_sets(scope), "may_change": may(scope, TEAM_COLUMNS)}


def _by_county(answer: Answer) -> list[tuple[County, str]]:
    """Return the counties there are, each with the address of a search of it alone."""
    return [(one, SearchPage(Search((one.name,))).address(answer.scope.team)) for one in answer.counties]


def table_context(answer: Answer) -> dict[str, Any]:
    """Return what the table's template needs beside the ledger's context; of an empty Find what it offers in the place of rows."""
    if answer.asked.asks_nothing and answer.balance.opening:
        return {"offers": in_order(hooks.first_visit(scope=answer.scope)), "by_county": _by_county(answer)}
    asked, shown = answer.asked, answer.rows or answer.owner_rows
    sorts, widths = known_sorts(asked.sort), layout_of(answer.scope.user).column_widths
    is_by_owner = asked.by == BY_OWNER
    missing = [key for key in asked.search.traits() if key not in answer.columns and key not in ("address", "parcel-number")]
    return {
        "rows": shown,
        "rows_there": answer.rows_there,
        "is_by_owner": is_by_owner,
        "page": answer.page,
        "pages": answer.pages,
        "first": (answer.page - 1) * PAGE + 1,
        "last": (answer.page - 1) * PAGE + len(shown),
        "headings": [
            replace(heading(trait, sorts), width=widths.get(trait.key), summary=summary_of(trait) if is_by_owner else "")
            for trait in (CATALOGUE[key] for key in answer.columns)
        ],
        "address_heading": heading(CATALOGUE["street"], sorts),
        "phrases": answer.phrases,
        "is_by_hits": any(sort.key == HITS for sort in sorts),
        "unshown": [CATALOGUE[key] for key in missing],
        "alternatives": answer.alternatives,
        "selection_acts": selection_acts(),
    }
