"""What a parcel's area's figures tell of it: value, equity, how its price and rent compare.

These follow when only the area's figures change: ``AreaBasis`` is all of a parcel that they are put to, and is kept with its facts.
"""

from __future__ import annotations

from decimal import Decimal
from typing import NamedTuple

from jaded_ledger.core.facts.record import CountyRules
from jaded_ledger.core.facts.stored_values import Columns, ratio, rounded, whole_dollars
from jaded_ledger.core.finance import value
from jaded_ledger.core.finance.value import Equity, Estimate
from jaded_ledger.core.lazy_property import lazy_property
from jaded_ledger.core.market import areas
from jaded_ledger.core.market.areas import AreaFigures, Median
from jaded_ledger.core.market.land import percent_of_usual

MONTHS = 12


class Rent(NamedTuple):
    """A month's rent, and whose word it is."""

    amount: Decimal
    source: str


class AreaBasis(NamedTuple):
    """What of a parcel an area's figures are put to. Amounts in dollars, areas in square feet, frontage in feet; None is unknown."""

    assessed: Decimal | None = None
    sold_for: Decimal | None = None
    """What was paid for it alone at its last sale."""
    sold_in: int | None = None
    property_class: int | None = None
    living_area: int | None = None
    frontage: float | None = None
    dwellings: int | None = None
    beds_of_one: int | None = None
    owed: Decimal | None = None
    liens: Decimal | None = None
    taxes: Decimal | None = None
    list_price: Decimal | None = None
    beds_asked: int | None = None
    """The bedrooms by which its asking price is compared; None where it is not active, too."""
    rent: Decimal | None = None
    """The month's rent that its own records tell."""

    def stored(self) -> list[object]:
        """Return it as JSON keeps it: amounts to the last digit, as text."""
        return [str(one) if isinstance(one, Decimal) else one for one in self]

    @classmethod
    def read(cls, stored: list[object]) -> AreaBasis:
        """Return what ``stored`` gave."""
        return cls._make(Decimal(one) if isinstance(one, str) else one for one in stored)


class ByArea:
    """The findings that rest on a parcel's area."""

    def __init__(self, of: AreaBasis, area: AreaFigures, county: CountyRules) -> None:
        self.of, self.area, self.county = of, area, county

    @lazy_property
    def estimate(self) -> Estimate | None:
        by_assessment = value.from_assessment(self.of.assessed, self.county.assessment_ratio)
        return value.estimate((by_assessment, self._by_last_sale(), self._by_area()))

    def _by_last_sale(self) -> value.Part | None:
        year = self.of.sold_in
        if year is None:
            return None
        for levels, name in ((self.area.levels, self.area.name), (self.county.levels, self.county.name)):
            if (trend := levels.trend(year)) is not None:
                return value.from_last_sale(self.of.sold_for, year, trend, f"in {name}")
        return None

    def _by_area(self) -> value.Part | None:
        usual = self.area.per_square_foot(self.of.property_class)
        return value.from_area(usual.value if usual else None, self.of.living_area, f"in {self.area.name}")

    @lazy_property
    def equity(self) -> Equity | None:
        return value.equity(self.estimate.value if self.estimate else None, self.of.owed, self.of.liens, self.of.taxes)

    @property
    def percent_of_median(self) -> Decimal | None:
        of = self.of
        if of.list_price is None or of.property_class is None or of.beds_asked is None:
            return None
        return areas.percent_of_median(of.list_price, self.area.asked.get((of.property_class, of.beds_asked), ()))

    @property
    def usual_rent(self) -> Median | None:
        """The area's median rent of a dwelling of its class and bedrooms; None where too few are let."""
        if self.of.property_class is None or self.of.beds_of_one is None:
            return None
        usual = self.area.rents.get((self.of.property_class, self.of.beds_of_one))
        return usual if usual and usual.is_enough else None

    @property
    def rent_of_all(self) -> Rent | None:
        """What all of its dwellings would bring as the area's do."""
        alike, usual = self.usual_rent, self.area.rent
        usual = alike or (usual if usual and usual.is_enough else None)
        if not usual or not self.of.dwellings:
            return None
        what = "of its class and bedrooms " if alike else ""
        return Rent(usual.value * self.of.dwellings, f"median rent {what}in {self.area.name} × {self.of.dwellings}")

    @property
    def asking_yield(self) -> Decimal | None:
        """A year's rent, its own or the area's, in percent of the asking price."""
        rent = self.of.rent
        if rent is None and (usual := self.rent_of_all):
            rent = usual.amount
        return None if not self.of.list_price or rent is None else value.percent(MONTHS * rent, self.of.list_price)


def columns_by_area(of: AreaBasis, area: AreaFigures, county: CountyRules) -> Columns:
    """Return the facts that rest on a parcel's area, by their column."""
    found = ByArea(of, area, county)
    worth, own, usual, fronts = found.estimate, found.equity, found.usual_rent, area.frontage
    return {
        "estimated_value": whole_dollars(worth.value if worth else None),
        "value_low": whole_dollars(worth.low if worth else None),
        "value_high": whole_dollars(worth.high if worth else None),
        "value_sqft": rounded(worth.value / of.living_area) if worth and of.living_area else None,
        "equity": whole_dollars(own.amount if own else None),
        "equity_pct": rounded(own.percent if own else None),
        "ltv": ratio(of.owed, worth.value if worth else None),
        "frontage_of_usual": percent_of_usual(of.frontage, float(fronts.value) if fronts and fronts.is_enough else None),
        "percent_of_median": rounded(found.percent_of_median),
        "asking_yield": rounded(found.asking_yield),
        "rent_area": whole_dollars(usual.value if usual else None),
    }
