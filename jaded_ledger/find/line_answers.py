"""How every parcel of an opening answers to each line, as the reading copy tells it.

The answers are remembered, a byte a parcel, so that a new line asks for itself alone, however many lines and counties there are.
See docs/decisions/0053-answers-are-remembered.md.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import reduce
from typing import cast

import numpy as np
from django.db import connections
from django.db.models import BigIntegerField, BooleanField, ExpressionWrapper, F, IntegerField, Q, Value
from django.db.models.expressions import Combinable
from django.db.models.functions import Cast, Coalesce

from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.remembered_arrays import RememberedArrays
from jaded_ledger.records.reading_copy.backend.base import DatabaseWrapper

FALSE, TRUE, UNKNOWN = 0, 1, 2
BITS = 2
"""An answer takes so many bits of a number."""
_MOST_CODES = 1 << 20
"""So many combinations may be counted at once by their number."""
_NOBODY = -1
_REMEMBERED = RememberedArrays(48 << 20)


def answer(condition: Q) -> Combinable:
    """Return a condition's answer as a number."""
    return Coalesce(Cast(ExpressionWrapper(condition, output_field=BooleanField()), IntegerField()), Value(UNKNOWN))


def _arrays(asked: Compiled, wanted: dict[str, Combinable], dtype: type[np.generic]) -> list[np.ndarray]:
    """Return what some expressions give for each parcel of the opening; by name those are remembered, the others asked together."""
    copy = cast("DatabaseWrapper", connections[asked.opening.db])
    # A schema's name stands for the versions of its counties, so that arrays of one are of the same rows.
    keys: dict[str, Hashable] = {name: (copy.schema, asked.state, name) for name in wanted}
    found = {name: array for name, key in keys.items() if (array := _REMEMBERED.get(key)) is not None}
    if missing := [name for name in wanted if name not in found]:
        columns = {f"asked_{place}": wanted[name] for place, name in enumerate(missing)}
        answers = copy.arrays(asked.opening.annotate(**columns).values_list(*columns).order_by())
        for name, column in zip(missing, columns, strict=True):
            found[name] = answers[column].astype(dtype)
            _REMEMBERED.put(keys[name], found[name])
    return [found[name] for name in wanted]


def answers_of(asked: Compiled) -> list[np.ndarray]:
    """Return how the parcels of an opening answer to a search's applied lines; ``asked`` is the search as its copy is asked."""
    lines = asked.line_texts
    conditions = [condition for condition in asked.conditions if condition is not None]
    wanted = {line: answer(condition) for line, condition in zip(lines, conditions, strict=True)}
    found = dict(zip(wanted, _arrays(asked, wanted, np.uint8), strict=True))
    return [found[line] for line in lines]


def parcels_of(asked: Compiled) -> np.ndarray:
    """Return which parcels ``answers_of`` tells of, in its order."""
    (ids,) = _arrays(asked, {"pk": F("pk")}, np.int64)
    return ids


def combinations(answers: Sequence[np.ndarray]) -> tuple[tuple[bytes, int], ...]:
    """Return how many parcels give each combination of answers, which are one byte a line; at least one line is needed.

    >>> combinations([np.array([1, 1, 2], np.uint8), np.array([0, 0, 1], np.uint8)])
    ((b'\\x01\\x00', 2), (b'\\x02\\x01', 1))
    """
    met, place, left = [b""], np.zeros(len(answers[0]), np.uint32), list(answers)
    counts = np.array([len(answers[0])])
    while left:
        # As many lines at once as leave the combinations numbers small enough to count by.
        taken = 1
        while taken < len(left) and len(met) << BITS * (taken + 1) <= _MOST_CODES:
            taken += 1
        for array in left[:taken]:
            place <<= BITS
            place |= array
        counted = np.bincount(place, minlength=len(met) << BITS * taken)
        codes = np.flatnonzero(counted)
        counts = counted[codes]
        shifts = range(BITS * (taken - 1), -1, -BITS)
        met = [met[code >> BITS * taken] + bytes(code >> shift & (1 << BITS) - 1 for shift in shifts) for code in codes.tolist()]
        left = left[taken:]
        if left:
            renumbered = np.zeros(len(counted), np.uint32)
            renumbered[codes] = np.arange(len(codes))
            place = renumbered[place]
    return tuple(zip(met, counts.tolist(), strict=True))


def owners_of(asked: Compiled) -> int:
    """Return how many owners a search's matches have."""
    (owner,) = _arrays(asked, {"": Coalesce(F("owner"), Value(_NOBODY, output_field=BigIntegerField()))}, np.int64)
    if answers := answers_of(asked):
        owner = owner[reduce(np.logical_and, (answer == TRUE for answer in answers))]
    owner = np.sort(owner[owner != _NOBODY])
    return int(np.count_nonzero(np.diff(owner))) + 1 if owner.size else 0
