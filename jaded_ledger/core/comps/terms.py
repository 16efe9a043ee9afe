"""Terms: what a price changes with, and by how much, in words that can be read and numbers that can be set."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

import numpy as np

from jaded_ledger.core.comps.sales import House, Numbers, Sales


class Shape(StrEnum):
    """How a price follows a trait.

    ``SHARE``: one percent more of it changes the price by a share of one percent. ``EACH``: each more changes it by a percentage.
    ``IS``: having it, or being of a kind, changes it by a percentage. ``AGE``: each year within a band of ages does.
    """

    SHARE = "share"
    EACH = "each"
    IS = "is"
    AGE = "age"


@dataclass(frozen=True)
class Term:
    """What a price changes with. ``size`` is how many of the trait's own units make one of the term's, ``most`` the most that counts.

    ``first`` and ``last`` bound a band of ages in years; ``code`` is the kind that a trait has to be.
    """

    key: str
    label: str
    trait: str
    shape: Shape
    unit: str = ""
    size: float = 1.0
    most: float = math.inf
    first: float = 0.0
    last: float = math.inf
    code: float = 1.0

    def _of(self, values: Numbers, years: Numbers) -> Numbers:
        match self.shape:
            case Shape.SHARE:
                return np.log(np.where(values > 0, values, np.nan))
            case Shape.EACH:
                return np.minimum(values, self.most) / self.size
            case Shape.IS:
                return np.where(np.isnan(values), np.nan, (values == self.code).astype(np.float64))
            case Shape.AGE:
                return np.clip(years - values - self.first, 0, self.last - self.first)

    def of_sales(self, sales: Sales) -> Numbers:
        """Return the term's value of each sale; not a number where it is unknown."""
        return self._of(sales.traits[self.trait], _years(sales))

    def of_house(self, house: House, sales: Sales) -> Numbers:
        """Return the term's value of a house as of the day of each sale: time since then has a term of its own."""
        return self._of(np.full(len(sales), house.value(self.trait)), _years(sales))

    def text_of(self, coefficient: float) -> str:
        """Return in words what a coefficient says.

        >>> LIVING.text_of(0.5), BATHS.text_of(0.02), AGES[0].text_of(-0.004)
        ('0.50 of $/sq ft', '+2.0 % each', '−0.4 % a year')
        """
        if self.shape is Shape.SHARE:
            return f"{coefficient:.2f} of {self.unit}".replace("-", "−")
        percent = f"{100 * math.expm1(coefficient):+.1f} %".replace("-", "−")
        return f"{percent} {self.unit}" if self.unit else percent


_EPOCH = date(1970, 1, 1).toordinal()


def _years(sales: Sales) -> Numbers:
    return 1970 + (sales.day - _EPOCH) / 365.2425


LIVING = Term("living-area", "living area", "living_area", Shape.SHARE, "$/sq ft")
LOT = Term("lot", "lot", "lot_sqft", Shape.SHARE, "$/sq ft of lot")
BEDS = Term("beds", "beds", "beds", Shape.EACH, "each", most=6)
BATHS = Term("baths", "baths", "baths", Shape.EACH, "each", most=6)
BASEMENT = Term("basement", "basement", "basement_area", Shape.EACH, "each 100 sq ft", size=100, most=4_000)
GARAGE = Term("garage", "garage", "garage", Shape.EACH, "each space", most=4)
STORIES = Term("stories", "stories", "stories", Shape.EACH, "each", most=4)
AGES = (
    Term("age-to-10", "age to 10 years", "year_built", Shape.AGE, "a year", first=0, last=10),
    Term("age-to-40", "age from 10 to 40", "year_built", Shape.AGE, "a year", first=10, last=40),
    Term("age-over-40", "age over 40", "year_built", Shape.AGE, "a year", first=40, last=140),
)
WATERFRONT = Term("waterfront", "waterfront", "waterfront", Shape.IS)
POOL = Term("pool", "pool", "pool", Shape.IS)
FRONTAGE = Term("frontage", "frontage", "frontage", Shape.SHARE, "$/foot")

OF_HOUSES = (LIVING, LOT, BEDS, BATHS, BASEMENT, GARAGE, STORIES, *AGES, WATERFRONT, POOL)
OF_LAND = (LOT, FRONTAGE, WATERFRONT)
KINDS = {"property_class": "class", "condition": "condition"}
"""Traits of which each kind that is common enough is a term of its own."""

GRADES = {"as-found": "as found", "tidied": "tidied", "rebuilt": "rebuilt"}
"""The grades of condition that a person gives from photographs and remarks, the worst first."""


CONDITIONS = (
    "unsound", "very poor", "poor", "below average", "fair", "average", "above average", "good", "very good", "excellent",
)  # fmt: skip
"""Assessors' words for a building's condition, the worst first (common practice; the scale of depreciation tables)."""


def kind_term(trait: str, code: float, name: str) -> Term:
    """Return the term of being one kind of a trait."""
    return Term(f"{KINDS[trait]}-{code:g}", f"{KINDS[trait]} {name}", trait, Shape.IS, code=code)
