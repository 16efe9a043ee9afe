"""Where histograms are cut."""

from __future__ import annotations

from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.bins import MOST_BARS, edges_between, range_text
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import Exactly, FigureRange
from jaded_ledger.core.criteria.text import parse_line

BEDS, PRICE, SHARE, SOLD = (CATALOGUE[key] for key in ("beds", "assessed-value", "equity-pct", "last-sale"))


class Bins(TestCase):
    def assert_cut(self, edges: list, low: object, high: object) -> None:
        self.assertLessEqual(len(edges), MOST_BARS + 1)
        self.assertEqual(edges, sorted(set(edges)))
        self.assertLessEqual(edges[0], low)
        self.assertGreater(edges[-1], high)

    @given(st.integers(-(10**9), 10**9), st.integers(0, 10**9), st.sampled_from([BEDS, PRICE]))
    def test_whole_figures(self, low: int, more: int, trait) -> None:
        edges = edges_between(low, low + more, trait)
        self.assert_cut(edges, low, low + more)
        self.assertTrue(all(edge == int(edge) for edge in edges))

    @given(st.integers(-10_000_000, 10_000_000), st.integers(0, 10_000_000))
    def test_percent(self, low: int, more: int) -> None:
        self.assert_cut(edges_between(low / 100, (low + more) / 100, SHARE), Decimal(low) / 100, Decimal(low + more) / 100)

    @given(st.dates(date(1600, 1, 1), date(2100, 1, 1)), st.dates(date(1600, 1, 1), date(2100, 1, 1)))
    def test_days(self, one: date, other: date) -> None:
        low, high = sorted((one, other))
        edges = edges_between(low, high, SOLD)
        self.assert_cut(edges, low, high)
        self.assertTrue(all(edge.day == 1 for edge in edges))

    def test_small_and_round(self) -> None:
        self.assertEqual(edges_between(1, 5, BEDS), [1, 2, 3, 4, 5, 6])
        self.assertEqual(edges_between(3, 3, BEDS), [3, 4])
        self.assertEqual(edges_between(98_000, 402_000, PRICE)[:3], [80_000, 100_000, 120_000])
        self.assertEqual(edges_between(date(1990, 5, 2), date(2026, 3, 1), SOLD)[:2], [date(1990, 1, 1), date(1992, 1, 1)])

    def test_brushed_text_is_what_is_typed(self) -> None:
        self.assertEqual(range_text(None, Decimal(5), BEDS), "..4")
        self.assertEqual(range_text(Decimal(5), None, BEDS), "5..")
        self.assertEqual(range_text(Decimal(5), Decimal(6), BEDS), "5")
        self.assertEqual(range_text(Decimal(50), Decimal(60), SHARE), "50..59.99")
        self.assertEqual(range_text(date(2015, 1, 1), date(2020, 1, 1), SOLD), "between 2015-01-01 and 2019-12-31")
        self.assertEqual(range_text(date(2015, 1, 1), None, SOLD), "since 2015-01-01")
        self.assertEqual(parse_line("beds: 5").accepts, (Exactly(Decimal(5)),))
        self.assertEqual(parse_line(f"assessed-value: {range_text(Decimal(100000), Decimal(150000), PRICE)}").accepts,
                         (FigureRange(Decimal(100000), Decimal(149999)),))  # fmt: skip
