"""What the box answers while somebody types, against its budget: at most a tenth of a second, 19 times of 20."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from datetime import date

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.suggestions import offered
from tests.benchmarks.measure import Row

BUDGET = 100.0
"""Milliseconds."""
TYPED = (
    "d", "du", "dup", "duplex", "absentee", "3 beds", "60 % equity", "sold before 2014", "lan", "lantern", "lantern st", "ostrom",
    "ostrom hel", "12-0", "12-034-007", "53301", "alder", "as is", "motivated", "mortage company", "1204 capstan", "qwxyz", "bank",
    "equi", "out of state owner", "trust", "smith", "holdings llc", "needs work", "list price under 300k",
)  # fmt: skip
"""What is typed on the way to a criterion: letters of traits and values, sentences, names, numbers, phrases, slips."""
TIMES = 5


def rows() -> Iterator[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    for where, search in (("one county", parse("county: Tamarack")), ("three counties", parse(""))):
        taken: dict[str, list[float]] = {typed: [] for typed in TYPED}
        for number in range(TIMES + 1):
            for typed in TYPED:
                started = time.perf_counter()
                offered(typed, search, scope)
                if number:
                    taken[typed].append(1000 * (time.perf_counter() - started))
        every = [spent for spents in taken.values() for spent in spents]
        slowest = max(TYPED, key=lambda typed: statistics.median(taken[typed]))
        middle, longest = statistics.median(every), statistics.median(taken[slowest])
        print(f"the box, {where}: median {middle:.0f} ms; slowest “{slowest}”, {longest:.0f} ms")
        yield Row(f"the box’s answer, 95th of 100, {where}", statistics.quantiles(every, n=20)[-1], BUDGET, 1.0)
