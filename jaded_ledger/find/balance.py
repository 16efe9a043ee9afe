"""The running balance: how many parcels are left after each line, all from one statement."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import BigIntegerField, BooleanField, Count, ExpressionWrapper, IntegerField, Value
from django.db.models.functions import Cast, Coalesce

from jaded_ledger.find.compiling import Compiled

_TRUE, _UNKNOWN = 1, 2
_BITS = 2
_LINES_A_CODE = 31
"""A line's answer takes two bits of a 64-bit number."""


@dataclass(frozen=True)
class LineBalance:
    """What one line did. ``removed`` and ``unknown`` at its place, ``balance`` after it, ``if_struck`` what striking it
    alone would give back to the matches; None for a line that is not applied."""

    removed: int
    unknown: int
    balance: int
    if_struck: int | None


@dataclass(frozen=True)
class Balance:
    """A search's opening, lines and matches, in parcels."""

    opening: int
    lines: tuple[LineBalance, ...]
    matches: int

    @property
    def emptied_by(self) -> int | None:
        """The line after which nothing was left, from 0; None when something was, or nothing ever."""
        if self.opening == 0:
            return None
        return next((place for place, line in enumerate(self.lines) if line.balance == 0), None)


def _tally(compiled: Compiled) -> list[tuple[tuple[int, ...], int]]:
    """Count the parcels by how they answer to the applied lines: for each combination of answers, how many."""
    conditions = [condition for condition in compiled.conditions if condition is not None]
    if not conditions:
        return [((), compiled.opening.count())]
    codes = {}
    for start in range(0, len(conditions), _LINES_A_CODE):
        code = Value(0, output_field=BigIntegerField())
        for place, condition in enumerate(conditions[start : start + _LINES_A_CODE]):
            answer = Coalesce(Cast(ExpressionWrapper(condition, output_field=BooleanField()), IntegerField()), Value(_UNKNOWN))
            code = code + answer * Value(1 << (_BITS * place), output_field=BigIntegerField())
        codes[f"answers_{start}"] = ExpressionWrapper(code, output_field=BigIntegerField())
    counted = compiled.opening.annotate(**codes).values(*codes).annotate(parcels=Count("*")).order_by()
    tally = []
    for row in counted.values_list("parcels", *codes):
        answers = [
            (number >> (_BITS * place)) & (1 << _BITS) - 1
            for number, start in zip(row[1:], range(0, len(conditions), _LINES_A_CODE), strict=True)
            for place in range(min(_LINES_A_CODE, len(conditions) - start))
        ]
        tally.append((tuple(answers), row[0]))
    return tally


def balance(compiled: Compiled) -> Balance:
    """Return the running balance of a search."""
    applied = [place for place, condition in enumerate(compiled.conditions) if condition is not None]
    removed, unknown, gives_back = ([0] * len(applied) for _ in range(3))
    opening = matches = 0
    for answers, parcels in _tally(compiled):
        opening += parcels
        failed = [place for place, answer in enumerate(answers) if answer != _TRUE]
        if not failed:
            matches += parcels
            continue
        removed[failed[0]] += parcels
        if answers[failed[0]] == _UNKNOWN:
            unknown[failed[0]] += parcels
        if len(failed) == 1:
            gives_back[failed[0]] += parcels
    left, lines = opening, []
    at = {place: order for order, place in enumerate(applied)}
    for place in range(len(compiled.conditions)):
        order = at.get(place)
        if order is None:
            lines.append(LineBalance(0, 0, left, None))
            continue
        left -= removed[order]
        lines.append(LineBalance(removed[order], unknown[order], left, gives_back[order]))
    return Balance(opening, tuple(lines), matches)


def count_owners(compiled: Compiled) -> int:
    """Return how many owners the matches have."""
    return compiled.matches.aggregate(owners=Count("owner", distinct=True))["owners"]
