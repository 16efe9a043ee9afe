"""Level payments and balances against numpy-financial, to the cent; the table of rates against what it is said to be."""

from __future__ import annotations

import unittest
from decimal import Decimal

import numpy_financial
from hypothesis import given, settings
from hypothesis import strategies as st

from jaded_ledger.core.finance.amortization import balance, payment
from jaded_ledger.core.finance.rates import SOURCE, average_rate

CENT = Decimal("0.01")
amounts = st.integers(1_000, 5_000_000)
rates = st.integers(1, 1_800)
"""Hundredths of a percent."""
terms = st.integers(12, 480)


class AgainstNumpyFinancial(unittest.TestCase):
    """numpy-financial's ``pmt`` and ``fv`` take floats: they agree to the cent below ten million dollars."""

    @settings(max_examples=300)
    @given(amounts, rates, terms)
    def test_payments(self, amount: int, rate: int, months: int) -> None:
        theirs = -numpy_financial.pmt(rate / 10_000 / 12, months, amount)
        self.assertAlmostEqual(float(payment(Decimal(amount), Decimal(rate) / 10_000, months)), float(theirs), delta=0.005)

    @settings(max_examples=300)
    @given(amounts, rates, terms, st.data())
    def test_balances(self, amount: int, rate: int, months: int, data: st.DataObject) -> None:
        paid = data.draw(st.integers(0, months))
        monthly = rate / 10_000 / 12
        theirs = -numpy_financial.fv(monthly, paid, numpy_financial.pmt(monthly, months, amount), amount)
        self.assertAlmostEqual(float(balance(Decimal(amount), Decimal(rate) / 10_000, months, paid)), float(theirs), delta=0.005)


class Rates(unittest.TestCase):
    def test_the_table_names_its_source(self) -> None:
        self.assertIn("Freddie Mac, Primary Mortgage Market Survey", SOURCE)

    def test_turning_points_of_the_survey(self) -> None:
        """From memory of the published yearly averages: the highest ever in 1981, the lowest in 2021, 8 % last passed in 2000."""
        by_year = {year: average_rate(year) for year in range(1971, 2025)}
        self.assertEqual(max(by_year, key=by_year.__getitem__), 1981)
        self.assertEqual(min(by_year, key=by_year.__getitem__), 2021)
        self.assertEqual(max(year for year, rate in by_year.items() if rate > Decimal("0.08")), 2000)
        self.assertEqual((average_rate(1960), average_rate(2090)), (average_rate(1971), average_rate(2024)))
