"""What mailings brought: counts, shares with the range they lie in, and what each reply cost."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

_Z = 1.959963984540054
"""Of the normal distribution, for 95 %."""


@dataclass(frozen=True)
class Share:
    """So many of so many, and between which shares the true one lies, 19 times out of 20."""

    count: int
    of: int
    low: float
    high: float

    @property
    def value(self) -> float:
        return self.count / self.of


def share(count: int, of: int) -> Share | None:
    """Return a share with its range by Wilson's score (1927); None of nothing.

    >>> found = share(1, 29)
    >>> round(found.low, 4), round(found.high, 4)
    (0.0061, 0.1718)
    """
    if of <= 0:
        return None
    part, weight = count / of, _Z * _Z / of
    middle, reach = part + weight / 2, _Z * math.sqrt(part * (1 - part) / of + weight / (4 * of))
    low, high = ((middle - reach) / (1 + weight), (middle + reach) / (1 + weight))
    # Of none and of all one end is exactly that.
    return Share(count, of, 0.0 if count == 0 else low, 1.0 if count == of else high)


def may_be_chance(one: Share | None, other: Share | None) -> bool | None:
    """Whether two shares may differ by chance alone: whether no difference lies in the range of theirs (Newcombe 1998, method 10).

    None where one of them is of nothing.
    """
    if one is None or other is None:
        return None
    more, less = (one, other) if one.value >= other.value else (other, one)
    difference = more.value - less.value
    return difference - math.hypot(more.value - more.low, less.high - less.value) <= 0


@dataclass(frozen=True)
class Brought:
    """What pieces brought: how many there were, what they cost, and how many of them came to each outcome."""

    label: str
    pieces: int
    cost: Decimal
    outcomes: Mapping[str, int]

    def share_of(self, outcome: str) -> Share | None:
        """Return the share of the pieces that came to an outcome."""
        return share(self.outcomes.get(outcome, 0), self.pieces)

    def cost_per(self, outcome: str) -> Decimal | None:
        """Return what one of an outcome cost; None where there was none."""
        count = self.outcomes.get(outcome, 0)
        return (self.cost / count).quantize(Decimal("0.01")) if count else None


def together(label: str, several: Iterable[Brought]) -> Brought:
    """Return what several mailings brought together."""
    every = list(several)
    outcomes: dict[str, int] = {}
    for one in every:
        for outcome, count in one.outcomes.items():
            outcomes[outcome] = outcomes.get(outcome, 0) + count
    return Brought(label, sum(one.pieces for one in every), sum((one.cost for one in every), Decimal(0)), outcomes)
