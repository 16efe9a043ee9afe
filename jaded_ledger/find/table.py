"""The table: the matches as rows under headings, and what can be done with them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Section, Trait
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.hits import SORT as HITS
from jaded_ledger.find.results import PAGE
from jaded_ledger.find.selections import selection_acts
from jaded_ledger.records.own_columns import traits_of


@dataclass(frozen=True)
class Heading:
    """A column: its trait, whether and how the table is sorted by it."""

    trait: Trait
    next_sort: str
    sorted: str


def heading(trait: Trait, sort: str) -> Heading:
    """Return a column's heading. Figures sort largest first at the first click, words from A."""
    up, down = trait.key, f"-{trait.key}"
    first, second = (down, up) if trait.is_figure else (up, down)
    return Heading(trait, second if sort == first else first, {up: "ascending", down: "descending"}.get(sort, ""))


def in_sections(traits: Sequence[Trait]) -> list[tuple[Section, list[Trait]]]:
    """Return traits by their sections, in the order in which they are browsed."""
    return [(section, [trait for trait in traits if trait.section is section]) for section in dict.fromkeys(one.section for one in traits)]


def table_context(answer: Answer) -> dict[str, Any]:
    """Return what the table's template needs beside the ledger's context."""
    asked, shown = answer.asked, answer.rows
    offered = traits_of(answer.counties)
    missing = [key for key in asked.search.traits() if key not in asked.columns and key not in ("address", "parcel-number")]
    return {
        "rows": shown,
        "page": answer.page,
        "pages": answer.pages,
        "first": (answer.page - 1) * PAGE + 1,
        "last": (answer.page - 1) * PAGE + len(shown),
        "headings": [heading(CATALOGUE[key], asked.sort) for key in asked.columns],
        "address_heading": heading(CATALOGUE["street"], asked.sort),
        "phrases": answer.phrases,
        "is_by_hits": asked.sort == HITS,
        "unshown": [CATALOGUE[key] for key in missing],
        "chosen_columns": [CATALOGUE[key] for key in asked.columns],
        "sections": in_sections([trait for trait in offered if trait.key not in asked.columns]),
        "alternatives": answer.alternatives,
        "selection_acts": selection_acts(),
    }
