"""How large and how far, as a page says it."""

from __future__ import annotations

from jaded_ledger.core.lengths import METERS_PER_FOOT, METERS_PER_MILE

_SQUARE_METERS_PER_ACRE = 43_560 * METERS_PER_FOOT**2
_ACRES_PER_SQUARE_MILE = 640
"""NIST Handbook 44, Appendix C."""


def size_words(square_meters: float) -> str:
    """Return an area in acres, or from a square mile on in those.

    >>> size_words(4_046.8564224), size_words(2_589_988.110336), size_words(100)
    ('1 acre', '1 sq mi', '0.02 acres')
    """
    acres = square_meters / _SQUARE_METERS_PER_ACRE
    if round(acres, 1) >= _ACRES_PER_SQUARE_MILE:
        return f"{_plain(acres / _ACRES_PER_SQUARE_MILE)} sq mi"
    text = _plain(acres)
    return "1 acre" if text == "1" else f"{text} acres"


def distance_words(meters: float) -> str:
    """Return a distance in miles and kilometers, or where it is short in feet and meters.

    >>> distance_words(1_609.344), distance_words(30.48)
    ('1 mi (1.61 km)', '100 ft (30 m)')
    """
    if meters < METERS_PER_MILE / 10:
        return f"{meters / METERS_PER_FOOT:,.0f} ft ({meters:,.0f} m)"
    return f"{_plain(meters / METERS_PER_MILE)} mi ({_plain(meters / 1000)} km)"


def _plain(number: float) -> str:
    return f"{number:,.2f}".rstrip("0").rstrip(".") if number < 100 else f"{number:,.0f}"
