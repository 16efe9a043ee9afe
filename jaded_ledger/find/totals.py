"""What the table's columns come to over some parcels: sums, medians and shares of what is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db.models import Count, F, QuerySet, Sum

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.figures import figure_of, median_of, share_of
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.spread import value_text
from jaded_ledger.find.value_counts import value_counts
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.records.trait_columns import FEW, column_of


@dataclass(frozen=True)
class Total:
    """What one column comes to: how many parcels have a value; the middle or the commonest one; the sum, or how many there are."""

    trait: Trait
    known: int
    middle: str = ""
    sum: str = ""

    @property
    def is_figure(self) -> bool:
        return self.trait.is_figure


@dataclass(frozen=True)
class Totals:
    """What the columns come to over so many parcels."""

    parcels: int
    columns: tuple[Total, ...]


def totals_of_matches(compiled: Compiled, traits: Sequence[Trait]) -> Totals:
    """Return what columns come to over a search's matches."""
    values = [name for trait in traits for name in (column_of(trait), *([trait.of_several] if trait.of_several else []))]
    return answered(compiled, lambda asked: totals(asked.matches, traits), values)


def totals(parcels: QuerySet[ParcelFacts], traits: Sequence[Trait]) -> Totals:
    """Return what columns come to over some parcels. What is not known of a parcel counts nowhere, and never as zero."""
    asked: dict[str, Any] = {"parcels": Count("pk")}
    for place, trait in enumerate(traits):
        if trait.is_range:
            asked |= {f"known{place}": Count(f"of{place}"), f"middle{place}": median_of(trait, F(f"of{place}"))}
        elif trait.kind is Kind.NAME and not trait.is_own:
            asked |= {f"known{place}": Count(trait.fact), f"different{place}": Count(trait.fact, distinct=True)}
        if trait.adds_up:
            asked[f"sum{place}"] = Sum(f"share{place}")
    # What a query knows by a name only can't be added up in one step.
    figures = {f"of{place}": figure_of(trait) for place, trait in enumerate(traits) if trait.is_range}
    shares = {f"share{place}": share_of(trait) for place, trait in enumerate(traits) if trait.adds_up}
    found = parcels.order_by().annotate(**figures, **shares).aggregate(**asked)
    return Totals(found["parcels"], tuple(_total(parcels, trait, place, found) for place, trait in enumerate(traits)))


def _total(parcels: QuerySet[ParcelFacts], trait: Trait, place: int, found: dict[str, Any]) -> Total:
    known = found.get(f"known{place}", 0)
    if trait.is_range:
        middle, added = found[f"middle{place}"], found.get(f"sum{place}")
        return Total(trait, known, *("" if value is None else value_text(trait, value) for value in (middle, added)))
    if trait.kind is Kind.NAME and known:
        different = found[f"different{place}"]
        return Total(trait, known, "", f"{different:,} different")
    if trait.kind not in FEW:
        return Total(trait, known)
    counts = value_counts(parcels, trait)
    known = sum(counts.values())
    if not known:
        return Total(trait, 0)
    # Of yes and no the share of yes is told, also where no is commoner.
    value = "yes" if trait.kind is Kind.FLAG else counts.most_common(1)[0][0]
    share = f"{value} {100 * counts[value] / known:.0f} %"
    return Total(trait, known, share, f"{len(counts):,} different" if len(counts) > 2 else "")
