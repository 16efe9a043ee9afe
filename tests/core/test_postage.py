"""What a mailing costs, and prices as people write them."""

from __future__ import annotations

import unittest
from decimal import Decimal

from jaded_ledger.core.mail.postage import DEAREST, LABELS, POSTAGE, PriceError, Prices, as_json, cost, prices_from


class Costs(unittest.TestCase):
    def test_by_hand(self) -> None:
        """732 letters at $0.11 and $0.593: $80.52 and $434.08, together $514.60."""
        lines = cost(Prices(), "sorted_first_class", "letters", 732, 1_514)
        self.assertEqual([(line.label, line.count, line.amount) for line in lines], [
            ("printing", 732, Decimal("80.52")), ("postage, sorted first class", 732, Decimal("434.08")),
        ])  # fmt: skip
        self.assertEqual(sum(line.amount for line in lines), Decimal("514.60"))

    def test_records_where_they_cost(self) -> None:
        lines = cost(prices_from({"per_record": "0.05"}), "first_class", "labels", 0, 10)
        self.assertEqual([line.amount for line in lines], [0, 0, Decimal("0.50")])

    def test_every_price_has_a_label_and_reads_back(self) -> None:
        self.assertEqual(set(as_json(Prices())), set(LABELS))
        self.assertLessEqual(set(POSTAGE), set(LABELS))
        odd = prices_from({"first_class": " $0.8 ", "print_labels": "0"})
        self.assertEqual((odd.first_class, odd.print_labels, odd.postcard), (Decimal("0.8"), 0, Prices().postcard))
        self.assertEqual(prices_from(as_json(odd)), odd)

    def test_what_is_no_price(self) -> None:
        for text in ("", "a stamp", "-0.01", f"{DEAREST + Decimal('0.01')}", "NaN", "1e999"):
            with self.subTest(text), self.assertRaisesRegex(PriceError, "first class"):
                prices_from({"first_class": text})
        self.assertEqual(prices_from({"first_class": f"{DEAREST}"}).first_class, DEAREST)
