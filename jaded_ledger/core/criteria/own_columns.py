"""A county's own columns as traits: what kind of values one holds, and how it is declared."""

from __future__ import annotations

import re
from datetime import date, datetime
from decimal import Decimal

from jaded_ledger.core.criteria.traits import Choice, Kind, Section, Trait
from jaded_ledger.core.words import words_of

MOST_WORDS = 24
"""A column with more different words than this is text, not a choice."""
NUMBER = r"^\$?(\d{1,3}(,\d{3})+|0|[1-9]\d*)?(\.\d+)?$"
"""What a number looks like; a code such as 007 is none. The same expression is put to PostgreSQL."""
DAY = r"^(\d{4}-\d\d-\d\d|\d{1,2}/\d{1,2}/\d{4})$"


def kind_held(*, all_numbers: bool, all_days: bool, different: int) -> Kind:
    """Return what kind of trait a column is by what its cells hold.

    >>> kind_held(all_numbers=False, all_days=False, different=5)
    <Kind.CHOICE: 'choice'>
    """
    if all_numbers:
        return Kind.NUMBER
    if all_days:
        return Kind.DATE
    return Kind.CHOICE if different <= MOST_WORDS else Kind.NAME


def key_of(name: str) -> str:
    """Return the key under which a column's values are kept: its words with underscores.

    >>> key_of("Tillable Ac. (2026)")
    'tillable_ac_2026'
    """
    return "_".join(words_of(name))[:50] or "column"


def number_held(cell: str) -> float | None:
    """Return a number from a cell, None for what is none."""
    return float(Decimal(cell.replace("$", "").replace(",", ""))) if cell and re.match(NUMBER, cell) else None


def day_held(cell: str) -> date | None:
    """Return a day from a cell, None for what is none."""
    for form in ("%Y-%m-%d", "%m/%d/%Y"):
        try:
            return datetime.strptime(cell, form).date()  # noqa: DTZ007 - a day has no time zone
        except ValueError:
            continue
    return None


def own_trait(county: str, prefix: str, name: str, fact: str, kind: Kind, words: list[str]) -> Trait:
    """Return the trait of a county's own column. ``prefix`` stands before its key, as it does before a parcel number."""
    return Trait(
        key=f"{prefix}/{key_of(name).replace('_', '-')}",
        label=name,
        section=Section.COUNTY,
        kind=kind,
        meaning=f"{county}’s own column {name}, as recorded",
        source=f"the roll of {county} County",
        choices=tuple(Choice(code, word.casefold()) for code, word in enumerate(words, start=1)),
        decimals=2 if kind is Kind.NUMBER else 0,
        fact=fact,
        county=county,
    )
