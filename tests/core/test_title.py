"""Sales, cash purchases, flips and unbroken ownership. Common practice throughout."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.finance.debts import Loan
from jaded_ledger.core.ownership.parties import Party
from jaded_ledger.core.title.holding import Acquired, holding, whole_years
from jaded_ledger.core.title.sales import DeedType, Transfer, flips, in_time, is_cash_purchase, is_sale, purchase_loans

TRUST = Party("OSTROM FAMILY TRUST", "trust", ("ostrom",))


def deed(day: date, price: int | None = 100_000, kind: str = "warranty", related: bool = False, **more) -> Transfer:
    return Transfer(day, DeedType(kind), None if price is None else Decimal(price), related, day, **more)


def _sales(*transfers: Transfer) -> list[Transfer]:
    return [transfer for transfer in in_time(transfers) if is_sale(transfer)]


class Sales(unittest.TestCase):
    def test_arms_length(self) -> None:
        day = date(2020, 5, 1)
        self.assertTrue(is_sale(deed(day)))
        for other in (
            deed(day, 1_000), deed(day, None), deed(day, None, "quitclaim"), deed(day, related=True), deed(day, kind="sheriff"),
            deed(day, kind="tax"), deed(day, kind="correction"),
        ):  # fmt: skip
            self.assertFalse(is_sale(other), other)
        self.assertTrue(is_sale(deed(day, 1_001)))

    def test_the_last_sale_is_not_the_last_transfer(self) -> None:
        into_trust = deed(date(2023, 1, 9), None, "quitclaim", related=True)
        later, earlier = deed(date(2019, 5, 2)), deed(date(2001, 3, 3))
        self.assertEqual(_sales(later, into_trust, earlier), [earlier, later])
        self.assertEqual(_sales(into_trust), [])

    def test_flips(self) -> None:
        first, second, third = deed(date(2018, 1, 10), 60_000), deed(date(2020, 1, 10), 95_000), deed(date(2022, 1, 11), 99_000)
        found = flips(_sales(third, first, second))
        self.assertEqual([(flip.margin, flip.days) for flip in found], [(35_000, 730)], "24 months to the day count, a day more does not")
        self.assertEqual(flips([first, deed(date(2019, 1, 1), 60_000)]), (), "not for the same price")

    def test_cash(self) -> None:
        sale, through = deed(date(2026, 3, 2)), date(2026, 11, 18)

        def lent(day: date, kind: str = "purchase") -> list[Loan]:
            return purchase_loans(sale, [Loan(day, None, kind, Decimal(80_000), None, None, None)])

        self.assertIs(is_cash_purchase(sale, [], through), True)
        for day, cash in [(date(2026, 4, 1), False), (date(2026, 4, 2), True), (date(2026, 1, 31), False), (date(2026, 1, 30), True)]:
            self.assertIs(is_cash_purchase(sale, lent(day), through), cash, day)
        self.assertIs(is_cash_purchase(sale, lent(date(2026, 3, 2), "credit-line"), through), True)
        self.assertIs(is_cash_purchase(sale, lent(date(2026, 3, 2), ""), through), False, "a loan that says not what for")
        self.assertIsNone(is_cash_purchase(sale, [], date(2026, 3, 31)), "mortgages are not yet on file far enough")
        self.assertIs(is_cash_purchase(sale, [], date(2026, 4, 1)), True)
        self.assertIsNone(is_cash_purchase(sale, [], None))


class Ownership(unittest.TestCase):
    def held(self, *transfers: Transfer):
        return holding(in_time(transfers))

    def test_within_the_family_it_goes_on(self) -> None:
        bought = deed(date(1994, 5, 12))
        trust = deed(date(2010, 3, 1), None, "quitclaim", related=True, grantee=TRUST)
        fixed = deed(date(2011, 3, 1), None, "correction")
        found = self.held(bought, trust, fixed)
        self.assertEqual((found.began, found.acquired), (bought, Acquired.SALE))
        self.assertFalse(found.is_open_before)

    def test_a_sale_begins_another_even_to_a_cousin(self) -> None:
        cousin = deed(date(2015, 3, 1), 90_000, related=True)
        self.assertEqual(self.held(deed(date(1994, 5, 12)), cousin).began, cousin)

    def test_the_first_deed_on_record_is_within_the_family(self) -> None:
        found = self.held(deed(date(2015, 3, 1), None, "quitclaim", related=True))
        self.assertTrue(found.is_open_before)
        self.assertEqual(found.acquired, Acquired.GIFT)

    def test_how_it_was_acquired(self) -> None:
        bought = deed(date(1994, 5, 12))
        for last, how in [
            (deed(date(2012, 1, 3), None, "personal-representative", related=True), Acquired.INHERITANCE),
            (deed(date(2012, 1, 3), 120_000, "personal-representative"), Acquired.SALE),
            (deed(date(2012, 1, 3), None, "sheriff"), Acquired.FORECLOSURE),
            (deed(date(2012, 1, 3), None, "tax"), Acquired.TAX_SALE),
            (deed(date(2012, 1, 3), 1, "quitclaim"), Acquired.GIFT),
            (deed(date(2012, 1, 3), None, "trustee", related=True, grantor=TRUST), Acquired.TRUST),
        ]:
            self.assertEqual(self.held(bought, last).acquired, how, last)
        self.assertIsNone(self.held())

    def test_whole_years(self) -> None:
        self.assertEqual(whole_years(date(2016, 11, 24), date(2026, 11, 24)), 10)
        self.assertEqual(whole_years(date(2016, 11, 25), date(2026, 11, 24)), 9)
        self.assertEqual(whole_years(date(2024, 2, 29), date(2027, 2, 28)), 2)
