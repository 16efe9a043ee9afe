"""Arithmetic that can be computed, read, and written into a spreadsheet, from one expression.

A figure of a worksheet is a :class:`Cell`: an input, or the result of an expression on other cells. The same expression is computed for
one worksheet and, with arrays in the place of numbers, for thousands of properties; it is told to whoever opens the figure; and it is the
live formula of the spreadsheet. So the three can't differ. A figure that is not known or not defined is not a number (NaN), never 0 and
never infinite, and whatever rests on it is not a number either.
"""

from __future__ import annotations

import math
import operator
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaded_ledger.core.deals.returns import internal_rate, present_value

Numbers = NDArray[np.float64] | np.float64 | float


class FigureUnit(StrEnum):
    """What a figure counts. A percentage is in points: 7 is 7 %. Money of a year is also told by the month."""

    MONEY = "money"
    MONEY_A_YEAR = "money-a-year"
    PERCENT = "percent"
    RATIO = "ratio"
    MONTHS = "months"
    YEARS = "years"
    YEAR = "year"
    FEET = "feet"
    SQUARE_FEET = "square-feet"
    COUNT = "count"


class Expression:
    """Arithmetic on cells. ``strength`` tells where parentheses are needed: + and − bind least, then × and ÷."""

    strength = 3

    def __add__(self, other: Term) -> Expression:
        return Binary("+", self, wrapped(other))

    def __radd__(self, other: Term) -> Expression:
        return Binary("+", wrapped(other), self)

    def __sub__(self, other: Term) -> Expression:
        return Binary("-", self, wrapped(other))

    def __rsub__(self, other: Term) -> Expression:
        return Binary("-", wrapped(other), self)

    def __mul__(self, other: Term) -> Expression:
        return Binary("*", self, wrapped(other))

    def __rmul__(self, other: Term) -> Expression:
        return Binary("*", wrapped(other), self)

    def __truediv__(self, other: Term) -> Expression:
        return Binary("/", self, wrapped(other))

    def __rtruediv__(self, other: Term) -> Expression:
        return Binary("/", wrapped(other), self)

    def parts(self) -> tuple[Expression, ...]:
        """What it is made of."""
        return ()


Term = Expression | float | int


@dataclass(frozen=True, eq=False)
class Number(Expression):
    """A number of the rule itself, such as the twelve months of a year."""

    value: float


@dataclass(frozen=True, eq=False)
class Cell(Expression):
    """A figure with its name. ``expression`` is None for an input, whose value is given by its key."""

    key: str
    label: str
    unit: FigureUnit
    expression: Expression | None = None

    @property
    def is_input(self) -> bool:
        return self.expression is None

    def __repr__(self) -> str:
        return f"Cell({self.key})"


@dataclass(frozen=True, eq=False)
class Binary(Expression):
    """Two terms added, subtracted, multiplied or divided. What is divided by 0 is not defined."""

    sign: str
    left: Expression
    right: Expression

    @property
    def strength(self) -> int:  # type: ignore[override]
        return 1 if self.sign in "+-" else 2

    def parts(self) -> tuple[Expression, ...]:
        return self.left, self.right


@dataclass(frozen=True, eq=False)
class Call(Expression):
    """A function of some terms, by its name in ``FUNCTIONS``."""

    name: str
    terms: tuple[Expression, ...]

    def parts(self) -> tuple[Expression, ...]:
        return self.terms


def wrapped(term: Term) -> Expression:
    """Return a term as an expression."""
    return term if isinstance(term, Expression) else Number(float(term))


def call(name: str, *terms: Term) -> Call:
    """Return a function of some terms."""
    return Call(name, tuple(wrapped(term) for term in terms))


def share(percent: Term) -> Call:
    """Return a percentage in points as a share: 7 % is 0.07."""
    return call("share", percent)


def percent(part: Term, whole: Term) -> Call:
    """Return a part in percent of a whole; not defined where that is not above 0, for the sign of such a share says nothing."""
    return call("percent", part, whole)


def least(*terms: Term) -> Call:
    """Return the smallest of several terms, in their unit."""
    return call("least", *terms)


def most(*terms: Term) -> Call:
    """Return the largest of several terms, in their unit."""
    return call("most", *terms)


def above(left: Term, right: Term) -> Call:
    """Return 1 where one term is above another, and 0 where it is not."""
    return call("above", left, right)


def where(test: Term, then: Term, otherwise: Term) -> Call:
    """Return a term where a test is above 0, and another where it is not."""
    return call("where", test, then, otherwise)


def total(terms: Sequence[Term]) -> Expression:
    """Return the sum of some terms; of none it is 0."""
    found = [wrapped(term) for term in terms]
    if not found:
        return Number(0.0)
    result = found[0]
    for term in found[1:]:
        result = result + term
    return result


def _finite(value: Any) -> Numbers:
    if isinstance(value, float):
        return value if math.isfinite(value) else math.nan
    return np.where(np.isfinite(value), value, np.nan)[()]


def _divided(left: Numbers, right: Numbers) -> Numbers:
    if isinstance(left, float) and isinstance(right, float):
        return _finite(float(left) / float(right)) if right else math.nan
    return _finite(np.divide(left, right))


def _percent(part: Numbers, whole: Numbers) -> Numbers:
    if isinstance(whole, float):
        return _divided(100 * part, whole) if whole > 0 else math.nan
    return _divided(100 * part, np.where(np.asarray(whole) > 0, whole, np.nan))


def _payment(principal: Numbers, yearly: Numbers, months: Numbers) -> Numbers:
    """Return the level payment a month; ``yearly`` is in percent. Not defined over less than one month."""
    rate = np.asarray(yearly, dtype=np.float64) / 1200
    months = np.where(np.asarray(months) >= 1, months, np.nan)
    level = np.where(rate == 0, principal / months, principal * rate / -np.expm1(-months * np.log1p(rate)))
    return _finite(level)


def _balance(principal: Numbers, yearly: Numbers, months: Numbers, paid: Numbers) -> Numbers:
    """Return what is left of a loan after so many level payments; nothing once all are made."""
    rate = np.asarray(yearly, dtype=np.float64) / 1200
    level = _payment(principal, yearly, months)
    grown = np.exp(np.asarray(paid, dtype=np.float64) * np.log1p(rate))
    left = np.where(rate == 0, principal - level * paid, principal * grown - level * np.divide(grown - 1, rate))
    done = np.asarray(paid) >= np.asarray(months)
    return _finite(np.where(done, 0.0 * level, np.where(np.asarray(paid) <= 0, principal + 0.0 * level, left)))


def _power(base: Numbers, exponent: Numbers) -> Numbers:
    # Of a base below 0 some powers are defined, and turn a loss of more than all into a gain.
    known = np.asarray(base, dtype=np.float64)
    return _finite(np.power(np.where(known >= 0, known, np.nan), exponent))


def _above(left: Numbers, right: Numbers) -> Numbers:
    if isinstance(left, float) and isinstance(right, float):
        return math.nan if math.isnan(left) or math.isnan(right) else float(left > right)
    return np.where(np.isnan(left) | np.isnan(right), np.nan, np.greater(left, right))[()]


def _where(test: Numbers, then: Numbers, otherwise: Numbers) -> Numbers:
    if isinstance(test, float):
        return math.nan if math.isnan(test) else then if test > 0 else otherwise
    return np.where(np.isnan(test), np.nan, np.where(np.asarray(test) > 0, then, otherwise))[()]


def _floor(value: Numbers) -> Numbers:
    # What is a whole number but for the last bit of a division is that number.
    return np.floor(np.asarray(value) + 1e-9)[()]


def _least(*values: Numbers) -> Numbers:
    return _reduce(np.minimum, values)


def _most(*values: Numbers) -> Numbers:
    return _reduce(np.maximum, values)


def _reduce(of_two: Callable[[Any, Any], Any], values: Sequence[Numbers]) -> Numbers:
    found = values[0]
    for value in values[1:]:
        found = of_two(found, value)
    return found


@dataclass(frozen=True)
class Function:
    """How a function is computed, and how it is written for a spreadsheet and for a reader: with its terms at {0}, {1}, or all at {all}."""

    compute: Callable[..., Numbers]
    formula: str
    reading: str


FUNCTIONS: Mapping[str, Function] = {
    "share": Function(lambda value: value / 100, "({0}/100)", "{0}"),
    "percent": Function(_percent, "(100*{0}/IF({1}>0,{1},NA()))", "{0} ÷ {1}"),
    "payment": Function(_payment, "-PMT({1}/1200,{2},{0})", "level payment on {0} at {1} over {2}"),
    "balance": Function(
        _balance, "IF({3}>={2},0*{2},FV({1}/1200,{3},-PMT({1}/1200,{2},{0}),-{0}))", "left of {0} at {1} over {2}, after {3} months"
    ),
    "power": Function(_power, "IF({0}>=0,({0})^({1}),NA())", "{0} to the power {1}"),
    "floor": Function(_floor, "ROUNDDOWN({0}+0.000000001,0)", "whole ones of {0}"),
    # MIN, MAX and comparisons overlook text in a cell; with a sum or a difference an unknown one is an error, as it should be.
    "least": Function(_least, "MIN({sums})", "the lesser of {all}"),
    "most": Function(_most, "MAX({sums})", "the greater of {all}"),
    "above": Function(_above, "IF({0}-{1}>0,1,0)", "{0} over {1}"),
    "where": Function(_where, "IF({0}>0,{1},{2})", "{1} where {0}, else {2}"),
    # Its terms are the flows, and after them their running totals, which tell whether there is one rate only.
    "irr": Function(
        lambda *terms: 100 * internal_rate(terms[: len(terms) // 2]),
        "(100*IF(AND(COUNT({flows})={count},OR({changes}=1,{changes_of_totals}=1)),IRR({flows}),NA()))",
        "the yearly rate at which the flows come to nothing",
    ),
    "npv": Function(
        lambda yearly, *flows: present_value(yearly / 100, flows),
        "({1}+IF(COUNT({after})={count},NPV({0}/100,{after}),NA()))", "the flows brought to today at {0}",
    ),
}  # fmt: skip


_SIGNS: Mapping[str, Callable[[Any, Any], Numbers]] = {"+": operator.add, "-": operator.sub, "*": operator.mul, "/": _divided}


class Values:
    """Figures computed from inputs, each once and when it is asked.

    ``inputs`` are by their cells' keys; one that is missing is unknown. A figure whose key is among them is taken as given, too.
    """

    def __init__(self, inputs: Mapping[str, Numbers]) -> None:
        self.inputs = inputs
        self._found: dict[int, Numbers] = {}
        self._kept: list[Expression] = []

    def __getitem__(self, cell: Expression) -> Numbers:
        known = self._found.get(id(cell))
        if known is None:
            with np.errstate(all="ignore"):
                known = self._compute(cell)
            self._found[id(cell)] = known
            self._kept.append(cell)
        return known

    def _compute(self, one: Expression) -> Numbers:
        match one:
            case Number(value=value):
                return value
            case Cell(key=key) if one.is_input or key in self.inputs:
                return self.inputs.get(key, np.nan)
            case Cell(expression=expression):
                assert expression is not None
                return _finite(self[expression]) if isinstance(expression, Cell) else self._compute(expression)
            case Binary(sign=sign, left=left, right=right):
                return _finite(_SIGNS[sign](self._of(left), self._of(right)))
            case Call(name=name, terms=terms):
                return FUNCTIONS[name].compute(*(self._of(term) for term in terms))
        raise TypeError(f"{one!r} can't be computed")

    def _of(self, one: Expression) -> Numbers:
        """Return a term's value; only cells are remembered, for only they occur twice."""
        return self[one] if isinstance(one, Cell) else self._compute(one)

    def number(self, cell: Expression) -> float | None:
        """Return a figure of one worksheet; None where it is not known or not defined."""
        value = float(self[cell])
        return None if np.isnan(value) else value


def unknown_inputs(cell: Cell, values: Values) -> list[Cell]:
    """Return the inputs for want of which a figure is not known, in the order in which they occur; none where it is not defined."""
    found: dict[str, Cell] = {}
    seen: set[int] = set()

    def walk(one: Expression) -> None:
        if id(one) in seen:
            return
        seen.add(id(one))
        if isinstance(one, Cell):
            if one.expression is None:
                if np.isnan(values[one]):
                    found.setdefault(one.key, one)
                return
            if not np.isnan(values[one]):
                return
            walk(one.expression)
            return
        for part in one.parts():
            walk(part)

    walk(cell)
    return list(found.values())


def cells_of(expression: Expression) -> list[Cell]:
    """Return the cells that an expression is written with, each once, in their order."""
    if isinstance(expression, Cell):
        return [expression]
    found: dict[str, Cell] = {}
    for part in expression.parts():
        found.update((cell.key, cell) for cell in cells_of(part))
    return list(found.values())
