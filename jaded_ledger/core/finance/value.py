"""What a property is worth, from what is on record; and what of it is the owner's own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from statistics import median


@dataclass(frozen=True)
class Part:
    """One way of telling the value: which, the amount, and how it came about."""

    way: str
    amount: Decimal
    how: str


@dataclass(frozen=True)
class Estimate:
    """An estimated value: the median of its parts, of two their mean; their least and most are its range."""

    parts: tuple[Part, ...]

    @property
    def value(self) -> Decimal:
        return median(part.amount for part in self.parts)

    @property
    def low(self) -> Decimal:
        return min(part.amount for part in self.parts)

    @property
    def high(self) -> Decimal:
        return max(part.amount for part in self.parts)


def estimate(parts: Iterable[Part | None]) -> Estimate | None:
    """Return the estimate from those parts that can be told; None where none can.

    >>> estimate([Part("a", Decimal(100), ""), None, Part("c", Decimal(300), "")]).value
    Decimal('200')
    """
    found = tuple(part for part in parts if part is not None and part.amount > 0)
    return Estimate(found) if found else None


def from_assessment(assessed: Decimal | None, ratio: Decimal) -> Part | None:
    """Return the value as assessed; None where nothing is assessed.

    Parameters
    ----------
    assessed : dollars, land and improvements
    ratio : fraction of market value at which the county assesses, above 0 and at most 1
    """
    if assessed is None:
        return None
    return Part("assessed", assessed / ratio, f"assessed ${assessed:,.0f} ÷ {ratio.normalize():f}, the county’s share of market value")


def from_last_sale(price: Decimal | None, year: int, trend: Decimal | None, where: str) -> Part | None:
    """Return the last price brought to today's level by an index; None where either is unknown.

    Parameters
    ----------
    price : dollars
    year : of the sale, for the words
    trend : the index today over the index then
    where : the area of the index, for the words
    """
    if price is None or trend is None:
        return None
    return Part("last sale", price * trend, f"${price:,.0f} of {year} × {trend:.3f}, prices {where} since")


def from_area(per_square_foot: Decimal | None, living_area: int | None, where: str) -> Part | None:
    """Return the area's median price for so much living area; None where either is unknown.

    Parameters
    ----------
    per_square_foot : dollars a square foot, the median of the area's sales
    living_area : square feet
    where : the area, for the words
    """
    if per_square_foot is None or not living_area:
        return None
    return Part("area", per_square_foot * living_area, f"${per_square_foot:,.2f} a sq ft, the median {where}, × {living_area:,} sq ft")


@dataclass(frozen=True)
class Equity:
    """What is the owner's own: the value less open loans, involuntary liens and delinquent taxes."""

    value: Decimal
    loans: Decimal
    liens: Decimal
    taxes: Decimal

    @property
    def amount(self) -> Decimal:
        return self.value - self.loans - self.liens - self.taxes

    @property
    def percent(self) -> Decimal:
        """Equity in percentage points of value."""
        return percent(self.amount, self.value)


def equity(value: Decimal | None, loans: Decimal | None, liens: Decimal | None, taxes: Decimal | None) -> Equity | None:
    """Return the equity; None where a part of it is not known, or the value is not above 0.

    Parameters
    ----------
    value, loans, liens, taxes : dollars: what it is worth, and what is open on it. Unknown is None, never 0.

    >>> equity(Decimal(200_000), Decimal(50_000), Decimal(0), Decimal(10_000)).percent
    Decimal('70.0')
    """
    if value is None or loans is None or liens is None or taxes is None or value <= 0:
        return None
    return Equity(value, loans, liens, taxes)


def percent(part: Decimal, whole: Decimal) -> Decimal:
    """Return a share in percentage points (25, not 0.25): the one converter between fractions and what is typed, stored and shown.

    Raises
    ------
    decimal.DivisionByZero
        For a whole of 0.
    """
    return part / whole * 100
