"""How figures, ages and values read on a page. Common practice of a US office."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import age_text, figure_shown, value_phrase
from jaded_ledger.core.criteria.text import parse_line

TODAY = date(2026, 11, 24)


class Figures(unittest.TestCase):
    def test_each_kind_of_figure(self) -> None:
        for key, number, text in (
            ("year-built", 1925, "1925"), ("living-area", 1500, "1,500"), ("living-area", Decimal(1500), "1,500"), ("baths", 2.5, "2.5"),
            ("baths", 2.0, "2"), ("equity", -1200, "−$1,200"), ("equity", 0, "$0"), ("equity-pct", -12.5, "−12.5 %"), ("beds", 3, "3"),
        ):  # fmt: skip
            self.assertEqual(figure_shown(CATALOGUE[key], number), text, key)

    def test_cents_are_shown_where_there_are_any(self) -> None:
        trait = CATALOGUE["sale-sqft"]
        self.assertEqual(figure_shown(trait, Decimal("98.5")), f"${98.5:,.{trait.decimals}f}")
        self.assertEqual(figure_shown(trait, Decimal(98)), "$98")


class Ages(unittest.TestCase):
    def test_full_years_and_months_to_the_day(self) -> None:
        for day, text in (
            (date(2025, 11, 25), "11 m"), (date(2025, 11, 24), "1 y"), (date(2025, 11, 23), "1 y"), (date(2024, 10, 24), "2 y 1 m"),
            (date(2024, 10, 25), "2 y"), (date(2026, 10, 24), "1 m"), (date(2026, 10, 25), "30 d"), (date(2026, 11, 23), "1 d"),
            (TODAY, "today"), (date(2026, 11, 25), "in 1 d"), (date(2027, 1, 3), "in 40 d"),
        ):  # fmt: skip
            self.assertEqual(age_text(day, TODAY), text, day)


class Phrases(unittest.TestCase):
    def test_whole_months_and_years_are_said_so(self) -> None:
        for days, text in (
            ("2026-11-01..2026-11-30", "in Nov 2026"), ("2026-12-01..2026-12-31", "in Dec 2026"), ("2024-02-01..2024-02-29", "in Feb 2024"),
            ("2026-11-01..2026-11-29", "between 1 Nov 2026 and 29 Nov 2026"),
            ("2025-11-01..2026-11-30", "between 1 Nov 2025 and 30 Nov 2026"),
            ("2026-11-02..2026-11-30", "between 2 Nov 2026 and 30 Nov 2026"), ("2026-01-01..2026-12-31", "in 2026"),
            ("2024-01-01..2026-12-31", "in 2024 to 2026"), ("2026-01-01..2026-12-30", "between 1 Jan 2026 and 30 Dec 2026"),
            ("2026-02-01..2026-12-31", "between 1 Feb 2026 and 31 Dec 2026"),
        ):  # fmt: skip
            self.assertEqual(value_phrase(parse_line(f"last-sale: {days}")), text)

    def test_a_long_list_is_cut_to_as_many_as_fit(self) -> None:
        keys = ["single-family", "duplex", "triplex", "fourplex", "condominium"]
        self.assertEqual(value_phrase(parse_line(f"class: {', '.join(keys[:4])}")), "single-family, duplex, triplex, fourplex")
        self.assertEqual(value_phrase(parse_line(f"class: {', '.join(keys)}")), "single-family, duplex, triplex and 2 more")
        self.assertEqual(value_phrase(parse_line(f"class: {', '.join(keys)}"), most=2), "single-family and 4 more")
