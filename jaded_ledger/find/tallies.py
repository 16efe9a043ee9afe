"""How the parcels of an opening answer to a search's lines: counted in one statement, and remembered.

A tally has, for each combination of answers, how many parcels give it. Whatever is asked of some of its lines, in whatever
order, is a sum over it: striking, applying again, moving and going back ask the database nothing.
See docs/decisions/0021-tallies-are-remembered.md.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from django.core.cache import caches
from django.db.models import BigIntegerField, Count, ExpressionWrapper, Value
from django.db.models.expressions import CombinedExpression

from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.line_answers import BITS, answer, answers_of, combinations
from jaded_ledger.find.reading_copy import ALIAS, answered

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


def _count(compiled: Compiled, lines: tuple[str, ...]) -> Tally:
    if not lines:
        return Tally((), ((b"", answered(compiled, lambda asked: asked.opening.count())),))
    return Tally(lines, answered(compiled, lambda asked: combinations(answers_of(asked)) if asked.opening.db == ALIAS else _counted(asked)))


def _counted(compiled: Compiled) -> tuple[tuple[bytes, int], ...]:
    conditions = [condition for condition in compiled.conditions if condition is not None]
    codes = {}
    for start in range(0, len(conditions), _LINES_A_CODE):
        code: Value | CombinedExpression = Value(0, output_field=BigIntegerField())
        for place, condition in enumerate(conditions[start : start + _LINES_A_CODE]):
            code = code + answer(condition) * Value(1 << (BITS * place), output_field=BigIntegerField())
        codes[f"answers_{start}"] = ExpressionWrapper(code, output_field=BigIntegerField())
    counted = compiled.opening.annotate(**codes).values(*codes).annotate(parcels=Count("*")).order_by()
    found = []
    for row in counted.values_list("parcels", *codes):
        answers = bytes(
            (number >> (BITS * place)) & (1 << BITS) - 1
            for number, start in zip(row[1:], range(0, len(conditions), _LINES_A_CODE), strict=True)
            for place in range(min(_LINES_A_CODE, len(conditions) - start))
        )
        found.append((answers, row[0]))
    return tuple(found)


def tally(compiled: Compiled) -> Tally:
    """Return the tally of a search's applied lines, in their order."""
    lines = compiled.line_texts
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
