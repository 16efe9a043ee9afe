"""Spans of days on a given day, with months clamped to their end."""

from __future__ import annotations

import calendar
import unittest
from datetime import date

from jaded_ledger.core.criteria.text import format, parse, parse_line
from jaded_ledger.core.dates import CalendarUnit, Days, Length, shift

TODAY = date(2026, 11, 24)


class Spans(unittest.TestCase):
    def resolved(self, text: str, today: date = TODAY) -> tuple[date | None, date | None]:
        (span,) = parse_line(f"last-sale: {text}").accepts
        days = span.resolve(today)
        return days.low, days.high

    def test_each_form(self) -> None:
        for text, low, high in [
            ("2026-01-31", date(2026, 1, 31), date(2026, 1, 31)),
            ("today", TODAY, TODAY),
            ("before 2020-01-01", None, date(2019, 12, 31)),
            ("since 2020-01-01", date(2020, 1, 1), None),
            ("between 2020-01-01 and 2020-12-31", date(2020, 1, 1), date(2020, 12, 31)),
            ("in the last 90 days", date(2026, 8, 26), TODAY),
            ("in the next 14 days", TODAY, date(2026, 12, 8)),
            # On 24 November 2026 this means on or before 23 November 2021.
            ("more than 5 years ago", None, date(2021, 11, 23)),
            ("before 5 years ago", None, date(2021, 11, 23)),
            ("since 2 weeks ago", date(2026, 11, 10), None),
        ]:
            with self.subTest(text):
                self.assertEqual(self.resolved(text), (low, high))

    def test_months_clamp_to_their_end(self) -> None:
        month = Length(1, CalendarUnit.MONTH)
        self.assertEqual(shift(date(2026, 1, 31), month, 1), date(2026, 2, 28))
        self.assertEqual(shift(date(2028, 1, 31), month, 1), date(2028, 2, 29))
        self.assertEqual(shift(date(2026, 3, 31), month, -1), date(2026, 2, 28))
        self.assertEqual(shift(date(2028, 2, 29), Length(1, CalendarUnit.YEAR), -1), date(2027, 2, 28))
        self.assertEqual(shift(date(2026, 1, 15), Length(14, CalendarUnit.MONTH), -1), date(2024, 11, 15))

    def test_relative_spans_stay_relative_when_kept(self) -> None:
        kept = format(parse("last-sale: in the last 90 days"))
        self.assertEqual(kept, "last-sale: in the last 90 days")
        (span,) = parse(kept).lines[0].accepts
        self.assertEqual(span.resolve(date(2027, 6, 1)).high, date(2027, 6, 1))

    def test_every_month_has_its_own_end(self) -> None:
        ends = [shift(date(2025, 12, 31), Length(months, CalendarUnit.MONTH), 1) for months in range(1, 13)]
        self.assertEqual(ends, [date(2026, month, calendar.monthrange(2026, month)[1]) for month in range(1, 13)])

    def test_the_calendar_s_own_ends(self) -> None:
        year = Length(1, CalendarUnit.YEAR)
        self.assertEqual(shift(date(2, 1, 1), year, -1), date.min)
        self.assertEqual(shift(date(9998, 12, 31), year, 1), date.max)
        for day, direction in ((date(1, 12, 31), -1), (date(9999, 1, 1), 1)):
            with self.assertRaises(OverflowError):
                shift(day, year, direction)

    def test_one_is_singular(self) -> None:
        self.assertEqual([str(Length(count, CalendarUnit.WEEK)) for count in (0, 1, 2)], ["0 weeks", "1 week", "2 weeks"])

    def test_both_ends_are_held(self) -> None:
        day, before, after = TODAY, date(2026, 11, 23), date(2026, 11, 25)
        for low, high, held in (
            (None, None, (True, True, True)), (day, day, (False, True, False)), (day, None, (False, True, True)),
            (None, day, (True, True, False)),
        ):  # fmt: skip
            self.assertEqual(tuple(Days(low, high).holds(one) for one in (before, day, after)), held)
