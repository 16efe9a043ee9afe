"""Masks and patterns: separators forgiven, zeros padded where the mask has separators."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.parcel_number_notation import numbers
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError, mask
from jaded_ledger.core.criteria.wrong_value import ValueTextError

TAMARACK = mask("NN-NNN-NNN[-UUU]")
ODELL = mask("TTRRSSNNN")


class Keys(unittest.TestCase):
    def test_ways_of_writing_one_number(self) -> None:
        for written in ("12-034-007", "12 034 007", "12.034.007", "12034007", "12-34-7", "12/034/007", " 12-034-007 "):
            self.assertEqual(TAMARACK.key(written), "12034007", written)
        self.assertEqual(TAMARACK.key("12-034-007-3"), "12034007003")
        self.assertEqual(ODELL.key("040512007"), "040512007")
        self.assertEqual(ODELL.key("04-05-12-007"), "040512007")

    def test_what_does_not_fit(self) -> None:
        for written in ("12-034", "12-034-0077", "123-034-007", "12-034-007-003-1", "12-03!-007", "", "1203400"):
            with self.subTest(written), self.assertRaisesRegex(ParcelNumberError, "does not fit"):
                TAMARACK.key(written)
        with self.assertRaises(ParcelNumberError):
            ODELL.key("4-5-12-7")
        with self.assertRaisesRegex(ParcelNumberError, "not a parcel-number mask"):
            mask("12-034")

    @given(st.integers(0, 99), st.integers(0, 999), st.integers(0, 999), st.one_of(st.none(), st.integers(0, 999)))
    def test_printed_numbers_read_back(self, book: int, page: int, lot: int, unit: int | None) -> None:
        key = f"{book:02}{page:03}{lot:03}" + ("" if unit is None else f"{unit:03}")
        self.assertEqual(TAMARACK.key(TAMARACK.format(key)), key)


class Patterns(unittest.TestCase):
    def holds(self, pattern: str, number: str) -> bool:
        return any(keys.holds(TAMARACK.key(number)) for keys in TAMARACK.ranges(pattern))

    def test_a_pattern_may_stop_at_any_segment(self) -> None:
        for pattern in ("12-034-*", "12-034", "12-*", "12", "12-34-*", "12034*"):
            self.assertTrue(self.holds(pattern, "12-034-007"), pattern)
            self.assertTrue(self.holds(pattern, "12-034-007-003"), pattern)
        self.assertFalse(self.holds("12-034-*", "12-035-001"))
        self.assertTrue(self.holds("12-034-007", "12-034-007-001"))
        self.assertFalse(self.holds("12-034-007", "12-034-008"))

    def test_the_last_segment_may_be_listed_or_ranged(self) -> None:
        self.assertEqual([lot for lot in range(1, 15) if self.holds("12-034-7..9", f"12-034-{lot}")], [7, 8, 9])
        self.assertEqual([lot for lot in range(1, 15) if self.holds("12-034-1|4|9..11", f"12-034-{lot}")], [1, 4, 9, 10, 11])
        self.assertTrue(self.holds("12-33..34", "12-034-999"))
        self.assertTrue(self.holds("12-034-7..9", "12-034-009-044"))
        with self.assertRaisesRegex(ParcelNumberError, "runs backwards"):
            TAMARACK.ranges("12-034-9..7")


class Written(unittest.TestCase):
    """As deeds and callers list lots (common practice)."""

    def test_lists_ranges_and_exceptions_in_words(self) -> None:
        for said, pattern in (
            ("12-001-014 and 015", "12-001-014|015"), ("12-001-014 & 015 and 016", "12-001-014|015|016"),
            ("12-001 020 through 028", "12-001-020..028"), ("12.001.020 thru 028", "12-001-020..028"),
            ("12-001-014 and 12-001-015", "12-001-014|015"), ("12-001-020 to 12-001-028", "12-001-020..028"),
            ("12-001-020 through 028 except 024", "12-001-020..023|025..028"), ("12-001-020..028 except 020", "12-001-021..028"),
            ("12-001-020 through 028 except 028", "12-001-020..027"), ("12-001-7..9 but not 8", "12-001-7|9"),
            ("12-001-020 through 028 except 021 and 26 to 27", "12-001-020|022..025|028"), ("12-001-014 and 015 except 015", "12-001-014"),
            ("12-001-020 through 028 except 12-001-024", "12-001-020..023|025..028"), ("12-001-020..028 except 030", "12-001-020..028"),
            ("Tamarack/12 034.7..9", "12-034-7..9"), ("12-034-*", "12-034-*"), ("12", "12"),
        ):  # fmt: skip
            self.assertEqual(numbers(said).pattern, pattern, said)

    def test_what_is_none(self) -> None:
        many = " and ".join(map(str, range(1, 203)))
        for said, why in (
            ("12-001-014 except 014", "excepts every number"), ("12-001-014 except *", "is not a parcel number"),
            ("and", "is not a parcel number"), ("A-12 except B", "list or range of digits"),
            ("12-034-7..9..11", "is not a parcel number"), ("12-034-* except 7", "list or range of digits"),
            (f"12-034-1..999 except {many}", "excepts more than 200"),
        ):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(ValueTextError, why):
                numbers(said)
