"""Which chart is asked for: what kind, of which traits, beside the opening or not."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jaded_ledger.charts.by_area import AREAS, by_area
from jaded_ledger.charts.distribution import distribution, may_be_distributed
from jaded_ledger.charts.drawings import Chart
from jaded_ledger.charts.over_time import listings_over_time, sales_over_time
from jaded_ledger.charts.scatter import scatter
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import CriteriaError, trait_called
from jaded_ledger.core.criteria.traits import Trait
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.reading_copy import answered
from jaded_ledger.find.said import LONGEST_TYPED
from jaded_ledger.find.suggestions import offered
from jaded_ledger.records.trait_columns import column_of

KINDS = {
    "distribution": "Distribution",
    "scatter": "Two traits",
    "areas": "Medians by area",
    "sales": "Sales over time",
    "listings": "Listings over time",
}
FIRST, SECOND = "assessed-value", "living-area"


@dataclass(frozen=True)
class AskedChart:
    """One chart. ``x`` and ``y`` are keys of traits, ``place`` that of an area's."""

    kind: str = "distribution"
    x: str = FIRST
    y: str = SECOND
    place: str = AREAS[0]
    beside: bool = False

    def query(self) -> dict[str, str]:
        """Return the parameters of its address."""
        found = {"chart": self.kind, "x": self.x, "y": self.y, "by": self.place}
        return found | ({"beside": "1"} if self.beside else {})

    def of(self, answer: Answer) -> Chart:
        """Return the chart of a search's matches. Raises CriteriaError."""
        compiled, parcels = answer.compiled, answer.balance.matches
        match self.kind:
            case "scatter":
                x, y = _range(self.x), _range(self.y)
                return answered(compiled, lambda asked: scatter(asked.matches, x, y, parcels), map(column_of, (x, y)))
            case "areas":
                trait, place = _range(self.x), CATALOGUE[self.place]
                return answered(compiled, lambda asked: by_area(asked.matches, trait, place, parcels), map(column_of, (trait, place)))
            case "sales":
                return sales_over_time(answer.matches)
            case "listings":
                return listings_over_time(answer.matches)
        trait = CATALOGUE[self.x]
        if not may_be_distributed(trait):
            raise CriteriaError(f"the {trait.label} differs from parcel to parcel; choose a trait with figures, days or few values")
        return answered(
            compiled, lambda asked: distribution(asked.matches, trait, parcels, asked.opening if self.beside else None), [column_of(trait)]
        )


def _range(key: str) -> Trait:
    trait = CATALOGUE[key]
    if not trait.is_range:
        raise CriteriaError(f"the {trait.label} is no figure and no day; choose a trait that is")
    return trait


def _trait(typed: str, otherwise: str, answer: Answer) -> str:
    """Return the key of a trait by its key, what it is called, or what the box takes the words for. Raises CriteriaError."""
    typed = typed.strip()
    if not typed:
        return otherwise
    try:
        return trait_called(typed[:120]).key
    except ValueTextError as error:
        meant = offered(typed[:LONGEST_TYPED], answer.asked.search, answer.scope).found
        if meant and meant[0].is_sure:
            return meant[0].trait.key
        raise CriteriaError(str(error), word=typed[:60]) from error


def asked_chart(query: Mapping[str, str], answer: Answer) -> AskedChart:
    """Return the chart that a request names; without a word the distribution of what was asked last. Raises CriteriaError."""
    asked = [key for key in answer.asked.search.traits() if may_be_distributed(CATALOGUE[key])]
    kind, place = query.get("chart", ""), query.get("by", "")
    return AskedChart(
        kind if kind in KINDS else "distribution",
        _trait(query.get("x", ""), asked[-1] if asked else FIRST, answer),
        _trait(query.get("y", ""), SECOND, answer),
        place if place in AREAS else AREAS[0],
        bool(query.get("beside")),
    )
