"""The pool of comps: its balance line by line, and how one that is too small is widened."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaded_ledger.core.comps.adjustments import closeness_of
from jaded_ledger.core.comps.constants import Constants
from jaded_ledger.core.comps.lines import RULES, WINDOW, LineKind, PoolLine, holds, in_order, wider
from jaded_ledger.core.comps.sales import House, Mask, Rows, Sales

FEWEST = 3
"""A pool of fewer is widened."""
Inside = Mapping[str, Mask]
"""By the name of a drawn area, which sales lie in it."""


@dataclass(frozen=True)
class LineBalance:
    """A line of the ledger: how many it takes away, how many are left, and how many more the pool would hold without it.

    ``unknown`` are those it takes away because what it asks for is not known of them.
    """

    line: PoolLine
    removed: int
    left: int
    gain: int
    unknown: int


@dataclass(frozen=True)
class Pool:
    """The rows of the sales that all lines leave, the likest first, with the ledger that led to them. ``start`` is how many there were."""

    rows: Rows
    start: int
    balance: tuple[LineBalance, ...]

    def __len__(self) -> int:
        return len(self.rows)


@dataclass(frozen=True)
class Widening:
    """A step by which a pool was widened: the line before and after (None: left out), and how many it held then."""

    before: PoolLine
    after: PoolLine | None
    count: int


def _unknown(line: PoolLine, sales: Sales, house: House) -> Mask:
    trait = RULES[line.kind].trait
    if line.limits is not None and trait:
        return np.isnan(sales.traits[trait])
    if line.kind is LineKind.WITHIN:
        return np.isnan(sales.longitude) if house.longitude is not None else np.zeros(len(sales), dtype=bool)
    if not trait or not house.knows(trait):
        return np.zeros(len(sales), dtype=bool)
    return np.isnan(sales.traits[trait])


def _likest(sales: Sales, among: Rows, house: House, constants: Constants) -> Rows:
    """Return rows in the order of their likeness, the likest first."""
    closeness = closeness_of(sales.take(among), house, constants)
    return among[np.argsort(-closeness, kind="stable")]


def candidates(sales: Sales, house: House, parcel: int | None = None) -> Sales:
    """Return what a pool is narrowed from: what sold in the 24 months before, the subject's own sales left out."""
    recent = sales.before(house.day, WINDOW)
    return recent if parcel is None else recent.take(recent.parcel != parcel)


def narrow(sales: Sales, house: House, lines: Sequence[PoolLine], constants: Constants, inside: Inside | None = None) -> Pool:
    """Return the pool that lines leave of candidates, with its balance."""
    ordered = in_order(lines)
    masks = [holds(line, sales, house, (inside or {}).get(line.name)) for line in ordered]
    among = np.ones(len(sales), dtype=bool)
    lefts = []
    for mask in masks:
        among = among & mask
        lefts.append(int(among.sum()))
    rows = _likest(sales, np.flatnonzero(among), house, constants)
    most = next((int(line.amount) for line in ordered if line.kind is LineKind.LIKEST), None)
    broken = np.sum([~mask for mask in masks], axis=0) if masks else np.zeros(len(sales), dtype=int)
    found, before = [], len(sales)
    for line, mask, left in zip(ordered, masks, lefts, strict=True):
        if line.kind is LineKind.LIKEST:
            taken = min(before, int(line.amount))
            found.append(LineBalance(line, before - taken, taken, before - taken, 0))
            continue
        unknown = int((_unknown(line, sales, house) & ~mask).sum())
        found.append(LineBalance(line, before - left, left, int((~mask & (broken == 1)).sum()), unknown))
        before = left
    return Pool(rows[:most], len(sales), tuple(found))


def _count(sales: Sales, house: House, lines: Sequence[PoolLine], inside: Inside | None) -> int:
    among = np.ones(len(sales), dtype=bool)
    for line in lines:
        among &= holds(line, sales, house, (inside or {}).get(line.name))
    return int(among.sum())


def effects(sales: Sales, house: House, lines: Sequence[PoolLine], proposed: Sequence[PoolLine], inside: Inside | None = None) -> list[int]:
    """Return how many sales would be left with each proposed line, in the place of one of its kind where there is one."""
    kept = [line for line in lines if line.kind is not LineKind.LIKEST]
    found = []
    for one in proposed:
        of_area = one.kind in (LineKind.INSIDE, LineKind.OUTSIDE)
        others = [line for line in kept if of_area or line.kind is not one.kind]
        left = _count(sales, house, [*others, one], inside)
        found.append(min(left, int(one.amount)) if one.kind is LineKind.LIKEST else left)
    return found


_Step = tuple[LineKind, Callable[[PoolLine], PoolLine | None]]
_STEPS: tuple[_Step, ...] = (
    (LineKind.CLOSED, lambda line: wider(line, 365) if line.amount < 365 else None if line.amount >= WINDOW else wider(line, WINDOW)),
    (LineKind.WITHIN, lambda line: wider(line, 2 * line.amount)),
    (LineKind.AREA, lambda line: wider(line, max(line.amount, 30))),
    (LineKind.LOT, lambda line: wider(line, 2 * line.amount)),
    (LineKind.BATHS, lambda line: None),
    (LineKind.BEDS, lambda line: wider(line, max(line.amount, 1))),
    (LineKind.BUILT, lambda line: None),
    (LineKind.BEDS, lambda line: None),
    (LineKind.STORIES, lambda line: None),
    (LineKind.CONDITION, lambda line: None),
    (LineKind.FRONTAGE, lambda line: None),
    (LineKind.ACCESS, lambda line: None),
    (LineKind.USE, lambda line: None),
    (LineKind.CLOSED, lambda line: None),
    (LineKind.WITHIN, lambda line: wider(line, 4 * line.amount)),
    (LineKind.AREA, lambda line: None),
    (LineKind.LOT, lambda line: None),
    (LineKind.WITHIN, lambda line: None),
)
"""The order in which a pool that is too small is widened. Drawn areas never are, nor is the class: a shop is not told by houses."""


def widen(
    sales: Sales, house: House, lines: Sequence[PoolLine], inside: Inside | None = None, fewest: int = FEWEST
) -> tuple[tuple[PoolLine, ...], tuple[Widening, ...]]:
    """Return lines that leave enough comps, and the steps that led there: as few as do, in their order."""
    now, steps = list(in_order(lines)), []
    for kind, change in _STEPS:
        if _count(sales, house, now, inside) >= fewest:
            break
        # A limit in figures is meant as it is said.
        place = next((number for number, line in enumerate(now) if line.kind is kind and line.limits is None), None)
        if place is None:
            continue
        before = now[place]
        after = change(before)
        if after == before:
            continue
        now[place : place + 1] = [after] if after else []
        steps.append(Widening(before, after, _count(sales, house, now, inside)))
    return tuple(now), tuple(steps)
