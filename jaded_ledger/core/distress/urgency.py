"""Urgency: how much an owner may have to sell, 0 to 100, as a sum whose every point is named.

Each open sign of distress, and each list of a reason, is worth so many points on its day; they halve every twelve months. What a
sign is worth is a judgment, not a finding: a team sets its own, and ``core.distress.lift`` says what became of such signs before.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import NamedTuple

from jaded_ledger.core.distress.signals import SignalKind

MOST = 100
HALF_LIFE = 12
"""In how many months points halve, unless a team says otherwise."""
LONGEST_HALF_LIFE = 120
MOST_HALVINGS = 64
"""After so many halvings nothing is left of any weight; a database refuses to reckon further (half of the smallest figure it has)."""
LIST_WEIGHT = 10
"""What being on a list of a reason is worth, unless the list says otherwise."""
DAYS_A_MONTH = 365.25 / 12

WEIGHTS: Mapping[SignalKind, int] = {
    SignalKind.TAX_DELINQUENT: 20,
    SignalKind.TAX_SUIT: 25,
    SignalKind.TAX_JUDGMENT: 30,
    SignalKind.NOTICE_OF_DEFAULT: 30,
    SignalKind.LIS_PENDENS: 30,
    SignalKind.FORECLOSURE_JUDGMENT: 35,
    SignalKind.FORECLOSURE_AUCTION: 40,
    SignalKind.TAX_AUCTION: 40,
    SignalKind.BANK_OWNED: 30,
    SignalKind.MECHANICS_LIEN: 8,
    SignalKind.HOA_LIEN: 12,
    SignalKind.JUDGMENT_LIEN: 10,
    SignalKind.FEDERAL_TAX_LIEN: 12,
    SignalKind.STATE_TAX_LIEN: 10,
    SignalKind.MUNICIPAL_LIEN: 8,
    SignalKind.CHILD_SUPPORT_LIEN: 8,
    SignalKind.CODE_VIOLATION: 12,
    SignalKind.VACANCY: 15,
    SignalKind.PROBATE: 25,
    SignalKind.INHERITED: 15,
    SignalKind.DIVORCE: 20,
    SignalKind.BANKRUPTCY: 20,
    SignalKind.EVICTION: 10,
    SignalKind.UNSOLD_LISTING: 15,
    SignalKind.LONG_ON_MARKET: 10,
    SignalKind.PRICE_CUTS: 8,
}
"""What each sign is worth on its day, unless a team says otherwise: the nearer to losing the house, the more."""


@dataclass(frozen=True)
class Scale:
    """What each sign is worth to a team, in points, and in how many months that halves."""

    weights: Mapping[SignalKind, int] = field(default_factory=lambda: WEIGHTS)
    half_life: int = HALF_LIFE

    @property
    def key(self) -> tuple[int, ...]:
        """What tells one scale from another."""
        return (self.half_life, *(self.weights[kind] for kind in SignalKind))

    @property
    def half_life_days(self) -> float:
        return self.half_life * DAYS_A_MONTH

    def decay(self, on: date, today: date) -> float:
        """Return the share of its weight that a sign of a day still has; all of it for a day that is yet to come."""
        return math.pow(0.5, min(max((today - on).days, 0) / self.half_life_days, MOST_HALVINGS))

    def points(self, weight: int, on: date, today: date) -> int:
        """Return what a sign of a day is still worth, in whole points, halves up.

        >>> Scale().points(25, date(2025, 11, 26), date(2026, 11, 26))
        13
        """
        return math.floor(weight * self.decay(on, today) + 0.5)


class Sign(NamedTuple):
    """A reason to look at a property: what, since when, what it is worth on its day, and the recorded row that tells of it."""

    what: str
    on: date
    weight: int
    row: tuple[str, int] | None = None
    is_going_on: bool = False
    """Whether its day is that on which it was last confirmed."""


@dataclass(frozen=True)
class Item:
    """One line of the account: a sign, the share of its weight that is left, and the points that makes."""

    sign: Sign
    decay: float
    points: int


@dataclass(frozen=True)
class Account:
    """All lines of a property's urgency; ``total`` is their sum, ``score`` what is shown: no more than 100."""

    items: tuple[Item, ...]

    @property
    def total(self) -> int:
        return sum(item.points for item in self.items)

    @property
    def score(self) -> int:
        return min(self.total, MOST)


def account(signs: Iterable[Sign], scale: Scale, today: date) -> Account:
    """Return what some signs add up to, most points first.

    >>> on = date(2026, 11, 26)
    >>> account([Sign("probate", on, 25), Sign("vacancy", date(2024, 11, 26), 15)], Scale(), on).score
    29
    """
    items = [Item(sign, scale.decay(sign.on, today), scale.points(sign.weight, sign.on, today)) for sign in signs]
    return Account(tuple(sorted(items, key=lambda item: (-item.points, item.sign.on, item.sign.what))))
