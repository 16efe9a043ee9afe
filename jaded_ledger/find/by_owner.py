"""The matches owner by owner: how many parcels each has among them, and what the columns come to."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Any

from django.db.models import Count, F, Max, Q, QuerySet, Sum
from django.db.models.expressions import OrderBy

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.figures import median_of, share_of
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.results import PAGE, Cell
from jaded_ledger.find.sorting import known_sorts
from jaded_ledger.find.spread import value_text
from jaded_ledger.records.models import Owner, ParcelFacts
from jaded_ledger.records.trait_columns import column_of, table_of

MOST_BENEATH = 200
"""More parcels than these beneath one owner's row nobody reads; a criterion on the owner shows them page by page."""
_NAMED = (Kind.NAME, Kind.PLACE)


@dataclass(frozen=True)
class OwnerRow:
    """One owner: the parcels that match, and of each column the sum, else the median, else what they have in common."""

    owner_id: int | None
    name: str
    at: int
    parcel_ids: tuple[int, ...]
    cells: tuple[Cell, ...]

    @property
    def parcels(self) -> int:
        return len(self.parcel_ids)


def summary_of(trait: Trait) -> str:
    """Return in a word what a column says of all of an owner's parcels; blank where it says what they have in common."""
    return "total" if trait.adds_up else "median" if trait.is_range else ""


def _asked_of(trait: Trait, place: int) -> dict[str, Any]:
    """Return what is asked of a column for each owner."""
    if trait.adds_up:
        return {f"figure{place}": Sum(share_of(trait))}
    if trait.is_range:
        return {f"figure{place}": median_of(trait)}
    if trait.is_own or trait.kind not in (*_NAMED, Kind.CHOICE, Kind.FLAG):
        return {}
    if trait.kind is Kind.FLAG:
        return {f"yes{place}": Count("pk", filter=Q(**{trait.fact: True})), f"known{place}": Count(trait.fact)}
    # A county is no area: its name stands in its own table.
    held = "county__name" if trait.key == "county" else trait.fact
    return {f"different{place}": Count(held, distinct=True), f"one{place}": Max(held)}


def _order(sort: str, traits: Sequence[Trait]) -> list[OrderBy | str]:
    """Return the order of owners: by a column's sum or median where the rows are sorted by one, else those with most parcels first."""
    found: list[OrderBy | str] = []
    for one in known_sorts(sort):
        place = next((place for place, trait in enumerate(traits) if trait.key == one.key), None)
        if place is not None and traits[place].is_range:
            by = F(f"figure{place}")
            found.append(by.desc(nulls_last=True) if one.largest_first else by.asc(nulls_last=True))
        elif one.key == "owner-name":
            by = F("owner__name__folded")
            found.append(by.desc(nulls_last=True) if one.largest_first else by.asc(nulls_last=True))
    return [*found, "-parcels", F("owner__name__folded").asc(nulls_last=True), "owner"]


def _values_of(trait: Trait) -> list[str]:
    """Return what is asked of a column for each owner, as queries call it."""
    column = "county__name" if trait.key == "county" else column_of(trait)
    return [column, *([trait.of_several] if trait.of_several else [])]


def _owners(matches: QuerySet[Any], sort: str, traits: Sequence[Trait], start: int) -> list[dict[str, Any]]:
    asked: dict[str, Any] = {"parcels": Count("pk")}
    for place, trait in enumerate(traits):
        asked |= _asked_of(trait, place)
    return list(matches.order_by().values("owner").annotate(**asked).order_by(*_order(sort, traits))[start : start + PAGE])


def _held(matches: QuerySet[ParcelFacts], owners: Sequence[int | None]) -> dict[int | None, list[int]]:
    """Return the ids of some owners' parcels, by owner, in the order of their numbers."""
    theirs = matches.filter(owner__in=[pk for pk in owners if pk is not None])
    held: dict[int | None, list[int]] = defaultdict(list)
    for parcels in (theirs, *([parcels_of_owner(matches, None)] if None in owners else [])):
        for owner, pk in parcels.order_by("county", "parcel_number").values_list("owner", "pk"):
            held[owner].append(pk)
    return held


def owner_rows(compiled: Compiled, columns: Sequence[str], sort: str, page: int) -> list[OwnerRow]:
    """Return one page of the owners of a search's matches. The parcels of which no owner is known stand together."""
    traits = [CATALOGUE[key] for key in columns]
    start = (page - 1) * PAGE
    found = answered(
        compiled, lambda asked: _owners(asked.matches, sort, traits, start), chain.from_iterable(map(_values_of, traits))
    )  # fmt: skip
    # Gathering the ids of every owner, to show those of a page, took longer than all else.
    held = answered(compiled, lambda asked: _held(asked.matches, [row["owner"] for row in found]))
    names = {owner.pk: str(owner) for owner in Owner.objects.filter(pk__in=[row["owner"] for row in found]).select_related("name")}
    texts = {place: _texts(trait, [row[f"one{place}"] for row in found]) for place, trait in enumerate(traits) if _is_pointed_at(trait)}
    return [
        OwnerRow(
            row["owner"],
            in_reading_case(names[row["owner"]]) if row["owner"] in names else "no owner on record",
            at,
            tuple(held[row["owner"]]),
            tuple(_cell(trait, place, row, texts.get(place, {})) for place, trait in enumerate(traits)),
        )
        for at, row in enumerate(found, start=start + 1)
    ]


def _is_pointed_at(trait: Trait) -> bool:
    """Return whether a trait's column holds the id of a text."""
    return trait.kind in _NAMED and not trait.is_own and trait.key != "county"


def _texts(trait: Trait, pks: Sequence[int | None]) -> dict[int, str]:
    return dict(table_of(trait)._default_manager.filter(pk__in=[pk for pk in pks if pk is not None]).values_list("pk", "text"))


def _cell(trait: Trait, place: int, row: Mapping[str, Any], texts: Mapping[int, str]) -> Cell:
    text = ""
    if f"figure{place}" in row:
        figure = row[f"figure{place}"]
        text = shown(trait, None) if figure is None else value_text(trait, figure)
    elif f"yes{place}" in row:
        known = row[f"known{place}"]
        text = f"{row[f'yes{place}']:,} of {known:,}" if known else shown(trait, None)
    elif f"different{place}" in row:
        different, one = row[f"different{place}"], row[f"one{place}"]
        if one is None:
            text = shown(trait, None)
        elif different > 1:
            text = f"{different:,} different"
        else:
            text = trait.choice_by_code(one).key if trait.kind is Kind.CHOICE else shown(trait, texts.get(one, str(one)))
    return Cell(trait.key, text, trait.is_figure, text == shown(trait, None))


def parcels_of_owner(matches: QuerySet[ParcelFacts], owner: int | None) -> QuerySet[ParcelFacts]:
    """Return those of the matches that are one owner's; with None those of which no owner is known."""
    return matches.filter(owner=owner) if owner is not None else matches.filter(owner__isnull=True)
