"""The debt as a ledger: its movements add up to what is owed, whatever ends a loan or a lien. Common practice."""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.ledger import (
    Balance,
    DatedValue,
    Movement,
    MovementOrder,
    Running,
    dated_values,
    debt_on,
    movements,
    value_on,
)
from tests.support.records import DAY, TODAY, event, loan, of, roll, sale

BOUGHT = date(2016, 11, 24)
# At rate 0 every payment is $100.
LOAN = loan(BOUGHT, "purchase", 36_000, "0", 360)


def lien(day: date, amount: int | None = 500, released_on: date | None = None) -> s.Lien:
    return s.Lien(day, "hoa", None if amount is None else Decimal(amount), str(day), released_on, day.toordinal())


def told(found: Findings, *shown_on: date) -> list[tuple[date, MovementOrder, Decimal | None, Decimal | None]]:
    return [(one.on, one.place, one.debit, one.credit) for one in movements(found, shown_on)]


def run(found: Findings, *shown_on: date) -> Decimal | None:
    running = Running()
    for movement in movements(found, shown_on):
        running.take(movement)
    return running.debt


class Movements(unittest.TestCase):
    def test_an_open_loan_is_lent_and_paid_by_schedule(self) -> None:
        found = of(loans=[LOAN])
        self.assertEqual(told(found), [(BOUGHT, MovementOrder.LENT, 36_000, 0), (TODAY, MovementOrder.UP_TO_TODAY, 0, 12_000)])
        self.assertEqual(movements(found)[-1].note, "120 payments")
        self.assertEqual((run(found), debt_on(found, TODAY)), (24_000, 24_000))

    def test_what_else_is_shown_splits_the_principal_a_year_apart_at_least(self) -> None:
        found = of(loans=[LOAN])
        for days, count in (((date(2017, 11, 23), BOUGHT), 0), ((date(2017, 11, 24),), 1), ((TODAY + DAY,), 0)):
            self.assertEqual(len(told(found, *days)), 2 + count, days)
        first, second = movements(found, [date(2017, 11, 24)])[1:]
        self.assertEqual((first.credit, second.credit, first.note, second.note), (1_200, 10_800, "12 payments", "108 payments"))

    def test_no_line_changes_while_days_pass_and_nothing_is_recorded(self) -> None:
        """The debt after a document's movements is the same on its day and on all days after it, until another document moves it."""
        years = [s.TaxYear(2024, None, None, Decimal(30_000), Decimal(300), Decimal(300), 1)]
        through = date(2026, 11, 18)
        other = loan(date(2020, 3, 2), "refinance", 9_000, "0", 90)
        for shown_on in ((), (through,), (date(2026, 1, 2), through)):
            seen = {}
            for days in (0, 1, 2, 31, 400):
                found = of(
                    {"tax-years": through, "loans": through}, loans=[LOAN, other], filed=s.Filed(tax_years=years, liens=[lien(through)]),
                    roll=roll(land_value=Decimal(50_000), improvement_value=Decimal(2)), today=through + timedelta(days),
                )  # fmt: skip
                running = Running()
                for movement in movements(found, shown_on):
                    running.take(movement)
                    if movement.row is not None:
                        now = running.debt, value_on(dated_values(found), movement.on)
                        self.assertEqual(seen.setdefault(movement.row, now), now, (shown_on, days, movement.row))
            self.assertEqual(len(seen), 4)

    def test_what_ends_a_loan(self) -> None:
        day = date(2018, 11, 24)
        released = of(loans=[LOAN], loan_events=event(LOAN, "release", day))
        self.assertEqual(told(released)[1:], [(day, MovementOrder.PRINCIPAL, 0, 2_400), (day, MovementOrder.PAID, 0, 33_600)])
        self.assertEqual(movements(released)[-1].row, ("loan-event", 9))
        sold = of(loans=[LOAN], transfers=[sale(day)])
        self.assertEqual(told(sold), told(released))
        self.assertEqual((movements(sold)[-1].row, movements(sold)[-1].note), (None, "reckoned"))
        self.assertEqual([run(one) for one in (released, sold)], [0, 0])
        self.assertEqual([debt_on(sold, on) for on in (day - DAY, day)], [33_700, 0])

    def test_a_matured_loan_leaves_nothing_to_reckon(self) -> None:
        found = of(loans=[loan(date(1990, 1, 4), "purchase", 36_000, "0", 360)])
        self.assertEqual([one.place for one in movements(found)], [MovementOrder.LENT, MovementOrder.PRINCIPAL])
        self.assertEqual(run(found), 0)

    def test_an_unknown_amount_makes_the_debt_unknown_until_it_ends(self) -> None:
        unknown = loan(BOUGHT, "purchase", None)
        self.assertIsNone(run(of(loans=[unknown])))
        self.assertIsNone(debt_on(of(loans=[unknown]), TODAY))
        over = of(loans=[unknown], transfers=[sale(date(2018, 1, 1))])
        self.assertEqual((run(over), debt_on(over, TODAY)), (0, 0))
        self.assertIsNone(debt_on(over, date(2017, 12, 31)))

    def test_liens_until_released_or_paid_from_a_price(self) -> None:
        day = date(2020, 1, 6)
        for claimed, sold, paid in (
            (lien(day), None, None), (lien(day), day, day), (lien(day), day - DAY, None),
            (lien(day, released_on=day + DAY), None, day + DAY),
            (lien(day, released_on=day + 9 * DAY), day + DAY, day + 9 * DAY),
        ):  # fmt: skip
            found = of(filed=s.Filed(liens=[claimed]), transfers=[sale(sold)] if sold else [])
            self.assertEqual([one.on for one in movements(found)], [day, *([paid] if paid else [])])
            self.assertEqual(run(found), 0 if paid else 500)
            self.assertEqual(debt_on(found, TODAY), 0 if paid else 500)
            self.assertEqual(debt_on(found, day - DAY), 0)
            if paid and paid > day:
                self.assertEqual([debt_on(found, on) for on in (day, paid - DAY, paid)], [500, 500, 0])
        self.assertIsNone(debt_on(of(filed=s.Filed(liens=[lien(day, None)])), day))

    def test_taxes_as_of_the_day_through_which_bills_are_on_file(self) -> None:
        years = [s.TaxYear(2024, None, None, None, None, Decimal(300), 1), s.TaxYear(2025, None, None, None, None, Decimal(400), 2)]
        through = date(2026, 10, 1)
        found = of({"tax-years": through, "loans": TODAY}, filed=s.Filed(tax_years=years))
        self.assertEqual(told(found), [(through, MovementOrder.TAXED, 300, 0), (through, MovementOrder.TAXED, 400, 0)])
        self.assertEqual([debt_on(found, day) for day in (through - DAY, through)], [0, 700])
        self.assertEqual(told(of({"tax-years": TODAY + DAY}, filed=s.Filed(tax_years=years)))[0][0], TODAY)
        self.assertEqual(told(of({}, filed=s.Filed(tax_years=years))), [])

    def test_of_one_day_what_is_paid_stands_before_what_is_lent(self) -> None:
        day = date(2020, 11, 24)
        found = of(loans=[LOAN, loan(day, "refinance", 40_000, "0", 360)], filed=s.Filed(liens=[lien(day)]))
        of_day = [one.place for one in movements(found) if one.on == day]
        self.assertEqual(of_day, [MovementOrder.PRINCIPAL, MovementOrder.PAID, MovementOrder.LENT, MovementOrder.CLAIMED])


class Values(unittest.TestCase):
    def test_a_price_goes_before_a_tax_year_s_value_and_today_s_is_the_estimate(self) -> None:
        years = [s.TaxYear(number, None, None, Decimal(worth), None, None, number) for number, worth in ((2019, 90), (2020, 95), (2021, 0))]
        found = of(transfers=[sale(date(2020, 1, 1), 100_000)], filed=s.Filed(tax_years=years))
        self.assertEqual(dated_values(found), [DatedValue(date(2019, 1, 1), Decimal(90)), DatedValue(date(2020, 1, 1), Decimal(100_000))])
        worth = of(roll=roll(land_value=Decimal(1), improvement_value=Decimal(2)))
        self.assertEqual(dated_values(worth), [DatedValue(TODAY, Decimal(3))])
        ahead = of(filed=s.Filed(tax_years=[s.TaxYear(2027, None, None, Decimal(90), None, None, 1)]))
        self.assertEqual(dated_values(ahead), [])

    def test_between_two_days_in_proportion(self) -> None:
        known = [DatedValue(date(2020, 1, 1), Decimal(100)), DatedValue(date(2020, 1, 11), Decimal(200))]
        for day, value in ((date(2019, 12, 31), None), (date(2020, 1, 1), 100), (date(2020, 1, 2), 110), (date(2020, 1, 11), 200),
                           (date(2026, 1, 1), 200)):  # fmt: skip
            self.assertEqual(value_on(known, day), value, day)
        self.assertIsNone(value_on([], TODAY))

    def test_equity_is_known_where_both_are(self) -> None:
        for debt, value, equity in ((10, 30, 20), (30, 10, -20), (0, 10, 10), (None, 10, None), (10, None, None)):
            self.assertEqual(Balance(debt, value).equity, equity)

    def test_running(self) -> None:
        running = Running()
        self.assertEqual(running.debt, 0)
        for debit, credit, debt in ((500, 0, 500), (None, 0, None), (0, 200, None), (0, None, 300)):
            running.take(Movement(TODAY, MovementOrder.PAID, "", debit, credit))
            self.assertEqual(running.debt, debt)
