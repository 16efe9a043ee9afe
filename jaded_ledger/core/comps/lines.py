"""The lines that narrow a pool of comps, each said of the subject: within a mile of it, of its class, of about its size."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum

import numpy as np

from jaded_ledger.core.comps.limits import Limits, limits_of
from jaded_ledger.core.comps.sales import House, Mask, Sales
from jaded_ledger.core.lengths import METERS_PER_MILE


class LineKind(StrEnum):
    """What a line narrows by."""

    WITHIN = "within"
    CLOSED = "closed"
    CLASS = "class"
    AREA = "area"
    BEDS = "beds"
    BATHS = "baths"
    BUILT = "built"
    LOT = "lot"
    STORIES = "stories"
    CONDITION = "condition"
    FRONTAGE = "frontage"
    USE = "use"
    ACCESS = "access"
    PRICE = "price"
    SIDE = "side"
    INSIDE = "inside"
    OUTSIDE = "outside"
    LIKEST = "likest"


@dataclass(frozen=True)
class Rule:
    """How a kind of line compares. ``trait`` is what it looks at; ``share`` and ``steps`` are both amounts either side of the subject's."""

    label: str
    trait: str = ""
    is_share: bool = False
    is_same: bool = False
    unit: str = ""
    usual: float = 0.0
    most: float = 0.0
    limits: str = ""
    """How a limit on it is said, for a kind that takes one in the place of so much either side."""


RULES = {
    LineKind.WITHIN: Rule("within", unit="mi", usual=1, most=100),
    LineKind.CLOSED: Rule("closed", unit="days", usual=365, most=730),
    LineKind.CLASS: Rule("class", "property_class", is_same=True),
    LineKind.AREA: Rule("living area", "living_area", is_share=True, unit="%", usual=20, most=500, limits="under 1,350"),
    LineKind.BEDS: Rule("beds", "beds", usual=1, most=20, limits="3 or more"),
    LineKind.BATHS: Rule("baths", "baths", usual=1, most=20, limits="2 or more"),
    LineKind.BUILT: Rule("built", "year_built", unit="years", usual=20, most=300, limits="before 1965"),
    LineKind.LOT: Rule("lot", "lot_sqft", is_share=True, unit="%", usual=50, most=1_000, limits="over 5,000"),
    LineKind.STORIES: Rule("stories", "stories", is_same=True),
    LineKind.CONDITION: Rule("condition", "condition", is_same=True),
    LineKind.FRONTAGE: Rule("frontage", "frontage", is_share=True, unit="%", usual=30, most=1_000, limits="over 40"),
    LineKind.USE: Rule("zoning", "zoning", is_same=True),
    LineKind.ACCESS: Rule("road class", "road_class", is_same=True),
    LineKind.PRICE: Rule("price", limits="205k to 260k"),
    LineKind.SIDE: Rule("same side of barriers", is_same=True),
    LineKind.INSIDE: Rule("inside"),
    LineKind.OUTSIDE: Rule("not inside"),
    LineKind.LIKEST: Rule("the likest", usual=12, most=40),
}
_ONE_LINE = re.compile(r'(?:"(?:[^"\n]|"")*"|[^;\n])+')
WINDOW = 730
"""Days of sales that a pool is narrowed from."""


class PoolError(ValueError):
    """A line that can't be read; the message says what of it, and what could be written."""


@dataclass(frozen=True)
class PoolLine:
    """A line of a pool: its kind and how far it reaches either side of the subject's, or its limits, or, of a drawn area, its name."""

    kind: LineKind
    amount: float = 0.0
    name: str = ""
    limits: Limits | None = None

    def __str__(self) -> str:
        rule = RULES[self.kind]
        if self.kind in (LineKind.INSIDE, LineKind.OUTSIDE):
            return f"{self.kind}: {_quoted(self.name)}"
        if self.limits is not None:
            return f"{self.kind}: {self.limits.written(is_year=self.kind is LineKind.BUILT)}"
        return f"{self.kind}: " + ("same" if rule.is_same else " ".join(filter(None, (f"{self.amount:g}", rule.unit))))


def _quoted(name: str) -> str:
    """Return a name as it stands in a line: in quotes where it could be taken for more than one."""
    return '"{}"'.format(name.replace('"', '""')) if '"' in name or ";" in name else name


def parse_line(text: str) -> PoolLine:
    """Read a line as it is written. Raises PoolError.

    >>> str(parse_line("area: 20")), str(parse_line("Class: same")), str(parse_line("within: 0.5 mi"))
    ('area: 20 %', 'class: same', 'within: 0.5 mi')
    >>> str(parse_line("area: under 1350")), str(parse_line("built: before 1965")), str(parse_line("price: 205k to 260k"))
    ('area: under 1,350', 'built: before 1965', 'price: 205,000 to 260,000')
    """
    key, colon, value = text.partition(":")
    try:
        kind = LineKind(key.strip().casefold())
    except ValueError as error:
        raise PoolError(f"“{text.strip()[:80]}” is no line of a pool; lines are {', '.join(LineKind)}, as in “within: 1 mi”") from error
    rule, value = RULES[kind], value.strip()
    if not colon or not value:
        raise PoolError(f"“{kind}” wants a value, as in “{PoolLine(kind, rule.usual, 'Harbor blocks')}”")
    if kind in (LineKind.INSIDE, LineKind.OUTSIDE):
        name = value[1:-1].replace('""', '"') if len(value) > 1 and value[0] == value[-1] == '"' else value
        return PoolLine(kind, name=name[:80])
    if rule.is_same:
        if value.casefold() != "same":
            raise PoolError(f"“{kind}” can only be “same”: as the subject’s")
        return PoolLine(kind)
    if rule.limits:
        try:
            limits = limits_of(value)
        except ValueError as error:
            raise PoolError(f"“{value[:40]}” limits no {rule.label}; write “{kind}: {rule.limits}”") from error
        if limits is not None:
            return PoolLine(kind, limits=limits)
    if kind is LineKind.PRICE:
        raise PoolError(f"“{value[:40]}” is no limit of a price; write “{kind}: {rule.limits}”, or “{kind}: under 260k”")
    number = value.removesuffix(rule.unit).removesuffix(rule.unit.rstrip("s")).strip() if rule.unit else value
    try:
        amount = float(number)
    except ValueError as error:
        other = f", or “{kind}: {rule.limits}”" if rule.limits else ""
        raise PoolError(f"“{value[:40]}” is not a number of {rule.unit or kind}; write “{PoolLine(kind, rule.usual)}”{other}") from error
    least = 0.0 if rule.trait else 0.01
    if not least <= amount <= rule.most or (kind is LineKind.LIKEST and amount != int(amount)):
        raise PoolError(f"“{kind}” goes up to {rule.most:g}{f' {rule.unit}' if rule.unit else ''}, and is above 0: not {number[:20]}")
    return PoolLine(kind, amount)


def parse_lines(text: str) -> tuple[PoolLine, ...]:
    """Read lines, one a line or parted by semicolons; a kind that stands twice but of drawn areas is an error. Raises PoolError."""
    lines = [parse_line(one) for one in _ONE_LINE.findall(text) if one.strip()]
    kinds = [line.kind for line in lines if line.kind not in (LineKind.INSIDE, LineKind.OUTSIDE)]
    twice = next((kind for kind in kinds if kinds.count(kind) > 1), None)
    if twice:
        raise PoolError(f"“{twice}” stands twice; leave one of them")
    return in_order(lines)


def in_order(lines: Sequence[PoolLine]) -> tuple[PoolLine, ...]:
    """Return lines as they take effect: the likest are taken of what all others leave."""
    return tuple(sorted(lines, key=lambda line: line.kind is LineKind.LIKEST))


USUAL_OF_HOUSES = parse_lines("within: 1 mi; closed: 365 days; class: same; area: 20 %; beds: 1; built: 20 years; likest: 12")
USUAL_OF_LAND = parse_lines("within: 3 mi; closed: 730 days; class: same; lot: 50 %; likest: 12")
"""The shipped lines; docs/decisions/0049-the-method-of-comps.md says why these."""


def holds(line: PoolLine, sales: Sales, house: House, inside: Mask | None = None) -> Mask:
    """Return of which sales a line holds; where the subject's own is unknown, of all, and where a sale's is, not.

    ``inside`` tells which lie in the area that a line names, or on the subject's side of barriers. The likest are not chosen here.
    """
    rule = RULES[line.kind]
    match line.kind:
        case LineKind.WITHIN if house.longitude is None:
            return np.ones(len(sales), dtype=bool)
        case LineKind.WITHIN:
            return sales.meters_from(house) <= line.amount * METERS_PER_MILE
        case LineKind.CLOSED:
            return house.day.toordinal() - sales.day <= line.amount
        case LineKind.SIDE:
            return np.ones(len(sales), dtype=bool) if inside is None else inside
        case LineKind.INSIDE | LineKind.OUTSIDE:
            of_area = np.zeros(len(sales), dtype=bool) if inside is None else inside
            return of_area if line.kind is LineKind.INSIDE else ~of_area
        case LineKind.LIKEST:
            return np.ones(len(sales), dtype=bool)
    if line.limits is not None:
        return line.limits.hold(sales.price if line.kind is LineKind.PRICE else sales.traits[rule.trait])
    if not house.knows(rule.trait):
        return np.ones(len(sales), dtype=bool)
    own, others = house.value(rule.trait), sales.traits[rule.trait]
    if rule.is_same:
        same: Mask = others == own
        return same
    low, high = bounds(line, own)
    return (others >= low) & (others <= high)


def bounds(line: PoolLine, own: float) -> tuple[float, float]:
    """Return the least and the most that a line lets in, where the subject has so much.

    >>> bounds(PoolLine(LineKind.AREA, 20), 1_000), bounds(PoolLine(LineKind.BEDS, 1), 3)
    ((800.0, 1200.0), (2, 4))
    """
    if RULES[line.kind].is_share:
        return round(own * (100 - line.amount) / 100, 6), round(own * (100 + line.amount) / 100, 6)
    return own - line.amount, own + line.amount


def wider(line: PoolLine, amount: float) -> PoolLine:
    """Return a line with another amount, in the line's own unit."""
    return replace(line, amount=amount)


def first_day(line: PoolLine, day: date) -> date:
    """Return the first day of which a line of days takes sales."""
    return date.fromordinal(day.toordinal() - int(line.amount))
