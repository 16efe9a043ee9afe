"""The running balance: how many parcels are left after each line, all from one tally."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Count

from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.line_answers import TRUE, UNKNOWN, owners_of
from jaded_ledger.find.reading_copy import ALIAS, answered
from jaded_ledger.find.tallies import tally


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


def balance(compiled: Compiled) -> Balance:
    """Return the running balance of a search."""
    applied = [place for place, condition in enumerate(compiled.conditions) if condition is not None]
    removed, unknown, gives_back = ([0] * len(applied) for _ in range(3))
    opening = matches = 0
    for answers, parcels in tally(compiled).combinations:
        opening += parcels
        failed = [place for place, answer in enumerate(answers) if answer != TRUE]
        if not failed:
            matches += parcels
            continue
        removed[failed[0]] += parcels
        if answers[failed[0]] == UNKNOWN:
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


def count_matches(compiled: Compiled) -> int:
    """Return how many parcels match, where nothing else is asked of the lines."""
    return answered(compiled, lambda asked: asked.matches.count())


def count_owners(compiled: Compiled) -> int:
    """Return how many owners the matches have."""

    def count(asked: Compiled) -> int:
        if asked.opening.db == ALIAS:
            return owners_of(asked)
        return asked.matches.aggregate(owners=Count("owner", distinct=True))["owners"]

    return answered(compiled, count)
