"""Rents, each by its own source, and which of them a yield is told by. Names are the RESO Data Dictionary's; rules common practice."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import Rental
from jaded_ledger.core.market.areas import AreaFigures, Median
from tests.support.records import listing, of, roll

ON_FILE = dict.fromkeys(("rentals", "listings"), date(2026, 11, 24))
AREA = AreaFigures(name="Fern Hill", rent=Median(Decimal(700), 5), rents={(1, 3): Median(Decimal(900), 5), (2, 2): Median(Decimal(650), 4)})


def let(rent: int | None, until: date | None = None, unit: str = "") -> Rental:
    return Rental(date(2025, 1, 1), until, None if rent is None else Decimal(rent), unit)


def house(*rentals: Rental, units: int | None = 1, beds: int | None = 3, kind: int | None = 1, listings=(), through=ON_FILE) -> Findings:
    return of(through, roll=roll(units=units, beds=beds, property_class=kind), rentals=rentals, listings=listings, area=AREA)


class Rents(unittest.TestCase):
    def test_in_place_is_of_all_dwellings(self) -> None:
        duplex = [let(800, unit="A"), let(750, unit="B")]
        for rentals, units, rent in [
            ([let(950)], 1, 950), (duplex, 2, 1_550), (duplex[:1], 2, None), ([let(950, date(2026, 11, 24))], 1, None),
            ([let(950, date(2026, 11, 25))], 1, 950), ([let(None)], 1, None), ([], 1, None),
        ]:  # fmt: skip
            found = house(*rentals, units=units)
            self.assertEqual(found.rent_in_place and found.rent_in_place.amount, rent, rentals)

    def test_that_nothing_is_let_is_none_where_a_register_is_on_file(self) -> None:
        for rentals, through, is_let in (([let(None)], ON_FILE, True), ([], ON_FILE, False), ([], {}, None)):
            self.assertIs(derive_columns(house(*rentals, through=through))["is_let"], is_let)

    def test_by_its_listing(self) -> None:
        offered = listing("A", date(2026, 9, 1), actual_rent=Decimal(1_500), scheduled_income=Decimal(21_600), list_price=Decimal(180_000))
        found = house(units=2, listings=[offered])
        self.assertEqual((found.rent_in_place.amount, found.rent_potential.amount), (1_500, 1_800))
        self.assertEqual((found.rent, found.by_area.asking_yield), (found.rent_in_place, 10), "12 × 1,500 of 180,000")
        found = house(units=2, listings=[offered._replace(actual_rent=None)])
        self.assertEqual((found.rent, found.by_area.asking_yield), (found.rent_potential, 12))

    def test_advertised_until_it_is_taken_off(self) -> None:
        for status, rent in (("Active", 925), ("Closed", 925), ("Withdrawn", None), ("Expired", None), ("Canceled", None)):
            lease = listing("R", date(2026, 9, 1), status, property_type="Residential Lease", lease_amount=Decimal(925))
            columns = derive_columns(house(listings=[lease]))
            self.assertEqual((columns["rent_advertised"], columns["is_advertised_to_let"]), (rent, rent is not None), status)

    def test_the_area_s_of_the_same_class_and_bedrooms(self) -> None:
        for units, beds, kind, rent in (
            (1, 3, 1, 900),
            (1, 2, 1, None),
            (2, 4, 2, None),
            (2, 3, 2, None),
            (1, None, 1, None),
            (1, 3, None, None),
        ):
            found = house(units=units, beds=beds, kind=kind)
            self.assertEqual(found.by_area.usual_rent and found.by_area.usual_rent.value, rent, (units, beds, kind))
        self.assertEqual(house().rent, (900, "median rent of its class and bedrooms in Fern Hill × 1"))
        self.assertEqual(house(units=2, beds=4, kind=2).rent, (1_400, "median rent in Fern Hill × 2"), "four let ones are too few")
        self.assertIsNone(house(units=None).rent, "how many dwellings is not known")
