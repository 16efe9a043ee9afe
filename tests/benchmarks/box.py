"""What the box answers while somebody types, against its budget: at most a tenth of a second, 19 times of 20."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from dataclasses import replace
from datetime import date

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compiled_or_opening
from jaded_ledger.find.reading_views import counted, reading_view
from jaded_ledger.find.said import reading_of
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
SENTENCES = (
    "2 units built before 1930 on Mast Ln", "empty and owes taxes", "townhouse, two baths, taxes under 3k",
    "free and clear, owned 20+ years, out of state", "duplexes or condos in alder bay but not on lantern st", "over 3500 in taxes",
    "nothing sold since 2015 within 2 miles of zip 53301", "3bd/2ba under $200k built in the 1950s with a garage",
)  # fmt: skip
"""Sentences of up to twelve words."""
READING_BUDGET, COUNTS_BUDGETS = 30.0, (150.0, 250.0)
"""Milliseconds: to read a sentence, and to count its parts in one county and in three."""
TIMES = 5


def _p95(spent: list[float]) -> float:
    return statistics.quantiles(spent, n=20)[-1]


def _sentences(where: str, search: Search, scope: Scope, counts_budget: float) -> Iterator[Row]:
    """Time the reading of sentences, then that of the counts beside their parts."""
    counties = compiled_or_opening(search, scope).counties
    read, counts = [], []
    for number in range(TIMES + 1):
        for typed in SENTENCES:
            started = time.perf_counter()
            view = reading_view(typed, reading_of(typed, counties, scope))
            half = time.perf_counter()
            # What is typed next narrows another search: nothing is kept of the one before.
            counted(view, replace(search, lines=(*parse(f"living-area: {number}..").lines, *search.lines)), scope)
            if number:
                read.append(1000 * (half - started))
                counts.append(1000 * (time.perf_counter() - half))
    print(f"sentences, {where}: read in {statistics.median(read):.0f} ms, counted in {statistics.median(counts):.0f} ms, in the median")
    yield Row(f"a sentence read, 95th of 100, {where}", _p95(read), READING_BUDGET, 1.0)
    yield Row(f"its parts counted, 95th of 100, {where}", _p95(counts), counts_budget, 1.0)


def rows() -> Iterator[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    places = (("one county", parse("county: Tamarack")), ("three counties", parse("")))
    for (where, search), counts_budget in zip(places, COUNTS_BUDGETS, strict=True):
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
        yield Row(f"the box’s answer, 95th of 100, {where}", _p95(every), BUDGET, 1.0)
        yield from _sentences(where, search, scope, counts_budget)
