"""The order of the rows: by one trait, or by several, each settling what those before it leave equal."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import F, QuerySet
from django.db.models.expressions import OrderBy

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.hits import SORT as HITS
from jaded_ledger.find.hits import AskedPhrase, with_hits
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import column_of

MOST = 5
"""By more traits nobody sorts: nothing is left equal."""
_WITH_TEXT = (Kind.NAME, Kind.PLACE, Kind.PHRASES)


@dataclass(frozen=True)
class Sort:
    """One trait that rows are sorted by; its key, or that of the hits of phrases."""

    key: str
    largest_first: bool = False

    def __str__(self) -> str:
        return f"-{self.key}" if self.largest_first else self.key


def sorts_from(text: str) -> tuple[Sort, ...]:
    """Return what a text such as ``-last-sale,owner-name`` sorts by, the first first. Raises CriteriaError for what is not a trait."""
    found: dict[str, Sort] = {}
    for word in filter(None, (part.strip() for part in text.split(","))):
        key = word.removeprefix("-")
        if key not in CATALOGUE and key != HITS:
            nearest = CATALOGUE.nearest(key)
            raise CriteriaError(f'"{key}" is not a trait to sort by' + (f"; did you mean {nearest}?" if nearest else ""), word=key)
        found.setdefault(key, Sort(key, word.startswith("-")))
    if len(found) > MOST:
        raise CriteriaError(f"rows are sorted by at most {MOST} traits, and these are {len(found)}; leave some out", word=text)
    return tuple(found.values())


def known_sorts(text: str) -> tuple[Sort, ...]:
    """Return what an address sorts by; nothing where that can't be."""
    try:
        return sorts_from(text)
    except CriteriaError:
        return ()


def sorts_text(sorts: Sequence[Sort]) -> str:
    """Return the text that ``sorts_from`` reads."""
    return ",".join(map(str, sorts))


def sorted_by(sort: Sort) -> str:
    """Return by what a query sorts."""
    if sort.key == HITS:
        return "hits"
    trait: Trait = CATALOGUE[sort.key]
    if trait.key == "county":
        return "county__name"
    return f"{trait.fact}__folded" if trait.kind in _WITH_TEXT and not trait.is_own else column_of(trait)


def _orders(sort: Sort) -> list[OrderBy | str]:
    column = sorted_by(sort)
    if sort.key == HITS:
        return [F(column).desc()]
    by = F(column).desc(nulls_last=True) if sort.largest_first else F(column).asc(nulls_last=True)
    # House numbers settle the order within a street.
    return [by, "house_number"] if sort.key == "street" else [by]


def in_order(parcels: QuerySet[ParcelFacts], text: str, phrases: Sequence[AskedPhrase] = ()) -> QuerySet[ParcelFacts]:
    """Return the parcels in the order of one trait or several (``-`` before its key: largest first), unknowns last, or of how many
    of some phrases they have.

    What is equal in all of them goes by county and parcel number, as all do without a sort.
    """
    sorts = [sort for sort in known_sorts(text) if sort.key != HITS or phrases]
    if any(sort.key == HITS for sort in sorts):
        parcels = with_hits(parcels, phrases)
    return parcels.order_by(*(order for sort in sorts for order in _orders(sort)), "county", "parcel_number")
