"""The method of comps on open sales, figure by figure, as it is now.

Nothing from outside says that these figures are right: ``tests/reference/test_house_sales`` holds the method against the prices that were
paid. They are kept so that a change of the method, or of a constant within it, is seen. Sources of the sales: tests/support/house_sales.py.
"""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date, timedelta

import numpy as np

from jaded_ledger.core.comps.constants import measure
from jaded_ledger.core.comps.likeness import Origin
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES
from jaded_ledger.core.comps.sales import Sales
from jaded_ledger.core.comps.size_step import size_step
from jaded_ledger.core.comps.trust import ADJUSTED, METHOD, NEIGHBORHOOD, POOL, back_test, values_by_way
from tests.support.house_sales import ONE_DAY, grinnell, sacramento, saratoga

DAY_AFTER = ONE_DAY + timedelta(1)


class Kept(unittest.TestCase):
    def measured(self, sales: Sales, day: date, terms: dict[str, float], monthly: float, noise: float, likeness: tuple[float, ...]) -> None:
        found = measure(sales, day)
        self.assertEqual({one.term.key: round(one.value, 6) for one in found.coefficients}, terms)
        self.assertEqual({one.origin for one in found.coefficients}, {Origin.MEASURED})
        self.assertEqual((round(found.monthly, 6) + 0.0, round(found.noise, 6)), (monthly, noise))
        self.assertEqual((found.likeness.miles, found.likeness.adjustment, found.likeness.months), likeness)

    def test_constants(self) -> None:
        self.measured(
            sacramento(), DAY_AFTER, {"living-area": 1.167364, "beds": -0.126007, "baths": 0.020568, "class-1": -0.129802},
            0, 0.31112, (1.0, 0.2, 24.0),
        )  # fmt: skip
        self.measured(
            saratoga(), DAY_AFTER,
            {"living-area": 0.69078, "lot": 0.040106, "beds": -0.016279, "baths": 0.113188,
             "age-to-40": -0.005128, "age-over-40": 0.000147},
            0, 0.263706, (1.0, 0.1, 24.0),
        )  # fmt: skip
        self.measured(
            grinnell(), date(2012, 7, 1),
            {"living-area": 0.791795, "lot": 0.074587, "beds": 0.010327, "baths": 0.160635,
             "age-to-40": 0.003132, "age-over-40": -0.006726},
            -0.007798, 0.284535, (0.25, 0.2, 24.0),
        )  # fmt: skip

    def test_size_steps(self) -> None:
        for sales, step in ((sacramento(), 1_170), (saratoga(), 1_360), (grinnell(), None)):
            area = sales.traits["living_area"]
            self.assertEqual(size_step(area, sales.price / area), step)

    def test_values_and_the_steps_to_them(self) -> None:
        sales = sacramento()
        constants = measure(sales, DAY_AFTER)
        for row, values in (
            (0, (91_924, 82_191, 81_018, 80_346)), (100, (205_020, 244_183, 218_017, 249_323)),
            (500, (223_193, 259_039, 242_610, 242_610)), (900, (164_818, 184_471, 203_165, 212_060)),
        ):  # fmt: skip
            found = values_by_way(sales, replace(sales.house(row), day=DAY_AFTER), USUAL_OF_HOUSES, constants, row)
            self.assertEqual(tuple(round(found[way]) for way in (NEIGHBORHOOD, POOL, ADJUSTED, METHOD)), values)

    def test_a_back_test(self) -> None:
        sales = grinnell()
        rows = np.flatnonzero((sales.day >= date(2012, 6, 1).toordinal()) & (sales.day < date(2012, 7, 1).toordinal()))
        trust = back_test(sales, rows, USUAL_OF_HOUSES, lambda day: measure(sales, day))
        self.assertEqual(
            [(one.way, one.count, round(one.median, 4), round(one.close, 4)) for one in trust.steps],
            [(POOL, 13, 18.1425, 15.3846), (ADJUSTED, 13, 20.1723, 15.3846), (METHOD, 13, 21.6518, 15.3846)],
        )
