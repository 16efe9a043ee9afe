"""The value by comps on open sets of house sales: it misses by no more than the plain medians on the way to it.

Sources: tests/support/house_sales.py. A set with days is valued in time, each sale from what sold before its month; a set without days is
valued by ten folds, each from the constants and sales of the nine others (leave-one-out).
"""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from functools import cache
from unittest import TestCase

import numpy as np

from jaded_ledger.core.comps.constants import measure
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES
from jaded_ledger.core.comps.sales import Sales
from jaded_ledger.core.comps.trust import ADJUSTED, METHOD, POOL, Miss, back_test, values_by_way
from tests.support.house_sales import ONE_DAY, grinnell, sacramento, saratoga
from tests.support.tiers import thorough

FOLDS = 10
NEVER_WORSE = 0.3
"""Points by which the value may miss by more than a plain median does."""


def misses_out_of_fold(sales: Sales) -> dict[str, float]:
    """Return the median miss of each way in percent, each sale valued from the constants of the other folds and all other sales."""
    fold = np.random.default_rng(3).integers(0, FOLDS, len(sales))
    day = ONE_DAY + timedelta(1)
    missed: dict[str, list[float]] = {POOL: [], ADJUSTED: [], METHOD: []}
    for one in range(FOLDS):
        constants = measure(sales.take(fold != one), day)
        for row in np.flatnonzero(fold == one):
            found = values_by_way(sales, replace(sales.house(int(row)), day=day), USUAL_OF_HOUSES, constants, int(sales.parcel[row]))
            for way, misses in missed.items():
                if METHOD in found:
                    misses.append(abs(found[way] / float(sales.price[row]) - 1))
    return {way: 100 * float(np.median(misses)) for way, misses in missed.items()}


class HouseSales(TestCase):
    def never_worse(self, missed: dict[str, float]) -> None:
        for way in (POOL, ADJUSTED):
            self.assertLessEqual(missed[METHOD], missed[way] + NEVER_WORSE, way)

    @thorough
    def test_sacramento(self) -> None:
        missed = misses_out_of_fold(sacramento())
        self.never_worse(missed)
        # With weights as sharp as a search of the least median made them, the value missed by 18.0 %.
        self.assertLess(missed[METHOD], 17)

    @thorough
    def test_saratoga(self) -> None:
        self.never_worse(misses_out_of_fold(saratoga()))

    @thorough
    def test_grinnell_in_time(self) -> None:
        sales = grinnell()
        constants_at = cache(lambda day: measure(sales, day))
        trust = back_test(sales, np.flatnonzero(sales.day >= date(2007, 1, 1).toordinal()), USUAL_OF_HOUSES, constants_at)
        steps: dict[str, Miss] = {step.way: step for step in trust.steps}
        self.assertGreater(steps[METHOD].count, 600)
        self.never_worse({way: steps[way].median for way in (POOL, ADJUSTED, METHOD)})
