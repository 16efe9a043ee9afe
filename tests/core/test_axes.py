"""Where axes are marked. What is expected follows from the calendar and from arithmetic."""

from __future__ import annotations

import unittest
from datetime import date

from jaded_ledger.core.charts.axes import Axis, day_ticks, ticks


class Days(unittest.TestCase):
    def marked(self, low: str, high: str, most: int = 7) -> list[str]:
        return [day.isoformat() for day in day_ticks(date.fromisoformat(low), date.fromisoformat(high), most)]

    def test_first_days_of_months_quarters_and_half_years(self) -> None:
        first_of_months = [f"2026-0{month}-01" for month in range(1, 8)]
        self.assertEqual(self.marked("2026-01-01", "2026-07-01"), first_of_months)
        self.assertEqual(self.marked("2026-01-01", "2026-07-31"), first_of_months)
        self.assertEqual(self.marked("2026-01-01", "2026-08-01"), ["2026-01-01", "2026-04-01", "2026-07-01"])
        self.assertEqual(self.marked("2026-01-02", "2026-11-24"), ["2026-04-01", "2026-07-01", "2026-10-01"])
        self.assertEqual(self.marked("2025-12-31", "2027-07-01"), ["2026-01-01", "2026-04-01", "2026-07-01", "2026-10-01",
                                                                   "2027-01-01", "2027-04-01", "2027-07-01"])  # fmt: skip
        self.assertEqual(self.marked("2024-02-10", "2026-01-01"), ["2024-07-01", "2025-01-01", "2025-07-01", "2026-01-01"])

    def test_first_days_of_years_that_are_round(self) -> None:
        for low, high, years in (
            ("2019-05-01", "2026-11-24", range(2020, 2027)),
            ("2018-05-01", "2026-11-24", range(2020, 2027, 2)),
            ("1996-01-01", "2026-11-24", range(2000, 2026, 5)),
            ("1985-01-01", "2026-11-24", range(1990, 2021, 10)),
            ("1900-01-01", "2026-11-24", range(1900, 2021, 20)),
            ("1800-01-01", "2026-11-24", range(1800, 2001, 50)),
        ):
            with self.subTest(low):
                marked = self.marked(low, high)
                self.assertLessEqual(len(marked), 7)
                self.assertEqual(marked, [f"{year}-01-01" for year in years])

    def test_as_many_as_there_may_be_and_at_least_one(self) -> None:
        self.assertEqual(self.marked("2026-01-01", "2026-03-01", 3), ["2026-01-01", "2026-02-01", "2026-03-01"])
        self.assertEqual(self.marked("2026-01-01", "2026-03-01", 2), ["2026-01-01"])
        self.assertEqual(self.marked("2026-03-02", "2026-03-30"), ["2026-03-02"])
        self.assertEqual(self.marked("2026-03-02", "2026-03-02"), ["2026-03-02"])


class Values(unittest.TestCase):
    def test_round_steps(self) -> None:
        self.assertEqual(ticks(0, 100), [0, 20, 40, 60, 80, 100])
        self.assertEqual(ticks(3, 97), [20, 40, 60, 80])
        self.assertEqual(ticks(0, 1), [0, 0.2, 0.4, 0.6, 0.8, 1])
        self.assertEqual(ticks(0, 5, least=1), [0, 1, 2, 3, 4, 5])
        self.assertEqual(ticks(0, 4, least=2), [0, 2, 4])
        self.assertEqual(ticks(7, 7), [7])
        self.assertEqual(ticks(7, 3), [7])

    def test_where_a_value_stands(self) -> None:
        axis = Axis(100, 300, 400)
        self.assertEqual([axis.at(value) for value in (99, 100, 150, 300, 301)], [0, 0, 100, 400, 400])
        self.assertEqual(Axis(5, 5, 400).at(5), 0)
