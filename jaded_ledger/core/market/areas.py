"""An area's figures, from what is on record there, each with the count it stands on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from statistics import median

ENOUGH_SALES = 5
"""Fewer sales or listings than this tell nothing; common practice."""
MONTHS = 12


@dataclass(frozen=True)
class Median:
    """A median and how many it is of."""

    value: Decimal
    count: int

    @property
    def is_enough(self) -> bool:
        return self.count >= ENOUGH_SALES


@dataclass(frozen=True)
class PriceLevels:
    """Median prices per square foot by year, and of the twelve months through which deeds are recorded."""

    by_year: Mapping[int, Median]
    now: Median | None

    def trend(self, year: int) -> Decimal | None:
        """Return by what a price of a year is to be multiplied; None where too few sales tell."""
        then = self.by_year.get(year)
        if then is None or self.now is None or not then.is_enough or not self.now.is_enough:
            return None
        return self.now.value / then.value


@dataclass(frozen=True)
class AreaFigures:
    """What an area's records say of it as a whole, as far as its parcels' figures need it. None is unknown.

    ``square_foot`` holds median sale prices per square foot of the last twelve months by class, under None for all
    classes. ``rents`` holds the median month's rent of a let dwelling by class and bedrooms, ``rent`` that of all.
    ``asked`` holds the asking prices of what is active there, by class and bedrooms.
    """

    name: str = ""
    levels: PriceLevels = field(default_factory=lambda: PriceLevels({}, None))
    square_foot: Mapping[int | None, Median] = field(default_factory=dict)
    rent: Median | None = None
    rents: Mapping[tuple[int, int], Median] = field(default_factory=dict)
    frontage: Median | None = None
    asked: Mapping[tuple[int, int], Sequence[Decimal]] = field(default_factory=dict)
    stated: tuple[tuple[str, str], ...] = ()
    """What its figures stand on, in words, for whoever asks how they came about."""

    def per_square_foot(self, property_class: int | None) -> Median | None:
        """Return the median price per square foot of a class, else of all; None where too few sales tell."""
        for key in (property_class, None):
            found = self.square_foot.get(key)
            if found is not None and found.is_enough:
                return found
        return None


def percent_of_median(price: Decimal, asked: Sequence[Decimal]) -> Decimal | None:
    """Return an asking price in percent of the median of the others; None with fewer than five others.

    ``asked`` are all active asking prices of the same kind, the price itself among them.

    >>> percent_of_median(Decimal(90), [Decimal(n) for n in (90, 80, 100, 100, 120, 130)])
    Decimal('90.0')
    """
    others = list(asked)
    if price in others:
        others.remove(price)
    return price / median(others) * 100 if len(others) >= ENOUGH_SALES else None


def months_of_supply(active: int, sold_in_year: int) -> Decimal | None:
    """Return how many months the active listings would last at the last year's pace."""
    return None if sold_in_year < ENOUGH_SALES else Decimal(active) * MONTHS / sold_in_year


def growth(now: Median | None, before: Median | None) -> Decimal | None:
    """Return by how many percentage points the median grew; None where too few sales tell."""
    if now is None or before is None or not now.is_enough or not before.is_enough:
        return None
    return (now.value - before.value) / before.value * 100


def rental_yield(rent: Median | None, price_per_dwelling: Median | None) -> Decimal | None:
    """Return the yearly median rent of a dwelling in percent of the median price paid for one."""
    if rent is None or price_per_dwelling is None or not rent.is_enough or not price_per_dwelling.is_enough:
        return None
    return rent.value * MONTHS / price_per_dwelling.value * 100


def median_of(values: Iterable[Decimal]) -> Median | None:
    """Return a median with its count; None of nothing."""
    found = list(values)
    return Median(median(found), len(found)) if found else None
