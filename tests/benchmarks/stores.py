"""What each of the stores of answers saves: the same work with it, and without it. Above 1.0 a store does not pay and has to go.

Kept answers of saved searches are none of them: they hold what no longer can be asked, how a parcel answered at the run before.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from datetime import date
from unittest import mock

from django.core.cache import caches

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find import line_answers
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.remembered_arrays import RememberedArrays
from tests.benchmarks.find import ALL_COUNTIES, SEARCH, without_copies
from tests.benchmarks.measure import Row, compare
from tests.support.search_edits import struck


def rows() -> Iterator[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    for text, where in ((SEARCH, "one county"), (ALL_COUNTIES, "three counties")):
        search, lows = parse(text), itertools.count(200_001)
        balance(compile(search, scope))
        again = struck(search, 1)

        def counted_before(again: object = again) -> None:
            balance(compile(again, scope))  # type: ignore[arg-type]

        def new_value(text: str = text, lows: Iterator[int] = lows) -> None:
            balance(compile(parse(text.replace("100000..", f"{next(lows)}..")), scope))

        def without_tallies(act: Callable[[], None]) -> None:
            caches["tallies"].clear()
            act()

        def without_answers(act: Callable[[], None]) -> None:
            with mock.patch.object(line_answers, "_REMEMBERED", RememberedArrays(0)):
                act()

        yield compare(f"tallies: a line is struck, {where}", 1.0, counted_before, lambda: without_tallies(counted_before))
        with without_copies():
            yield compare(
                f"tallies: a line is struck while there is no copy, {where}", 1.0, counted_before, lambda: without_tallies(counted_before)
            )
        yield compare(f"remembered answers: a new value, {where}", 1.0, new_value, lambda: without_answers(new_value))
        yield compare(
            f"reading copy: a new value, answers forgotten, {where}", 1.0,
            lambda: without_answers(new_value), lambda: _from_postgresql(new_value),
        )  # fmt: skip


def _from_postgresql(act: Callable[[], None]) -> None:
    with without_copies():
        act()
