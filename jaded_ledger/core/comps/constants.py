"""The constants of the method: by how much a price changes with what, and how much each comp counts.

They are measured from a county's own sales by a linear regression of log prices on the terms, in which sales far off count
less (Huber, *Robust Statistics*, 1981) and terms that few sales tell of are held small (ridge; Hoerl and Kennard, *Technometrics*
12(1), 1970). Hedonic regression of prices on traits: Rosen, *Journal of Political Economy* 82(1), 1974.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from jaded_ledger.core.comps.likeness import SHIPPED_FOR_LAND, SHIPPED_LIKENESS, Likeness, Origin, measure_likeness
from jaded_ledger.core.comps.sales import Mask, Numbers, Sales
from jaded_ledger.core.comps.terms import CONDITIONS, KINDS, LIVING, OF_HOUSES, OF_LAND, Shape, Term, kind_term

WINDOW = 730
"""Days of sales that the constants are measured from."""
ENOUGH = 100
"""Under this many sales nothing is measured, and the shipped constants stand."""
ENOUGH_OF_KIND = 30
"""A kind that fewer sales are of, or are not of, is no term."""
MOST = 5_000
"""Of more sales an even sample is measured."""
_RIDGE = 3.0
_FAR = 1.5
_TURNS = 8
SHIPPED_SHARE = 0.5


@dataclass(frozen=True)
class Coefficient:
    """A term with the change of the log price by one unit of it, and where that comes from. ``typical`` is its standard deviation."""

    term: Term
    value: float
    origin: Origin
    typical: float = 0.0

    @property
    def text(self) -> str:
        return self.term.text_of(self.value)


@dataclass(frozen=True)
class Constants:
    """What the method needs to know of a county, as of a day. ``monthly`` is the change of log prices by a month.

    ``noise`` is how far one sale's log price usually lies from what the terms tell of it, and ``sales`` how many were measured.
    """

    through: date
    coefficients: tuple[Coefficient, ...]
    monthly: float
    time_origin: Origin
    likeness: Likeness
    noise: float
    sales: int

    @property
    def is_measured(self) -> bool:
        return self.sales >= ENOUGH

    @property
    def of_repaired(self) -> Constants:
        """The constants for sales after repair: the condition on record, from before the repair, changes no price."""
        return replace(self, coefficients=tuple(one for one in self.coefficients if one.term.trait != "condition"))


def shipped(through: date, yearly_growth: float | None = None, *, is_land: bool = False, sales: int = 0) -> Constants:
    """Return the constants that stand where too few sales tell: half of $/sq ft for what is larger or smaller, and nothing else.

    ``yearly_growth`` is the area's index, in percent a year; unknown, prices are taken to stand still.
    """
    size, likeness = (OF_LAND[0], SHIPPED_FOR_LAND) if is_land else (LIVING, SHIPPED_LIKENESS)
    monthly = math.log1p(yearly_growth / 100) / 12 if yearly_growth is not None else 0.0
    return Constants(through, (Coefficient(size, SHIPPED_SHARE, Origin.SHIPPED, 0.35),), monthly, Origin.SHIPPED, likeness, 0.15, sales)


def even_sample(sales: Sales, most: int) -> Sales:
    """Return at most so many sales, evenly spaced in time."""
    return sales if len(sales) <= most else sales.take(np.linspace(0, len(sales) - 1, most).astype(np.intp))


def _kinds(sales: Sales, names: Mapping[tuple[str, float], str]) -> list[Term]:
    """Return a term for each kind that is common enough, but the commonest, which the others are compared with."""
    found = []
    for trait in KINDS:
        codes, counts = np.unique(sales.traits[trait][~np.isnan(sales.traits[trait])], return_counts=True)
        usual = sorted(zip(counts.tolist(), (-codes).tolist(), strict=True), reverse=True)[1:]
        found += [
            kind_term(trait, -code, names.get((trait, -code), f"{-code:g}"))
            for count, code in usual
            if count >= ENOUGH_OF_KIND
        ]  # fmt: skip
    return found


def in_order(coefficients: Sequence[Coefficient], sales: Sales, names: Mapping[tuple[str, float], str]) -> tuple[Coefficient, ...]:
    """Return coefficients with one for each recorded condition, by which a worse condition never makes a price higher.

    The commonest condition is what the others are compared with, and has none. Away from it, one that too few sales tell of counts as the
    next milder one does, and so does one that the sales put on the wrong side of that.
    """
    codes, counts = np.unique(sales.traits["condition"][~np.isnan(sales.traits["condition"])], return_counts=True)
    ranks = {code: CONDITIONS.index(name) for (trait, code), name in names.items() if trait == "condition" and name in CONDITIONS}
    if not len(codes) or (usual := float(codes[np.argmax(counts)])) not in ranks:
        return tuple(coefficients)
    known = {one.term.code: one for one in coefficients if one.term.trait == "condition"}
    found: dict[float, Coefficient] = {}
    for sign in (-1, 1):
        milder = 0.0
        for code in sorted((code for code in ranks if sign * (ranks[code] - ranks[usual]) > 0), key=lambda one: sign * ranks[one]):
            one = known.get(code)
            if one is None or sign * (one.value - milder) < 0:
                term = kind_term("condition", code, names["condition", code])
                one = Coefficient(term, milder, Origin.NEIGHBOR, float(np.nanstd(term.of_sales(sales))))
            found[code], milder = one, one.value
    rest = [one for one in coefficients if one.term.trait != "condition" or one.term.code not in ranks]
    return (*rest, *(found[code] for code in sorted(found, key=lambda one: ranks[one])))


def _tells(values: Numbers, term: Term) -> bool:
    """Return whether enough sales tell of a term, and differ in it."""
    known = values[~np.isnan(values)]
    if len(known) < ENOUGH_OF_KIND:
        return False
    if term.shape is Shape.IS:
        return bool(ENOUGH_OF_KIND <= known.sum() <= len(known) - ENOUGH_OF_KIND)
    usual = np.median(known)
    return bool((known != usual).sum() >= ENOUGH_OF_KIND)


def _weights(misses: Numbers) -> tuple[Numbers, float]:
    """Return how much each sale counts by how far it lies off, and how far they usually lie."""
    usual = max(1.4826 * float(np.median(np.abs(misses))), 1e-6)
    return 1 / np.maximum(1, np.abs(misses) / (_FAR * usual)), usual


def _regression(logs: Numbers, columns: Numbers) -> tuple[Numbers, Numbers, float]:
    """Return the coefficients of columns that are centered and scaled, the first of them the constant, what is left, and its usual size."""
    held = np.eye(columns.shape[1]) * _RIDGE
    held[0, 0] = 0
    weights: Numbers = np.ones(len(logs))
    usual, left = 1.0, logs
    found: Numbers = np.zeros(columns.shape[1])
    for _ in range(_TURNS):
        weighed = columns.T * weights
        found = np.asarray(np.linalg.solve(weighed @ columns + held, weighed @ logs), dtype=np.float64)
        left = logs - columns @ found
        weights, usual = _weights(left)
    return found, left, usual


def measure(
    sales: Sales,
    day: date,
    names: Mapping[tuple[str, float], str] | None = None,
    *,
    is_land: bool = False,
    yearly_growth: float | None = None,
) -> Constants:
    """Measure the constants from the sales of the 24 months before a day.

    ``names`` tells the kinds of a trait by their codes. Too few sales: the shipped constants.
    """
    recent = sales.before(day, WINDOW)
    with_terms = _with_terms(recent, is_land=is_land)
    recent = even_sample(recent.take(with_terms), MOST)
    if len(recent) < ENOUGH:
        return shipped(day, yearly_growth, is_land=is_land, sales=len(recent))
    wanted = [*(OF_LAND if is_land else OF_HOUSES), *([] if is_land else _kinds(recent, names or {}))]
    columns = {term: values for term in wanted if _tells(values := term.of_sales(recent), term)}
    logs, months = np.log(recent.price), -recent.months_before(day)
    centers = [float(np.nanmean(values)) for values in columns.values()]
    scales = [max(float(np.nanstd(values)), 1e-9) for values in columns.values()]
    scaled = [np.nan_to_num((values - center) / scale) for values, center, scale in zip(columns.values(), centers, scales, strict=True)]
    found, left, noise = _regression(logs, np.column_stack([np.ones(len(recent)), *scaled, months / 12]))
    coefficients = tuple(
        Coefficient(term, float(value / scale), Origin.MEASURED, scale)
        for term, value, scale in zip(columns, found[1:-1], scales, strict=True)
    )
    if not is_land:
        coefficients = in_order(coefficients, recent, names or {})
    before = Constants(day, coefficients, float(found[-1]) / 12, Origin.MEASURED, SHIPPED_LIKENESS, noise, len(recent))
    return replace(before, likeness=measure_likeness(recent, left, _prices_of(coefficients, recent)))


def _with_terms(sales: Sales, *, is_land: bool) -> Mask:
    """Return which sales are of a kind: houses, whose living area is known, or land."""
    built = ~np.isnan(sales.traits["living_area"])
    return (~built & (sales.traits["lot_sqft"] > 0) if is_land else built) & (sales.price > 0)


def _prices_of(coefficients: Sequence[Coefficient], sales: Sales) -> Numbers:
    """Return a row for each sale and a column for each term: by how much its log price is changed by it."""
    return np.column_stack([one.term.of_sales(sales) * one.value for one in coefficients])


LIKENESS_KEYS = {"likeness-miles": "miles", "likeness-adjustment": "adjustment", "likeness-months": "months"}
"""By the key under which it is set, what of the likeness it is."""


def set_by_hand(constants: Constants, values: Mapping[str, float], terms: Sequence[Term] = ()) -> Constants:
    """Return constants with those that somebody set in the place of what was measured, by the keys of their terms; ``time`` is monthly.

    ``terms`` are those that can be set without having been measured.
    """
    likeness = {name: values[key] for key, name in LIKENESS_KEYS.items() if key in values}
    if likeness:
        constants = replace(constants, likeness=replace(constants.likeness, **likeness, origin=Origin.BY_HAND))
    known = {one.term.key: one for one in constants.coefficients}
    for term in terms:
        known.setdefault(term.key, Coefficient(term, 0.0, Origin.SHIPPED))
    changed = tuple(
        replace(one, value=values[key], origin=Origin.BY_HAND) if key in values else one
        for key, one in known.items()
        if key in values or one in constants.coefficients
    )
    if "time" in values:
        constants = replace(constants, monthly=values["time"], time_origin=Origin.BY_HAND)
    return replace(constants, coefficients=changed)
