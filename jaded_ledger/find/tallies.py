"""How the parcels of an opening answer to a search's lines: counted in one statement, and remembered.

A tally has, for each combination of answers, how many parcels give it. Whatever is asked of some of its lines, in whatever
order, is a sum over it: striking, applying again, moving and going back ask the database nothing.
See docs/decisions/0021-tallies-are-remembered.md.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.core.cache import caches
from django.db.models import BigIntegerField, BooleanField, Count, ExpressionWrapper, IntegerField, Value
from django.db.models.expressions import CombinedExpression
from django.db.models.functions import Cast, Coalesce

from jaded_ledger.core.criteria.search import AnyOf, Line, Search
from jaded_ledger.core.criteria.text import format
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.reading_copy import answered

FALSE, TRUE, UNKNOWN = 0, 1, 2
_BITS = 2
_LINES_A_CODE = 31
"""A line's answer takes two bits of a 64-bit number."""
_KEPT = 16
"""How many tallies of an opening are remembered, the latest first."""
_MOST_COMBINATIONS = 5_000
"""A search of very many lines is not remembered: reading the tally would take longer than counting again."""


@dataclass(frozen=True)
class Tally:
    """For each combination of answers to some lines, one byte a line, how many parcels give it."""

    lines: tuple[str, ...]
    combinations: tuple[tuple[bytes, int], ...]

    def of(self, lines: Sequence[str]) -> Tally:
        """Return the tally of some of the lines, in their order. Raises ValueError for a line that is none of them."""
        places = [self.lines.index(line) for line in lines]
        found: Counter[bytes] = Counter()
        for answers, parcels in self.combinations:
            found[bytes([answers[place] for place in places])] += parcels
        return Tally(tuple(lines), tuple(found.items()))


def _text(line: Line) -> str:
    """Return what tells a line from others, whether or not it asks for its value."""
    if isinstance(line, AnyOf):
        line = replace(line, criteria=tuple(replace(member, ask=False) for member in line.criteria if member.is_applied))
    else:
        line = replace(line, ask=False)
    return format(Search((), (line,)))


def _count(compiled: Compiled, lines: tuple[str, ...]) -> Tally:
    if not lines:
        return Tally((), ((b"", answered(compiled, lambda asked: asked.opening.count())),))
    return Tally(lines, answered(compiled, _combinations))


def _combinations(compiled: Compiled) -> tuple[tuple[bytes, int], ...]:
    conditions = [condition for condition in compiled.conditions if condition is not None]
    codes = {}
    for start in range(0, len(conditions), _LINES_A_CODE):
        code: Value | CombinedExpression = Value(0, output_field=BigIntegerField())
        for place, condition in enumerate(conditions[start : start + _LINES_A_CODE]):
            answer = Coalesce(Cast(ExpressionWrapper(condition, output_field=BooleanField()), IntegerField()), Value(UNKNOWN))
            code = code + answer * Value(1 << (_BITS * place), output_field=BigIntegerField())
        codes[f"answers_{start}"] = ExpressionWrapper(code, output_field=BigIntegerField())
    counted = compiled.opening.annotate(**codes).values(*codes).annotate(parcels=Count("*")).order_by()
    combinations = []
    for row in counted.values_list("parcels", *codes):
        answers = bytes(
            (number >> (_BITS * place)) & (1 << _BITS) - 1
            for number, start in zip(row[1:], range(0, len(conditions), _LINES_A_CODE), strict=True)
            for place in range(min(_LINES_A_CODE, len(conditions) - start))
        )
        combinations.append((answers, row[0]))
    return tuple(combinations)


def tally(compiled: Compiled) -> Tally:
    """Return the tally of a search's applied lines, in their order."""
    asked = zip(compiled.search.lines, compiled.conditions, strict=True)
    lines = tuple(_text(line) for line, condition in asked if condition is not None)
    # Which state it is of is read before what is counted: what changes in between is then never taken for newer than it is.
    place, memory = compiled.state, caches["tallies"]
    kept: list[Tally] = memory.get(place) or []
    for one in kept:
        if set(lines) <= set(one.lines):
            return one.of(lines)
    found = _count(compiled, lines)
    if len(found.combinations) <= _MOST_COMBINATIONS:
        memory.set(place, [found, *(one for one in kept if not set(one.lines) <= set(lines))][:_KEPT])
    return found
