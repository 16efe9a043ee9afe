"""Land: how many lots could be made of one, and how its frontage compares."""

from __future__ import annotations

from dataclasses import dataclass

SQFT_PER_ACRE = 43_560
"""NIST Handbook 44, Appendix C."""


@dataclass(frozen=True)
class LotRules:
    """The least that a lot must have, in feet and square feet; common practice, and each zone's own rules may ask more."""

    width: int = 25
    depth: int = 80
    square_feet: int = 2_500


LOT_RULES = LotRules()


def possible_lots(frontage: float | None, depth: float | None, square_feet: int | None, rules: LotRules = LOT_RULES) -> int | None:
    """Return how many lots the ground would make: frontage ÷ least width, as far as depth and area allow.

    None where the frontage is unknown; a depth or an area that is unknown is left out of the question.

    >>> possible_lots(75, 120, 9_000), possible_lots(75, 60, 4_500), possible_lots(75, None, 5_000)
    (3, 1, 2)
    """
    if frontage is None:
        return None
    lots = int(frontage // rules.width)
    if depth is not None and depth < rules.depth:
        lots = min(lots, 1)
    if square_feet is not None:
        lots = min(lots, square_feet // rules.square_feet)
    return max(lots, 1)


def percent_of_usual(frontage: float | None, usual: float | None) -> float | None:
    """Return a frontage in percent of the area's usual one."""
    return None if frontage is None or not usual else round(100 * frontage / usual, 2)
