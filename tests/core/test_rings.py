"""Rings as they are written and read, the box about one, and members of a set that are added one by one."""

from __future__ import annotations

import math
import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st
from pyproj import Geod

from jaded_ledger.core.criteria.ring_notation import MOST_METERS, ring, ring_text, ring_words
from jaded_ledger.core.criteria.search import Center, Criterion, DistanceUnit, Exactly, Members, Quantity, Ring
from jaded_ledger.core.criteria.set_members import Sense, takes_members, with_member
from jaded_ledger.core.criteria.values import quote
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.core.ground import box_around

WGS84 = Geod(ellps="WGS84")

WRITTEN = (
    ("0.5 mi of parcel tamarack/12-034-007", "0.5 mi of parcel tamarack/12-034-007", "up to 0.5 mi from parcel tamarack/12-034-007"),
    ("0.25..2 mi of parcel 12-034-007", "0.25..2 mi of parcel 12-034-007", "0.25 to 2 mi from parcel 12-034-007"),
    ("1..4 miles from zip 53317", "1..4 mi of zip 53317", "1 to 4 mi from ZIP 53317"),
    ("1..4 mi of 53317", "1..4 mi of zip 53317", "1 to 4 mi from ZIP 53317"),
    ("within 2 miles of 12-034-007", "2 mi of parcel 12-034-007", "up to 2 mi from parcel 12-034-007"),
    ("800 m of 103 Capstan St", '800 m of "103 Capstan St"', "up to 800 m from “103 Capstan St”"),
    ("between 1 and 4 km from listing TA2601", '1..4 km of listing "TA2601"', "1 to 4 km from listing TA2601"),
    ("over 2 mi from area Harbour wards", '2.. mi of area "Harbour wards"', "2 mi or more from “Harbour wards”"),
    ("500 feet or less from the parcel 1", "500 ft of parcel 1", "up to 500 ft from parcel 1"),
    ("0..3 km of point 44.9 -87.25", '3 km of point "44.9, -87.25"', "up to 3 km from point 44.9, -87.25"),
    ("1.5k ft of address 9 Elm Row", '1500 ft of "9 Elm Row"', "up to 1500 ft from “9 Elm Row”"),
)
REFUSED = (
    ("half of it", "is not a ring"), ("0.5 mi", "is not a ring"), ("0.5 mi of", "says no center"), ("0.5 mi of parcel", "says no center"),
    ("0 mi of zip 53317", "leaves no room"), ("4..1 mi of zip 53317", "runs backwards"), ("1..2 mi of point 91, 5", "is no point"),
    ("1..2 mi of point 45, 181", "is no point"), ("1..2 mi of point here", "is no point"), ("2,5 mi of zip 53317", "is not a figure"),
)  # fmt: skip


class Written(unittest.TestCase):
    def test_as_people_write_them(self) -> None:
        for text, canonical, words in WRITTEN:
            with self.subTest(text):
                found = ring(text)
                self.assertEqual(ring_text(found, quote(found.at)), canonical)
                self.assertEqual(ring_words(found), words)

    def test_what_is_no_ring_says_why(self) -> None:
        for text, why in REFUSED:
            with self.subTest(text), self.assertRaises(ValueTextError) as caught:
                ring(text)
            self.assertIn(why, str(caught.exception))

    def test_a_center_in_quotes(self) -> None:
        self.assertEqual(ring("800 m of", "103 Capstan St,  Alder Bay").at, "103 Capstan St, Alder Bay")
        self.assertEqual(ring("1 mi of area", "zip 53317").center, Center.AREA)
        with self.assertRaises(ValueTextError):
            ring("1 mi of the moon", "Sea of Rains")

    def test_how_far_at_most(self) -> None:
        self.assertEqual(ring(f"{MOST_METERS} m of zip 53317").meters, (None, MOST_METERS))
        with self.assertRaises(ValueTextError):
            ring(f"{MOST_METERS + 1} m of zip 53317")

    def test_meters(self) -> None:
        # NIST Handbook 44, Appendix C: a mile is 1,609.344 m, a foot 0.3048 m.
        for unit, meters in (
            (DistanceUnit.MILES, 3_218.688),
            (DistanceUnit.KILOMETERS, 2_000),
            (DistanceUnit.METERS, 2),
            (DistanceUnit.FEET, 0.6096),
        ):
            self.assertAlmostEqual(Ring(None, Decimal(2), unit, Center.ZIP, "1").meters[1], meters, 9)


class Box(unittest.TestCase):
    @given(st.floats(-180, 180), st.floats(-90, 90), st.floats(1, MOST_METERS), st.floats(0, 360))
    def test_it_holds_all_that_is_near(self, longitude: float, latitude: float, meters: float, azimuth: float) -> None:
        west, south, east, north = box_around(longitude, latitude, meters)
        x, y, _ = WGS84.fwd(longitude, latitude, azimuth, meters)
        self.assertTrue(south <= y <= north, (y, south, north))
        self.assertTrue(west <= x <= east, (x, west, east))

    def test_it_is_not_much_larger(self) -> None:
        # A degree of the equator has some 111 km: the box ends short of the antimeridian, on it, or beyond.
        for longitude, is_all_around in ((179.5, True), (178.5, False), (-179.5, True), (-178.5, False)):
            west, _, east, _ = box_around(longitude, 0, 100_000)
            self.assertEqual((west, east) == (-180, 180), is_all_around, longitude)
        west, south, east, north = box_around(-87.3, 44.9, 5_000)
        self.assertLess(WGS84.inv(-87.3, south, -87.3, north)[2], 10_000 * 1.02)
        self.assertLess(WGS84.inv(west, 44.9, east, 44.9)[2], 10_000 * 1.03)
        self.assertTrue(all(math.isfinite(side) for side in (west, south, east, north)))


def areas(accepts: tuple[str, ...] = (), refuses: tuple[str, ...] = (), **more: bool) -> Criterion:
    values = ((Members(Quantity.ANY, items),) if items else () for items in (accepts, refuses))
    return Criterion("in-area", *values, **more)


class OneByOne(unittest.TestCase):
    def test_included_excluded_and_left(self) -> None:
        line = with_member(None, "in-area", "Quay", Sense.INCLUDE)
        self.assertEqual(line, areas(("Quay",)))
        line = with_member(line, "in-area", "Marina", Sense.EXCLUDE)
        self.assertEqual(line, areas(("Quay",), ("Marina",)))
        line = with_member(line, "in-area", "Hill", Sense.INCLUDE)
        self.assertEqual(line, areas(("Quay", "Hill"), ("Marina",)))
        # What was included is excluded now, however it is written.
        line = with_member(line, "in-area", "QUAY", Sense.EXCLUDE)
        self.assertEqual(line, areas(("Hill",), ("Marina", "QUAY")))
        for name in ("Hill", "marina"):
            line = with_member(line, "in-area", name, Sense.LEAVE)
        self.assertEqual(line, areas((), ("QUAY",)))
        self.assertIsNone(with_member(line, "in-area", "Quay", Sense.LEAVE))

    def test_a_line_that_is_off_applies_again(self) -> None:
        line = with_member(areas(("Quay",), struck=True, unknown=True), "in-area", "Hill", Sense.INCLUDE)
        self.assertEqual(line, areas(("Quay", "Hill"), unknown=True))

    def test_which_lines_take_them(self) -> None:
        self.assertTrue(takes_members(areas(("Quay",), ("Hill",)), "in-area"))
        for other in (
            areas(), Criterion("tag", (Members(Quantity.ANY, ("Quay",)),)), Criterion("beds", (Exactly(Decimal(3)),)),
            Criterion("in-area", (Members(Quantity.ALL, ("Quay", "Hill")),)),
        ):  # fmt: skip
            self.assertFalse(takes_members(other, "in-area"), other)
