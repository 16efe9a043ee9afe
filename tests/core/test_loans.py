"""Which loans are open, and what is owed on them. The rules are common practice; the check values are those of a payment table."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.finance.amortization import balance, payment, payments_due
from jaded_ledger.core.finance.debts import Ended, Passing, loan_states, owed_on
from jaded_ledger.core.finance.rates import average_rate
from jaded_ledger.core.finance.value import Part, equity, estimate
from tests.support.records import ends, event, loan

TODAY = date(2026, 11, 24)


class Amortization(unittest.TestCase):
    def test_a_loan_of_200_000(self) -> None:
        """$200,000 at 6 % over 30 years, as every payment table has it."""
        self.assertEqual(round(payment(Decimal(200_000), Decimal("0.06"), 360), 2), Decimal("1199.10"))
        self.assertEqual(round(balance(Decimal(200_000), Decimal("0.06"), 360, 60), 2), Decimal("186108.71"))

    def test_at_rate_0(self) -> None:
        self.assertEqual(payment(Decimal(36_000), Decimal(0), 360), 100)
        self.assertEqual(balance(Decimal(36_000), Decimal(0), 360, 90), 27_000)

    def test_the_ends(self) -> None:
        self.assertEqual(balance(Decimal(1000), Decimal("0.05"), 12, 0), 1000)
        self.assertEqual(balance(Decimal(1000), Decimal("0.05"), 12, 12), 0)
        self.assertEqual(balance(Decimal(1000), Decimal("0.05"), 12, 400), 0)
        with self.assertRaises(ValueError):
            payment(Decimal(1000), Decimal("0.05"), 0)

    def test_payments_fall_due_a_month_later(self) -> None:
        for begun, day, due in [
            (date(2026, 1, 15), date(2026, 2, 14), 0), (date(2026, 1, 15), date(2026, 2, 15), 1), (date(2026, 1, 31), date(2026, 2, 28), 1),
            (date(2026, 1, 31), date(2026, 3, 30), 1), (date(2024, 2, 29), date(2025, 2, 28), 12), (date(2026, 5, 1), date(2026, 4, 1), 0),
        ]:  # fmt: skip
            self.assertEqual(payments_due(begun, day), due, (begun, day))

    @given(st.dates(date(1970, 1, 1), date(2026, 1, 1)), st.integers(0, 3000))
    def test_the_debt_never_grows(self, begun: date, days: int) -> None:
        (one,) = loan_states([loan(begun)], {}, [], TODAY)
        day = date.fromordinal(begun.toordinal() + days)
        self.assertLessEqual(one.owed_on(date.fromordinal(day.toordinal() + 1)), one.owed_on(day))


class Open(unittest.TestCase):
    def test_open_until_released(self) -> None:
        first = loan(date(2010, 5, 3))
        self.assertEqual(ends(first), [None])
        self.assertEqual(ends(first, events=event(first, "release", date(2015, 1, 9))), [Ended.RELEASED])
        self.assertEqual(ends(first, events=event(first, "assignment", date(2015, 1, 9))), [None])

    def test_past_its_maturity(self) -> None:
        self.assertEqual(ends(loan(date(2005, 1, 3), term=180)), [Ended.MATURED])
        self.assertEqual(ends(loan(date(2005, 1, 3), matures_on=date(2030, 1, 3))), [None])
        self.assertEqual(ends(loan(date(1990, 1, 3), term=None)), [Ended.MATURED], "30 years where no term is recorded")

    def test_a_sale_closes_the_earlier_owners_loans(self) -> None:
        before, bought = loan(date(2001, 3, 1)), loan(date(2012, 6, 4))
        sale = Passing(date(2012, 6, 4), is_sale=True)
        self.assertEqual(ends(before, bought, passings=[sale]), [Ended.SOLD, None])
        self.assertEqual(ends(before, events=event(before, "assumption", date(2012, 6, 4)), passings=[sale]), [None])
        self.assertEqual(ends(before, passings=[Passing(date(2012, 6, 4), is_sale=False)]), [Ended.LOST])
        early = loan(date(2012, 5, 20))
        self.assertEqual(ends(early, passings=[sale]), [None], "a purchase loan recorded shortly before its deed is the buyer's")

    def test_a_refinance_closes_the_one_before(self) -> None:
        first = loan(date(2010, 1, 4))
        owed = loan_states([first], {}, [], TODAY)[0].owed_on(date(2016, 1, 4))
        enough, too_little = int(owed * Decimal("0.81")), int(owed * Decimal("0.79"))
        self.assertEqual(ends(first, loan(date(2016, 1, 4), "refinance", enough)), [Ended.REPLACED, None])
        self.assertEqual(ends(first, loan(date(2016, 1, 4), "refinance", too_little)), [None, None])
        self.assertEqual(ends(first, loan(date(2016, 1, 4), "second", 100_000)), [None, None])
        line = loan(date(2012, 1, 4), "credit-line", 20_000)
        self.assertEqual(ends(first, line, loan(date(2016, 1, 4), "refinance", enough)), [Ended.REPLACED, None, None])

    def test_a_rate_that_is_not_recorded(self) -> None:
        (one,) = loan_states([loan(date(2012, 7, 2), rate=None)], {}, [], TODAY)
        self.assertTrue(one.is_rate_assumed)
        self.assertEqual(one.rate, average_rate(2012))

    def test_a_line_counts_at_its_limit(self) -> None:
        (one,) = loan_states([loan(date(2015, 7, 2), "credit-line", 40_000)], {}, [], TODAY)
        self.assertEqual(one.owed_on(TODAY), 40_000)

    def test_a_modification_begins_anew(self) -> None:
        first = loan(date(2010, 1, 4))
        (one,) = loan_states([first], event(first, "modification", date(2020, 1, 4), 120_000), [], TODAY)
        self.assertEqual(one.owed_on(date(2020, 1, 4)), 120_000)
        self.assertEqual(one.owed_on(date(2021, 1, 4)), balance(Decimal(120_000), Decimal("0.06"), 240, 12))

    def test_unknown_is_not_zero(self) -> None:
        found = loan_states([loan(date(2010, 1, 4)), loan(date(2020, 1, 4), "second", None)], {}, [], TODAY)
        self.assertIsNone(owed_on(found, TODAY))
        self.assertEqual(owed_on((), TODAY), 0)


class Values(unittest.TestCase):
    def test_median_of_three_mean_of_two(self) -> None:
        parts = [Part("a", Decimal(100), ""), Part("b", Decimal(260), ""), Part("c", Decimal(300), "")]
        self.assertEqual(estimate(parts).value, 260)
        self.assertEqual((estimate(parts).low, estimate(parts).high), (100, 300))
        self.assertEqual(estimate(parts[:2]).value, 180)
        self.assertIsNone(estimate([None, Part("assessed", Decimal(0), "")]))

    def test_equity(self) -> None:
        own = equity(Decimal(200_000), Decimal(250_000), Decimal(5_000), Decimal(0))
        self.assertEqual((own.amount, own.percent), (-55_000, Decimal("-27.5")))
        for unknown in ((None, 0, 0, 0), (1, None, 0, 0), (1, 0, None, 0), (1, 0, 0, None)):
            self.assertIsNone(equity(*(part if part is None else Decimal(part) for part in unknown)))
