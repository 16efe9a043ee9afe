"""How each parcel of a search's counties answers to each of its lines, so that it can be told later which of them did not hold."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import reduce
from itertools import islice

import numpy as np

from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.line_answers import TRUE, answer, answers_of, parcels_of
from jaded_ledger.find.reading_copy import ALIAS, answered

_AT_ONCE = 20_000


@dataclass(frozen=True)
class AnswersByParcel:
    """Parcels in any order, and for each applied line its answers in that order: ``FALSE``, ``TRUE`` or ``UNKNOWN``."""

    parcels: np.ndarray
    lines: tuple[np.ndarray, ...]

    @property
    def matches(self) -> list[int]:
        """Which parcels every line leaves."""
        if not self.lines:
            return list(map(int, self.parcels))
        held = reduce(np.logical_and, (line == TRUE for line in self.lines))
        return list(map(int, self.parcels[held]))


def _of_rows(rows: Iterable[Sequence[int]], lines: int) -> AnswersByParcel:
    """Return the answers of rows of a parcel's id and its answers; so many at once, for there may be a million."""
    left, parts = iter(rows), [np.empty((0, lines + 1), np.int64)]
    while batch := list(islice(left, _AT_ONCE)):
        parts.append(np.array(batch, np.int64))
    whole = np.concatenate(parts)
    return AnswersByParcel(whole[:, 0], tuple(whole[:, place].astype(np.uint8) for place in range(1, lines + 1)))


def answers_by_parcel(compiled: Compiled) -> AnswersByParcel:
    """Return how each parcel of the chosen counties answers to each applied line."""

    def ask(asked: Compiled) -> AnswersByParcel:
        if asked.opening.db == ALIAS:
            return AnswersByParcel(parcels_of(asked), tuple(answers_of(asked)))
        columns = {f"asked_{place}": answer(one) for place, one in enumerate(asked.conditions) if one is not None}
        rows = asked.opening.annotate(**columns).order_by().values_list("pk", *columns)
        return _of_rows(rows.iterator(chunk_size=_AT_ONCE), len(columns))

    return answered(compiled, ask)


def answers_of_parcel(compiled: Compiled, parcel: int) -> str | None:
    """Return how one parcel answers to each applied line, a digit a line; None where it is not of the chosen counties."""
    columns = {f"asked_{place}": answer(one) for place, one in enumerate(compiled.conditions) if one is not None}
    found = compiled.opening.filter(pk=parcel).annotate(**columns).values_list("pk", *columns).first()
    return None if found is None else "".join(map(str, found[1:]))
