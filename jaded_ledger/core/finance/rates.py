"""What loans cost, year by year, for loans whose record states no rate."""

from __future__ import annotations

from decimal import Decimal

LAST_YEAR = 2024
"""The last full year of the table."""
SOURCE = "Freddie Mac, Primary Mortgage Market Survey, 30-year fixed rate, averages of the year"
"""Published yearly; the figures below are given from memory and rounded to a hundredth of a point."""

_FIRST = 1971
_PERCENT = (
    "7.54", "7.38", "8.04", "9.19", "9.05", "8.87", "8.85", "9.64", "11.20", "13.74",  # 1971 (from April) to 1980
    "16.63", "16.04", "13.24", "13.88", "12.43", "10.19", "10.21", "10.34", "10.32", "10.13",  # to 1990
    "9.25", "8.39", "7.31", "8.38", "7.93", "7.81", "7.60", "6.94", "7.44", "8.05",  # to 2000
    "6.97", "6.54", "5.83", "5.84", "5.87", "6.41", "6.34", "6.03", "5.04", "4.69",  # to 2010
    "4.45", "3.66", "3.98", "4.17", "3.85", "3.65", "3.99", "4.54", "3.94", "3.11",  # to 2020
    "2.96", "5.34", "6.81", "6.72",  # to 2024
)  # fmt: skip
_BY_YEAR = {_FIRST + place: Decimal(percent) / 100 for place, percent in enumerate(_PERCENT)}


def average_rate(year: int) -> Decimal:
    """Return the year's average rate of a 30-year fixed loan as a fraction a year; years outside the table have that of its nearest.

    Source: `SOURCE`, 1971 (from April) to `LAST_YEAR`, from memory.

    >>> average_rate(2012), average_rate(2026)
    (Decimal('0.0366'), Decimal('0.0672'))
    """
    return _BY_YEAR[min(max(year, _FIRST), LAST_YEAR)]
