"""How full a trait is in the chosen counties, and what its values are like."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import shown
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.records.models import County, FillRate, percent_known
from jaded_ledger.records.own_columns import traits_of


@dataclass
class Fill:
    """How many have a value for a trait of so many parcels that it can apply to; its commonest values, or the spread of its figures.

    ``none`` are the parcels of which it is known that it can't.
    """

    trait: Trait
    known: int = 0
    parcels: int = 0
    none: int = 0
    commonest: Counter[str] = field(default_factory=Counter)
    spreads: list[list[str]] = field(default_factory=list)

    @property
    def share(self) -> int:
        """Whole percent of parcels with a value."""
        return percent_known(self.known, self.parcels)

    @property
    def said(self) -> str:
        """The share in words; blank for what only a team knows, of which no share is measured."""
        if not self.none:
            return f"{self.share} % known" if self.parcels else ""
        return f"{self.share} % known of the {self.parcels:,} it applies to" if self.parcels else "applies to none"

    @property
    def is_low(self) -> bool:
        return bool(self.parcels) and self.share < 80

    @property
    def picture(self) -> str:
        """What the values are like, in a line."""
        if self.commonest:
            return " · ".join(f"{name} {count:,}" for name, count in self.commonest.most_common(4))
        if len(self.spreads) != 1:
            return ""
        low, middle, high = (_shown(self.trait, value) for value in self.spreads[0])
        return f"most between {low} and {high}, half {'before' if self.trait.kind is Kind.DATE else 'under'} {middle}"


def _shown(trait: Trait, stored: str) -> str:
    if trait.kind is Kind.DATE:
        return shown(trait, date.fromisoformat(stored))
    return shown(trait, Decimal(stored))


def _named(trait: Trait, stored: object) -> str:
    if trait.choices and isinstance(stored, int) and not isinstance(stored, bool):
        return trait.choice_by_code(stored).key
    return {True: "yes", False: "no"}[stored] if isinstance(stored, bool) else str(stored)


def fills(counties: Sequence[County]) -> dict[str, Fill]:
    """Return how full each trait is, over the counties together."""
    found = {trait.key: Fill(trait) for trait in traits_of(counties)}
    for rate in FillRate.objects.filter(county__in=counties, trait__in=list(found)):
        fill = found[rate.trait]
        fill.known += rate.known
        fill.parcels += rate.parcels
        fill.none += rate.none
        for value, count in rate.commonest:
            fill.commonest[_named(fill.trait, value)] += count
        if len(rate.spread) == 3:
            fill.spreads.append(rate.spread)
    for fill in found.values():
        if fill.trait.is_own:
            # The other counties' parcels have no such column at all.
            fill.parcels = found["county"].parcels
    return found


def mostly_blank(counties: Sequence[County], keys: Iterable[str]) -> dict[str, str]:
    """Return, by trait, in which of the counties it is not known of most parcels: there a criterion empties the result."""
    names = {county.pk: county.name for county in counties}
    found: dict[str, list[str]] = {}
    wanted = set(keys)
    for rate in FillRate.objects.filter(county__in=counties, trait__in=wanted).order_by("county__name"):
        if rate.is_mostly_blank:
            how = f"known of {rate.share} %" if rate.known else "blank"
            found.setdefault(rate.trait, []).append(f"{how} in {names[rate.county_id]}")
    said = {trait: ", ".join(places) for trait, places in found.items()}
    for key in wanted:
        trait = CATALOGUE[key]
        if trait.is_own and any(name != trait.county for name in names.values()):
            said[key] = f"a column of {trait.county} only"
    return said
