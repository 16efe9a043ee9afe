"""The matches as rows: values by trait, order, pages."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, cast

from django.db.models import QuerySet

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE, shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.hits import SORT as HITS
from jaded_ledger.find.hits import AskedPhrase, Hits, hits_in
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.sorting import in_order, known_sorts, sorted_by
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import is_computed, value_name, with_computed

PAGE = 50
Plain = tuple[str, ...] | str | int | float | bool | date | None
_WITH_TEXT = (Kind.NAME, Kind.PLACE, Kind.PHRASES)


def paths_of(trait: Trait) -> tuple[str, ...]:
    """Return the columns that a parcel's value for a trait is told from, as queries name them from the row of facts."""
    if trait.key == "county":
        return ("county__name",)
    if trait.kind is Kind.PARCEL_NUMBER:
        return ("parcel__number",)
    if trait.is_own:
        return ("further",)
    value = value_name(trait) + ("__text" if trait.kind in _WITH_TEXT else "")
    return (value, trait.event) if trait.event and not trait.of_team else (value,)


def plain_value(trait: Trait, values: Sequence[Any]) -> Plain:
    """Return a parcel's value for a trait, told from the values of ``paths_of``: text, figure, date or flag; None when it is unknown."""
    value = values[0]
    if trait.is_own:
        return _own_value(value, trait)
    # Of what the team itself did it is always known whether it did.
    if trait.event and (value is None if trait.of_team else values[1] is False):
        return NONE
    if value is None:
        return None
    if trait.kind is Kind.CHOICE:
        return trait.choice_by_code(value).key
    if trait.kind is Kind.SET:
        return tuple(trait.choice_by_code(one).key for one in value) if trait.choices else tuple(value)
    return cast("Plain", value)


def value_of(facts: ParcelFacts, trait: Trait) -> Plain:
    """Return a parcel's value for a trait as ``told`` does, from its row of facts."""
    return plain_value(trait, [_value_at(facts, path) for path in paths_of(trait)])


def _value_at(facts: ParcelFacts, path: str) -> Any:
    value: Any = facts
    for name in path.split("__"):
        if value is None:
            return None
        value = getattr(value, name)
    return value


def _own_value(further: dict[str, Any], trait: Trait) -> Plain:
    value = further.get(trait.fact.removeprefix("further__"))
    if value is None:
        return None
    if trait.kind is Kind.CHOICE:
        return trait.choice_by_code(value).key
    return date.fromisoformat(value) if trait.kind is Kind.DATE else value


def joined_with(traits: Sequence[Trait]) -> set[str]:
    """Return the rows beside the facts that traits' values are read from."""
    needed = {trait.fact for trait in traits if trait.kind in _WITH_TEXT and not trait.is_own}
    return needed | {"parcel"} if any(trait.kind is Kind.PARCEL_NUMBER for trait in traits) else needed


def with_values(parcels: QuerySet[ParcelFacts], traits: Sequence[Trait]) -> QuerySet[ParcelFacts]:
    """Return the parcels with what their traits' values are read from."""
    needed = joined_with(traits)
    parcels = with_computed(parcels, traits)
    return parcels.select_related(*sorted(needed)) if needed else parcels


def _read_for(traits: Sequence[Trait]) -> set[str]:
    """Return the columns that traits' values are read from."""
    found = {"parcel", "county"}
    for trait in traits:
        if trait.is_own:
            found.add("further")
        elif trait.kind is not Kind.PARCEL_NUMBER and not is_computed(trait):
            found.add(trait.fact)
        if trait.event and not trait.of_team:
            found.add(trait.event)
        if trait.of_several:
            found.add(trait.of_several)
    return found


def with_values_alone(parcels: QuerySet[ParcelFacts], traits: Sequence[Trait], also: Sequence[str] = ()) -> QuerySet[ParcelFacts]:
    """Return the parcels with what their traits' values are read from and no other of the row's many columns."""
    return with_values(parcels, traits).only(*_read_for(traits), *also)


def cell_text(facts: ParcelFacts, trait: Trait, value: Plain) -> str:
    """Return a value as a page shows it; an amount for several parcels says for how many."""
    text = shown(trait, value)
    parcels = getattr(facts, trait.of_several) if trait.of_several else None
    return f"{text} for {parcels:,} parcels" if parcels and parcels > 1 else text


@dataclass(frozen=True)
class Cell:
    """One shown value."""

    trait: str
    text: str
    is_figure: bool
    is_unknown: bool

    @property
    def css(self) -> str:
        """How the page sets it: figures to the right, what is not known faint."""
        return " ".join(name for name, holds in (("n", self.is_figure), ("mut", self.is_unknown)) if holds)


@dataclass(frozen=True)
class RowMark:
    """A letter or three on a row, what they stand for, and whether that is out of date."""

    text: str
    reads: str
    is_stale: bool = False


@dataclass(frozen=True)
class Row:
    """One parcel of the table; ``at`` is its place among the matches, from 1."""

    parcel_id: int
    at: int
    address: str
    number: str
    cells: tuple[Cell, ...]
    hits: Hits
    marks: tuple[RowMark, ...] = ()


IDENTITY = (CATALOGUE["address"], CATALOGUE["parcel-number"])
"""What tells a row's property, always shown."""


def rows(
    parcels: QuerySet[ParcelFacts], columns: Sequence[str], sort: str, page: int, phrases: Sequence[AskedPhrase] = (), size: int = PAGE
) -> list[Row]:
    """Return one page of the table, of so many rows, with the hits of the phrases that are looked for in remarks."""
    start = (page - 1) * size
    # A row has two hundred columns; sorting carries along what is read.
    found = _read(in_order(parcels, sort, phrases), columns, phrases)[start : start + size]
    return _rows(found, columns, start, phrases)


def page_of(compiled: Compiled, columns: Sequence[str], sort: str, page: int, phrases: Sequence[AskedPhrase] = ()) -> list[Row]:
    """Return one page of a search's matches as ``rows`` does: which they are is asked first, and then what they have."""
    start = (page - 1) * PAGE

    def shown_ids(asked: Compiled) -> list[int]:
        return list(in_order(asked.matches, sort, phrases).values_list("pk", flat=True)[start : start + PAGE])

    sorts = [sorted_by(one) for one in known_sorts(sort) if one.key != HITS or phrases]
    ids = answered(compiled, shown_ids, sorts)
    found = {facts.pk: facts for facts in _read(compiled.opening.filter(pk__in=ids), columns, phrases)}
    return _rows([found[pk] for pk in ids if pk in found], columns, start, phrases)


def _read(parcels: QuerySet[ParcelFacts], columns: Sequence[str], phrases: Sequence[AskedPhrase]) -> QuerySet[ParcelFacts]:
    every = [*(CATALOGUE[key] for key in columns), *IDENTITY, *([CATALOGUE["remarks"]] if phrases else [])]
    return with_values_alone(parcels, every)


def _rows(found: Iterable[ParcelFacts], columns: Sequence[str], start: int, phrases: Sequence[AskedPhrase]) -> list[Row]:
    traits = [CATALOGUE[key] for key in columns]
    return [_row(facts, traits, at, phrases) for at, facts in enumerate(found, start=start + 1)]


def _row(facts: ParcelFacts, traits: Sequence[Trait], at: int, phrases: Sequence[AskedPhrase]) -> Row:
    cells = []
    for trait in traits:
        value = value_of(facts, trait)
        cells.append(Cell(trait.key, cell_text(facts, trait, value), trait.is_figure, value is None))
    address = facts.street_line or "no address on record"
    hits = hits_in(facts.remarks, phrases) if phrases else Hits()
    return Row(facts.parcel_id, at, address, facts.parcel.number, tuple(cells), hits)
