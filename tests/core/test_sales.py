"""Which transfers are sales. Common practice."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

from jaded_ledger.core.market.sales import DeedType, Transfer, is_sale, last_sale

SALE = Transfer(date(2019, 5, 2), DeedType.WARRANTY, Decimal(180_000), is_related=False)


class Sales(unittest.TestCase):
    def test_what_is_not_a_sale(self) -> None:
        self.assertTrue(is_sale(SALE))
        for change in (
            {"price": None}, {"price": Decimal(1)}, {"price": Decimal(1000)}, {"is_related": True},
            {"deed": DeedType.SHERIFF}, {"deed": DeedType.TAX}, {"deed": DeedType.CORRECTION},
            {"deed": DeedType.QUITCLAIM, "price": None},
        ):  # fmt: skip
            self.assertFalse(is_sale(replace(SALE, **change)), change)
        self.assertTrue(is_sale(replace(SALE, price=Decimal("1000.01"))))

    def test_the_last_sale_is_not_the_last_transfer(self) -> None:
        into_trust = Transfer(date(2023, 1, 9), DeedType.QUITCLAIM, None, is_related=True)
        earlier = replace(SALE, sold_on=date(2001, 3, 3))
        self.assertEqual(last_sale([earlier, into_trust, SALE]), SALE)
        self.assertIsNone(last_sale([into_trust]))
        self.assertIsNone(last_sale([]))
