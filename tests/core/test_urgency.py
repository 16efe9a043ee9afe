"""Urgency as a sum whose every point is named, and lift as counts: worked by hand."""

from __future__ import annotations

import unittest
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.distress import lift
from jaded_ledger.core.distress.lift import CountyHistory, History, lifts
from jaded_ledger.core.distress.signals import TOLD_BY, SignalKind
from jaded_ledger.core.distress.urgency import DAYS_A_MONTH, MOST_HALVINGS, WEIGHTS, Scale, Sign, account

TODAY = date(2026, 11, 24)
ALL = frozenset(TOLD_BY.values())


class Urgency(unittest.TestCase):
    def test_halves_every_so_many_months(self) -> None:
        scale = Scale(half_life=12)
        # A year is 365.25 days, so that four of them are 1,461.
        self.assertEqual(scale.decay(TODAY - timedelta(days=1461), TODAY), 0.5**4)
        self.assertEqual(Scale(half_life=48).decay(TODAY - timedelta(days=1461), TODAY), 0.5)
        self.assertEqual(scale.decay(TODAY, TODAY), 1)
        # An auction that is yet to be held is worth all it is worth.
        self.assertEqual(scale.points(40, TODAY + timedelta(days=20), TODAY), 40)

    def test_nothing_is_left_of_a_day_long_gone(self) -> None:
        scale = Scale(half_life=1)
        self.assertEqual(scale.points(100, date(1, 1, 1), TODAY), 0)
        # Further halvings than these are not reckoned; they would leave nothing either.
        on = TODAY - timedelta(days=round(MOST_HALVINGS * DAYS_A_MONTH) + 1)
        self.assertEqual(scale.decay(on, TODAY), 0.5**MOST_HALVINGS)
        self.assertEqual(scale.decay(date(1, 1, 1), TODAY), 0.5**MOST_HALVINGS)
        self.assertGreater(scale.decay(on + timedelta(days=40), TODAY), 0.5**MOST_HALVINGS)

    def test_worked_by_hand(self) -> None:
        # Half a year is 0.5 ** (183 / 365.25) = 0.7066; 30 × 0.7066 = 21.2. Two years are 0.25; 25 × 0.2502 = 6.3.
        signs = [Sign("lis pendens", date(2026, 5, 25), 30), Sign("probate", date(2024, 11, 24), 25), Sign("vacancy", TODAY, 15)]
        found = account(signs, Scale(), TODAY)
        self.assertEqual([(item.sign.what, item.points) for item in found.items], [("lis pendens", 21), ("vacancy", 15), ("probate", 6)])
        self.assertEqual((found.total, found.score), (42, 42))

    def test_no_more_than_a_hundred(self) -> None:
        found = account([Sign(str(place), TODAY, 40) for place in range(3)], Scale(), TODAY)
        self.assertEqual((found.total, found.score), (120, 100))
        self.assertEqual(account([], Scale(), TODAY).score, 0)

    @given(st.lists(st.tuples(st.integers(0, 100), st.integers(-400, 9000))), st.integers(1, 120))
    def test_every_point_is_named_and_more_is_never_less(self, signs: list[tuple[int, int]], half_life: int) -> None:
        scale = Scale(half_life=half_life)
        named = [Sign("x", TODAY - timedelta(days=days), weight) for weight, days in signs]
        found = account(named, scale, TODAY)
        self.assertEqual(found.total, sum(item.points for item in found.items))
        for item in found.items:
            self.assertLessEqual(item.points, item.sign.weight)
        self.assertLessEqual(found.score, account([*named, Sign("more", TODAY, 10)], scale, TODAY).score)
        self.assertLessEqual(account(named, scale, TODAY + timedelta(days=30)).total, found.total)

    def test_every_sign_has_a_weight_and_is_told_by_some_record(self) -> None:
        self.assertEqual(set(WEIGHTS), set(SignalKind))
        self.assertEqual(set(TOLD_BY), set(SignalKind))


class Lift(unittest.TestCase):
    def county(self, with_sign: int, came: int, without: int, came_without: int, **values: object) -> CountyHistory:
        """Return a county in which so many had probate in March 2022, and so many came to something within the year."""
        probate, sale = (SignalKind.PROBATE, date(2022, 3, 1)), date(2022, 9, 1)
        histories = [History((probate,), (sale,) if place < came else ()) for place in range(with_sign)]
        histories += [History((), (sale,)) for _ in range(came_without)]
        # The records begin with a sale of long before.
        histories.append(History((), (date(2015, 5, 5),)))
        told = {"parcels": with_sign + without, "kinds": ALL, "through": date(2026, 10, 1)} | values
        return CountyHistory(histories=histories, **told)  # type: ignore[arg-type]

    def of_probate(self, *counties: CountyHistory) -> lift.Lift:
        return next(one for one in lifts(counties) if one.kind is SignalKind.PROBATE)

    def test_worked_by_hand(self) -> None:
        # 30 of 60 against 100 of 1,000: 50 % against 10 %, five times as often.
        found = self.of_probate(self.county(60, 30, 1000, 100))
        self.assertEqual((found.cases, found.hits, found.without), (60, 30, 1000))
        self.assertEqual((found.share, found.expected / found.cases), (0.5, 0.1))
        self.assertEqual(found.lift, 5)

    def test_each_county_is_held_against_itself(self) -> None:
        # 30 of 60 and 6 of 60; in the first 10 % without, in the second 1 %: 6 + 0.6 expected.
        found = self.of_probate(self.county(60, 30, 1000, 100), self.county(60, 6, 1000, 10))
        self.assertEqual((found.cases, found.hits), (120, 36))
        self.assertAlmostEqual(found.expected, 6.6)
        self.assertAlmostEqual(found.lift or 0, 36 / 6.6)

    def test_withheld_under_fifty(self) -> None:
        for county in (self.county(49, 30, 1000, 100), self.county(60, 30, 49, 10)):
            found = self.of_probate(county)
            self.assertTrue(found.is_withheld)
            self.assertEqual((found.share, found.lift), (None, None))
            self.assertIn("fewer than 50", found.why_withheld)
        self.assertFalse(self.of_probate(self.county(50, 30, 50, 10)).is_withheld)

    def test_the_range_is_wilsons(self) -> None:
        # Newcombe, Statistics in Medicine 17 (1998) 857–872, table I, method 3: from memory.
        for hits, cases, low, high in ((81, 263, 0.2553, 0.3662), (15, 148, 0.0624, 0.1605), (0, 20, 0, 0.1611), (1, 29, 0.0061, 0.1718)):
            for found, wanted in zip(lift.share_range(hits, cases), (low, high), strict=True):
                self.assertAlmostEqual(found, wanted, 4)

    def test_few_cases_may_be_chance(self) -> None:
        # 7 of 60 against 10 % is a lift of 1.2 that says nothing; 700 of 6,000 says it is more. None of 60 where 6 were expected is less.
        self.assertTrue(self.of_probate(self.county(60, 7, 1000, 100)).may_be_chance)
        found = self.of_probate(self.county(6000, 700, 10000, 1000))
        self.assertFalse(found.may_be_chance)
        low, high = found.range or (0, 0)
        self.assertTrue(1 < low < found.lift < high)
        self.assertFalse(self.of_probate(self.county(60, 0, 1000, 100)).may_be_chance)
        # Where none without came to anything, or it is withheld, there is no range.
        self.assertIsNone(self.of_probate(self.county(60, 7, 1000, 0)).range)
        self.assertIsNone(self.of_probate(self.county(49, 7, 1000, 100)).range)

    def test_what_the_records_cannot_tell_is_not_counted(self) -> None:
        for told in ({"kinds": ALL - {"cases"}}, {"kinds": ALL - {"listings"}}, {"through": None}, {"through": date(2023, 2, 28)}):
            self.assertEqual(self.of_probate(self.county(60, 30, 1000, 100, **told)).cases, 0, told)
        self.assertEqual(self.of_probate(self.county(60, 30, 1000, 100, through=date(2023, 3, 1))).cases, 60)

    def test_one_case_a_year(self) -> None:
        signs = tuple((SignalKind.PROBATE, date(year, month, 1)) for year, month in ((2020, 2), (2020, 5), (2021, 1)))
        county = CountyHistory(200, ALL, date(2026, 1, 1), [History(signs, (date(2015, 1, 1), date(2021, 2, 1)))])
        # Of 2020 the first counts, a year before the sale to the day; so does that of 2021.
        found = self.of_probate(county)
        self.assertEqual((found.cases, found.hits), (2, 2))

    def test_the_day_itself_is_not_after_it(self) -> None:
        day = date(2022, 3, 1)
        self.assertFalse(lift.came_to_something(day, (day,)))
        self.assertTrue(lift.came_to_something(day, (date(2023, 3, 1),)))
        self.assertFalse(lift.came_to_something(day, (date(2023, 3, 2),)))

    def test_what_the_records_forget_is_never_said(self) -> None:
        found = next(one for one in lifts(()) if one.kind is SignalKind.TAX_DELINQUENT)
        self.assertIn("forget", found.why_withheld)
