"""The traits of comps: what a property's range said when it was computed for a list. Of all others it is not computed."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from django.db.models import FloatField, IntegerField

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.comps.kept_values import among, asked_of, not_computed, value_of
from jaded_ledger.comps.models import CompRange
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.core.criteria.traits import Kind, Section, Trait
from jaded_ledger.core.facts.explanations.entries import Entry
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.records.models import Parcel


def _explain(parcel: Parcel, found: Findings, scope: Scope) -> Iterator[Entry]:
    """Yield what a parcel's range is made of, as it was computed."""
    row = CompRange.objects.filter(team=scope.team, parcel=parcel).first()
    if row is None:
        yield Entry("Comps", "", "not computed: put it on a list, and ask on the list's page for its ranges")
        return
    yield Entry("Comps", f"{row.count}", f"as they stood on {day_text(row.computed_on)}")
    if row.value is None:
        return
    for label, amount in (("Low", row.low), ("Median", row.median), ("High", row.high), ("Value", row.value)):
        yield Entry(label, f"${amount:,}", "the likest count most" if label == "Value" else "")
    if row.price is not None:
        yield Entry("Price", f"${row.price:,}", "what was asked, or else the estimated value")


_of_comps = partial(Trait, section=Section.VALUE, source="comps, as they were computed for a list", of_team=True)
TEAM_TRAITS = (
    TeamTrait(
        _of_comps(
            "comps-median", "median of comps", kind=Kind.MONEY, synonyms=("comps", "value by comps", "comp median"),
            meaning="what its like sold for, adjusted to it: the median of its comps; computed only for lists",
            rule="each comp's price adjusted to the property, as its page of comps shows; the middle one",
        ),
        asked_of(CompRange, "median"), value_of(CompRange, "median", IntegerField), _explain, among=among(CompRange, "median"),
        not_computed=not_computed(CompRange),
    ),
    TeamTrait(
        _of_comps(
            "comps-spread", "spread of comps", kind=Kind.PERCENT, decimals=2, synonyms=("comp spread",),
            meaning="how far the highest of its comps lies over the lowest, in percent of their median; computed only for lists",
            rule="(highest − lowest) ÷ median, of the comps adjusted to the property",
        ),
        asked_of(CompRange, "spread"), value_of(CompRange, "spread", FloatField), _explain, among=among(CompRange, "spread"),
        not_computed=not_computed(CompRange),
    ),
    TeamTrait(
        _of_comps(
            "price-to-comps", "price against comps", kind=Kind.PERCENT, decimals=2, synonyms=("price to comps", "under comps"),
            meaning="its price in percent of its value by comps: what is asked, or else its estimated value; computed only for lists",
            rule="price ÷ value by comps, in which the likest count most",
        ),
        asked_of(CompRange, "price_to"), value_of(CompRange, "price_to", FloatField), _explain, among=among(CompRange, "price_to"),
        not_computed=not_computed(CompRange),
    ),
)  # fmt: skip
