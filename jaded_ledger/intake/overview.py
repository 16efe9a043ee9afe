"""How far the records reach, and how full they are: kinds × counties, traits × counties."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.records.fill_rates import measured
from jaded_ledger.records.models import County, Coverage, FillRate


@dataclass(frozen=True)
class Reach:
    """Through which day one kind of record is on record, by county; None where none was taken in."""

    kind: str
    meaning: str
    days: tuple[date | None, ...]


def reaches(counties: Sequence[County]) -> list[Reach]:
    """Return how far each kind reaches that any county has."""
    days = {(county, kind): day for county, kind, day in Coverage.objects.values_list("county_id", "kind", "recorded_through")}
    found = [Reach(kind.name, kind.meaning, tuple(days.get((county.pk, kind.name)) for county in counties)) for kind in KINDS.values()]
    return [one for one in found if any(one.days)]


@dataclass(frozen=True)
class GridRow:
    """A trait and its fill in each county; None where the county has no such column, or nothing was measured."""

    trait: Trait
    cells: tuple[tuple[County, FillRate | None], ...]

    @property
    def blank_of(self) -> dict[int, str]:
        """The search, by county, for the parcels of which it is not known."""
        return {county.pk: f"county: {county.name}\n{self.trait.key}: unknown" for county, _ in self.cells}


def fill_grid(counties: Sequence[County]) -> list[tuple[str, list[GridRow]]]:
    """Return the grid by section, in the order in which traits are browsed."""
    rates = {(rate.county_id, rate.trait): rate for rate in FillRate.objects.defer("commonest", "spread")}
    sections: dict[str, list[GridRow]] = {}
    for trait in measured(counties):
        cells = tuple((county, rates.get((county.pk, trait.key))) for county in counties)
        sections.setdefault(str(trait.section), []).append(GridRow(trait, cells))
    return list(sections.items())
