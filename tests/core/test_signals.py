"""Signs of distress: dated, open or closed. Common practice."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.distress.signals import (
    Auction,
    Case,
    Episode,
    Filed,
    Lien,
    SignalKind,
    Step,
    TaxYear,
    delinquent_years,
    furthest,
    newest_open,
    open_foreclosure,
    open_liens,
    signals_of,
)

TODAY = date(2026, 11, 24)


def tax(year: int, due: int) -> TaxYear:
    return TaxYear(year, None, None, None, Decimal(2_000), Decimal(due), year)


def case(kind: str, status: str, filed: date = date(2025, 2, 14)) -> Case:
    return Case(kind, filed, status, date(2026, 1, 5), None, "25-1", False, 7)


class Signals(unittest.TestCase):
    def opened(self, **filed) -> set[SignalKind]:
        return set(newest_open(signals_of(Filed(**filed), (), TODAY, {})))

    def test_the_running_years_tax_is_not_late(self) -> None:
        years = [tax(2027, 50), tax(2026, 900), tax(2025, 1_200), tax(2024, 0), tax(2023, 300)]
        self.assertEqual([year.year for year in delinquent_years(years, TODAY)], [2023, 2025])
        (signal,) = signals_of(Filed(tax_years=years), (), TODAY, {})
        self.assertEqual((signal.kind, signal.amount, signal.on), (SignalKind.TAX_DELINQUENT, 1_500, date(2025, 12, 31)))
        three = [tax(2023, 1), tax(2024, 1), tax(2025, 1)]
        self.assertEqual([signal.on.year for signal in signals_of(Filed(tax_years=three), (), TODAY, {})], [2025], "that of the newest")

    def test_cases(self) -> None:
        self.assertEqual(self.opened(cases=[case("tax", "judgment")]), {SignalKind.TAX_SUIT, SignalKind.TAX_JUDGMENT})
        self.assertEqual(self.opened(cases=[case("tax", "disposed"), case("probate", "dismissed"), case("eviction", "judgment")]), set())
        self.assertEqual(self.opened(cases=[case("probate", "filed"), case("civil", "filed")]), {SignalKind.PROBATE})

    def test_a_foreclosure_that_was_called_off_is_over(self) -> None:
        steps = [Step(date(2025, 1, 9), "notice-of-default", None, 1), Step(date(2025, 3, 9), "reinstated", None, 2)]
        self.assertEqual(open_foreclosure(steps, ()), [])
        steps += [Step(date(2026, 5, 1), "lis-pendens", None, 3), Step(date(2026, 4, 1), "notice-of-default", None, 4)]
        self.assertEqual(furthest(open_foreclosure(steps, ())).step, "lis-pendens")
        self.assertEqual(open_foreclosure(steps, [date(2026, 6, 1)]), [], "sold since")
        self.assertIsNone(furthest([]))

    def test_auctions_ahead(self) -> None:
        ahead = Auction(date(2026, 12, 9), "tax", "scheduled", None, 1)
        self.assertEqual(self.opened(auctions=[ahead, ahead._replace(kind="foreclosure", status="canceled")]), {SignalKind.TAX_AUCTION})
        self.assertEqual(self.opened(auctions=[ahead._replace(held_on=date(2026, 11, 23))]), set())

    def test_liens(self) -> None:
        old, new = Lien(date(2015, 1, 1), "judgment", Decimal(5), "1"), Lien(date(2020, 1, 1), "hoa", None, "2")
        paid = Lien(date(2021, 1, 1), "hoa", Decimal(1), "3", date(2022, 1, 1))
        self.assertEqual(open_liens([new, old, paid], ()), [old, new])
        self.assertEqual(open_liens([new, old, paid], [date(2018, 5, 5)]), [new])

    def test_spells(self) -> None:
        episodes = [Episode(date(2020, 1, 1), date(2021, 1, 1), 1), Episode(date(2026, 3, 9), None, 2)]
        found = signals_of(Filed(violations=episodes, vacancies=episodes[:1]), (), TODAY, {})
        self.assertEqual([(one.kind, one.is_open) for one in found], [
            (SignalKind.CODE_VIOLATION, False), (SignalKind.CODE_VIOLATION, True), (SignalKind.VACANCY, False),
        ])  # fmt: skip
