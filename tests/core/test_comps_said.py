"""Lines of a pool of comps from a sentence."""

from __future__ import annotations

import unittest
from datetime import date

from jaded_ledger.core.comps.lines import PoolError
from jaded_ledger.core.comps.said import said_lines

TODAY = date(2026, 11, 24)


class Sentences(unittest.TestCase):
    def test_each_part_is_a_line(self) -> None:
        for text, lines in (
            ("area: under 1350", ["area: under 1,350"]),
            ("3 beds or more, built before 1965", ["beds: at least 3", "built: at most 1964"]),
            ("within half a mile of the subject, on the same side", ["side: same", "within: 0.5 mi"]),
            ("within 2640 feet", ["within: 0.5 mi"]),
            ("sold in the last 90 days for 205k to 260k", ["closed: 90 days", "price: 205,000 to 260,000"]),
            ("half an acre or more", ["lot: at least 21,780"]),
            ("between 1000 and 1400 sq ft, 2 baths", ["area: 1,000 to 1,400", "baths: 2 to 2"]),
            ("same class and same stories", ["class: same", "stories: same"]),
        ):
            with self.subTest(text):
                self.assertEqual([str(line) for line in said_lines(text, TODAY)], lines)

    def test_what_is_no_line_is_said(self) -> None:
        for text, why in (
            ("roughly 3 beds", "“roughly” means no line of a pool"),
            ("with a pool", "“with a pool” is no line of a pool"),
            ("owners over 65", "owner's age is in no record"),
            ("3/2", "is no line of a pool"),
            ("duplex or condo", "is no line of a pool"),
            ("", "means no line"),
            ("sold before 2014", "is no line of a pool"),
        ):
            with self.subTest(text), self.assertRaisesRegex(PoolError, why):
                said_lines(text, TODAY)
