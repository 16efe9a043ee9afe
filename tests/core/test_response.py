"""Shares and the ranges they lie in, against published values."""

from __future__ import annotations

import unittest
from decimal import Decimal

from jaded_ledger.core.mail.response import Brought, may_be_chance, share, together


class Shares(unittest.TestCase):
    def test_against_published_intervals(self) -> None:
        """Newcombe, confidence intervals for the single proportion, Statistics in Medicine 17 (1998), table I, method 3 (from memory)."""
        for count, of, low, high in ((81, 263, 0.2553, 0.3662), (15, 148, 0.0624, 0.1605), (0, 20, 0.0, 0.1611), (1, 29, 0.0061, 0.1718)):
            found = share(count, of)
            self.assertEqual((round(found.low, 4), round(found.high, 4)), (low, high))
            # What did not happen lies in the mirrored range.
            other = share(of - count, of)
            self.assertAlmostEqual(other.low, 1 - found.high)
            self.assertAlmostEqual(other.high, 1 - found.low)

    def test_differences_against_published_ones(self) -> None:
        """Newcombe, interval estimation for the difference, Statistics in Medicine 17 (1998), table II: 56/70 and 48/80 (from memory)."""
        self.assertFalse(may_be_chance(share(56, 70), share(48, 80)))
        self.assertFalse(may_be_chance(share(3, 10), share(9, 10)))
        self.assertTrue(may_be_chance(share(9, 398), share(6, 398)))
        self.assertTrue(may_be_chance(share(5, 10), share(5, 10)))
        self.assertTrue(may_be_chance(share(0, 10), share(0, 10)))

    def test_of_nothing(self) -> None:
        self.assertIsNone(share(0, 0))
        self.assertIsNone(may_be_chance(None, share(1, 2)))
        nothing = Brought("x", 0, Decimal(0), {})
        self.assertEqual((nothing.share_of("reply"), nothing.cost_per("reply")), (None, None))

    def test_costs_and_sums(self) -> None:
        april = Brought("April", 810, Decimal("572.00"), {"reply": 13})
        june = Brought("June", 806, Decimal("455.00"), {"reply": 5, "deal": 1})
        self.assertEqual((april.cost_per("reply"), june.cost_per("reply")), (Decimal("44.00"), Decimal("91.00")))
        self.assertIsNone(april.cost_per("deal"))
        both = together("both", [april, june])
        self.assertEqual((both.pieces, both.cost, both.outcomes), (1616, Decimal("1027.00"), {"reply": 18, "deal": 1}))
        self.assertEqual(both.cost_per("deal"), Decimal("1027.00"))
        self.assertEqual(together("none", []), Brought("none", 0, Decimal(0), {}))

    def test_the_range_of_none_and_of_all_ends_where_it_must(self) -> None:
        """Wilson's range by its closed form at the ends: z² ÷ (n + z²), from the normal distribution's table (z = 1.96)."""
        none, every = share(0, 20), share(20, 20)
        self.assertEqual((none.low, every.high), (0.0, 1.0))
        self.assertAlmostEqual(none.high, 1.959964**2 / (20 + 1.959964**2), places=6)
        self.assertAlmostEqual(every.low, 20 / (20 + 1.959964**2), places=6)
        self.assertIsNotNone(share(1, 1))
        self.assertIsNone(share(0, -1))
        # Equal shares differ by chance, and so does a difference that only touches the range.
        self.assertIs(may_be_chance(share(1, 2), None), None)
        self.assertFalse(may_be_chance(share(0, 40), share(40, 40)))
