"""The day itself, the exact share, the one before and after: where the rules of sales, loans, markets and signs turn. Common practice."""

from __future__ import annotations

import unittest
from dataclasses import FrozenInstanceError, fields, is_dataclass
from datetime import date
from decimal import Decimal

from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.finance.amortization import balance
from jaded_ledger.core.finance.debts import Ended, Loan, LoanEvent, LoanState, Passing, loan_states, owed_on
from jaded_ledger.core.market.land import LotRules, percent_of_usual, possible_lots
from jaded_ledger.core.market.offers import Disagreement, Sign, disagreements, seller_kind, signs_of_competition
from jaded_ledger.core.market.on_market import (
    ActivePeriod,
    Change,
    OnMarket,
    active_periods,
    chain_of,
    cuts,
    days_on_market,
    latest_of,
    left_market_on,
)
from jaded_ledger.core.ownership.parties import UNNAMED, Party
from jaded_ledger.core.title.sales import DeedType, Flip, flips, in_time, is_cash_purchase, is_sale, purchase_loans
from tests.support.records import DAY, TODAY, ends, event, listing, loan, sale, turned


class Sales(unittest.TestCase):
    def test_a_price_up_to_the_nominal_one_is_none(self) -> None:
        day = date(2020, 5, 1)
        for price, is_one in ((None, False), (0, False), (1, False), (1000, False), (1001, True)):
            self.assertEqual(is_sale(sale(day, price)), is_one, price)
        for deed in DeedType:
            named = sale(day, deed=deed, grantor=Party("HELEN OSTROM"), grantee=Party("DORA KELM"))
            self.assertEqual(is_sale(named), deed not in (DeedType.SHERIFF, DeedType.TAX, DeedType.CORRECTION), deed)
            unnamed = [named._replace(grantor=UNNAMED), named._replace(grantee=UNNAMED)]
            self.assertEqual([is_sale(one) for one in unnamed], [is_sale(named) and deed != DeedType.QUITCLAIM] * 2, deed)
        self.assertFalse(is_sale(sale(day, is_related=True)))

    def test_of_one_day_the_recording_tells_the_order_then_the_row(self) -> None:
        day = date(2020, 5, 1)
        late, early, same = sale(day, recorded_on=day + DAY, key=1), sale(day, key=3), sale(day, key=2)
        before = sale(day - DAY, recorded_on=day + 9 * DAY, key=9)
        self.assertEqual(in_time([late, early, same, before]), [before, same, early, late])

    def test_a_purchase_loan_within_thirty_days_of_the_sale_or_its_recording(self) -> None:
        sold = sale(date(2020, 5, 1), recorded_on=date(2020, 5, 11))
        first, last = date(2020, 4, 1), date(2020, 6, 10)
        for day, paid in ((first - DAY, False), (first, True), (last, True), (last + DAY, False)):
            self.assertEqual(bool(purchase_loans(sold, [loan(day)])), paid, day)
        self.assertTrue(purchase_loans(sold, [loan(first, "")]), "nothing is stated")
        self.assertFalse(purchase_loans(sold, [loan(first, "refinance")]))
        # A date of recording before that of the sale is a slip; the later of the two counts.
        slip = sale(date(2020, 5, 1), recorded_on=date(2020, 4, 1))
        self.assertTrue(purchase_loans(slip, [loan(date(2020, 5, 31))]))
        self.assertFalse(purchase_loans(slip, [loan(date(2020, 6, 1))]))

    def test_cash_is_known_when_mortgages_are_recorded_far_enough(self) -> None:
        sold = sale(date(2020, 5, 1), recorded_on=date(2020, 5, 11))
        enough = date(2020, 6, 10)
        for through, is_cash in ((None, None), (enough - DAY, None), (enough, True)):
            self.assertIs(is_cash_purchase(sold, [], through), is_cash)
        self.assertIs(is_cash_purchase(sold, [loan(date(2020, 5, 2))], None), False)

    def test_a_flip_is_a_resale_for_more_within_24_months(self) -> None:
        bought = sale(date(2020, 1, 31), 100_000)
        for day, price, is_flip in (
            (date(2022, 1, 31), 100_001, True), (date(2022, 2, 1), 150_000, False), (date(2020, 2, 1), 100_000, False),
            (date(2020, 1, 31), 100_001, True),
        ):  # fmt: skip
            self.assertEqual(len(flips([bought, sale(day, price)])), int(is_flip), (day, price))
        (flip,) = flips([bought, sale(date(2020, 3, 1), 130_000)])
        self.assertEqual((flip.margin, flip.days), (30_000, 30))
        self.assertEqual([one.days for one in flips([bought, sale(date(2020, 3, 1), 130_000), sale(date(2020, 3, 11), 140_000)])], [30, 10])
        self.assertEqual(flips([bought]), ())


class Debts(unittest.TestCase):
    def state(self, one: Loan, events=None, passings=()) -> LoanState:
        (found,) = loan_states([one], events or {}, passings, TODAY)
        return found

    def test_the_day_of_maturity_is_past(self) -> None:
        for matures, why in ((TODAY + DAY, None), (TODAY, Ended.MATURED), (TODAY - DAY, Ended.MATURED)):
            self.assertEqual(ends(loan(date(2000, 1, 3), matures_on=matures)), [why])
        found = self.state(loan(date(2005, 1, 31), term=1))
        self.assertEqual((found.matures_on, found.ended_on, found.ended_by), (date(2005, 2, 28), date(2005, 2, 28), None))

    def test_a_term_is_told_by_the_maturity(self) -> None:
        self.assertEqual(self.state(loan(date(2020, 1, 3), term=None, matures_on=date(2035, 1, 3))).months, 180)
        self.assertEqual(self.state(loan(date(2020, 1, 3), term=None)).months, 360)
        self.assertEqual(self.state(loan(date(2020, 1, 3), term=120, matures_on=date(2035, 1, 3))).months, 120)
        dated = loan(date(2020, 1, 3), term=None, matures_on=date(2035, 1, 3))._replace(dated_on=date(2019, 12, 3))
        self.assertEqual((self.state(dated).months, self.state(dated).begins_on), (181, date(2019, 12, 3)))

    def test_open_from_its_recording_to_the_day_it_ends(self) -> None:
        first = loan(date(2010, 5, 3))
        found = self.state(first, event(first, "release", date(2015, 1, 9)))
        for day, is_open in ((date(2010, 5, 2), False), (date(2010, 5, 3), True), (date(2015, 1, 8), True), (date(2015, 1, 9), False)):
            self.assertIs(found.is_open_on(day), is_open, day)
        self.assertEqual((found.ended_on, found.ended_by), (date(2015, 1, 9), ("loan-event", 9)))
        self.assertTrue(self.state(first).is_open_on(TODAY))
        # A release on record before the loan ends it on the day of its recording.
        self.assertEqual(self.state(first, event(first, "release", date(2009, 1, 9))).ended_on, date(2010, 5, 3))

    def test_events_are_of_the_loan_of_their_number(self) -> None:
        unnumbered = loan(date(2010, 5, 3), number="")
        self.assertEqual(ends(unnumbered, events={"": [LoanEvent(date(2015, 1, 9), "release", "", None)]}), [None])

    def test_whatever_ends_it_first(self) -> None:
        first = loan(date(2010, 5, 3))
        sold = Passing(date(2014, 1, 1), is_sale=True, key=5)
        self.assertEqual(ends(first, events=event(first, "release", date(2013, 12, 31)), passings=[sold]), [Ended.RELEASED])
        self.assertEqual(ends(first, events=event(first, "release", date(2014, 1, 2)), passings=[sold]), [Ended.SOLD])
        self.assertEqual(self.state(first, passings=[sold]).ended_by, ("deed", 5))
        lost = Passing(date(2013, 1, 1), is_sale=False, key=6)
        self.assertEqual(ends(first, passings=[sold, lost]), [Ended.LOST], "the earlier of two")

    def test_the_buyers_loan_is_recorded_up_to_thirty_days_before_the_deed(self) -> None:
        deed = date(2012, 6, 30)
        for day, why in ((date(2012, 5, 30), Ended.SOLD), (date(2012, 5, 31), None), (deed - DAY, None), (deed, None), (deed + DAY, None)):
            self.assertEqual(ends(loan(day), passings=[Passing(deed, is_sale=True)]), [why], day)
        early = date(2012, 6, 1)
        self.assertEqual(ends(loan(early, "refinance"), passings=[Passing(deed, is_sale=True)]), [Ended.SOLD], "the seller's")
        self.assertEqual(ends(loan(early), passings=[Passing(deed, is_sale=False)]), [Ended.LOST])
        # It is the buyer's then, and the next sale ends it.
        later = Passing(date(2018, 1, 1), is_sale=True)
        self.assertEqual(ends(loan(early), passings=[Passing(deed, is_sale=True), later]), [Ended.SOLD])

    def test_an_assumption_counts_from_thirty_days_before_the_deed(self) -> None:
        first, deed = loan(date(2001, 3, 1)), Passing(date(2012, 6, 30), is_sale=True)
        for day, why in ((date(2012, 5, 30), Ended.SOLD), (date(2012, 5, 31), None), (date(2012, 7, 30), None)):
            self.assertEqual(ends(first, events=event(first, "assumption", day), passings=[deed]), [why], day)
        self.assertEqual(ends(first, events=event(first, "assignment", date(2012, 6, 30)), passings=[deed]), [Ended.SOLD])

    def test_a_refinance_for_just_four_fifths(self) -> None:
        first = loan(date(2010, 1, 4), "purchase", 100_000, "0", 400)
        day = date(2014, 3, 4)
        self.assertEqual(self.state(first).owed_on(day), 87_500)
        for amount, why in ((69_999, None), (70_000, Ended.REPLACED)):
            found = loan_states([first, loan(day, "refinance", amount)], {}, [], TODAY)
            self.assertEqual([state.ended for state in found], [why, None], amount)
        self.assertEqual((found[0].ended_on, found[0].ended_by), (day, ("loan", day.toordinal())))
        self.assertEqual(ends(first, loan(day, "refinance", None)), [None, None])
        self.assertEqual(ends(first._replace(amount=None), loan(day, "refinance", 90_000)), [None, None])

    def test_a_refinance_replaces_the_latest_first_lien_alone(self) -> None:
        older, newer = loan(date(2008, 1, 4), amount=10_000), loan(date(2010, 1, 4), amount=100_000)
        second = loan(date(2011, 1, 4), "second", 5_000)
        found = ends(older, newer, second, loan(date(2016, 1, 4), "refinance", 100_000))
        self.assertEqual(found, [None, Ended.REPLACED, None, None])
        # What was released before is not the one that is replaced.
        found = ends(older, newer, loan(date(2016, 1, 4), "refinance", 100_000), events=event(newer, "release", date(2016, 1, 4)))
        self.assertEqual(found, [Ended.REPLACED, Ended.RELEASED, None])

    def test_the_order_is_that_of_recording_then_of_the_row(self) -> None:
        day = date(2010, 1, 4)
        found = loan_states([loan(day, key=2), loan(day, key=1), loan(day - DAY, key=3)], {}, [], TODAY)
        self.assertEqual([state.loan.key for state in found], [3, 1, 2])

    def test_a_modification_counts_from_its_day(self) -> None:
        first = loan(date(2010, 1, 4), "purchase", 100_000, "0", 100)
        changed = event(first, "modification", date(2012, 1, 4), 60_000)
        found = self.state(first, changed)
        self.assertEqual(found.owed_on(date(2012, 1, 3)), 100_000 - 23 * 1_000)
        self.assertEqual(found.owed_on(date(2012, 1, 4)), 60_000)
        self.assertEqual(found.owed_on(date(2012, 2, 4)), balance(Decimal(60_000), Decimal(0), 76, 1))
        self.assertEqual(self.state(first, event(first, "modification", date(2012, 1, 4))).restarts, ())
        # In the last month, or after it, there is a month to pay in yet.
        late = self.state(first, event(first, "modification", date(2019, 1, 4), 500))
        self.assertEqual((late.owed_on(date(2019, 1, 4)), late.owed_on(date(2019, 2, 4))), (500, 0))

    def test_what_is_owed_in_all(self) -> None:
        first, second = loan(date(2010, 1, 4), amount=100_000, rate="0", term=100), loan(date(2012, 1, 4), "second", 7_000, "0", 100)
        found = loan_states([first, second], {}, [], TODAY)
        self.assertEqual(owed_on(found, date(2011, 12, 4)), 77_000)
        self.assertEqual(owed_on(found, date(2012, 1, 4)), 76_000 + 7_000)
        self.assertEqual(owed_on(found, date(2009, 1, 1)), 0)


class Market(unittest.TestCase):
    def test_days_that_two_periods_share_count_once(self) -> None:
        first = ActivePeriod(date(2026, 1, 1), date(2026, 1, 11))
        for since, until, days in ((11, 21, 20), (10, 21, 20), (12, 21, 19), (2, 11, 10), (2, 5, 10)):
            second = ActivePeriod(date(2026, 1, since), date(2026, 1, until))
            self.assertEqual(days_on_market([first, second]), OnMarket(days, None), second)
        still = days_on_market([first, ActivePeriod(date(2026, 1, 6), None)])
        self.assertEqual(still, OnMarket(10, date(2026, 1, 11)), "from where the closed one ends")
        self.assertEqual(days_on_market([]), OnMarket(0, None))

    def test_on_a_day(self) -> None:
        on = OnMarket(10, date(2026, 3, 1))
        self.assertEqual([on.on(date(2026, 2, 28)), on.on(date(2026, 3, 1)), on.on(date(2026, 3, 2))], [10, 10, 11])
        self.assertEqual(OnMarket(10, None).on(TODAY), 10)

    def test_a_period_never_ends_before_it_begins(self) -> None:
        begun = date(2026, 3, 1)
        self.assertEqual(active_periods(listing("A", begun, "Closed", close_date=begun - DAY), ()), (ActivePeriod(begun, begun),))
        self.assertEqual(active_periods(listing("A", begun), [turned(begun - DAY, "Active", "Pending")]), (ActivePeriod(begun, begun),))
        self.assertEqual(active_periods(listing("A", begun, "Hold"), ()), (), "when it was taken off is not said")

    def test_a_history_tells_the_first_status(self) -> None:
        begun, turn = date(2026, 3, 1), date(2026, 3, 8)
        coming = [turned(turn, "Coming Soon", "Active")]
        self.assertEqual(active_periods(listing("A", begun), coming), (ActivePeriod(turn, None),))
        unsaid = [turned(turn, "", "Pending")]
        self.assertEqual(active_periods(listing("A", begun, "Pending"), unsaid), (ActivePeriod(begun, turn),))
        price = Change(turn, "ListPrice", "2", "1")
        self.assertEqual(active_periods(listing("A", begun), [price]), (ActivePeriod(begun, None),))

    def test_when_it_left_the_market(self) -> None:
        begun = date(2026, 3, 1)
        self.assertIsNone(left_market_on(listing("A", begun, "Pending"), ()))
        changes = [turned(date(2026, 4, 1), "Active", "Withdrawn"), turned(date(2026, 4, 5), "Withdrawn", "Active"),
                   turned(date(2026, 5, 1), "Active", "Withdrawn")]  # fmt: skip
        self.assertEqual(left_market_on(listing("A", begun, "Withdrawn"), changes), date(2026, 5, 1), "the last time")
        for status, name in (
            ("Withdrawn", "withdrawn_date"), ("Canceled", "cancellation_date"), ("Expired", "expiration_date"), ("Closed", "close_date"),
        ):  # fmt: skip
            self.assertEqual(left_market_on(listing("A", begun, status, **{name: date(2026, 6, 1)}), ()), date(2026, 6, 1))
            self.assertEqual(left_market_on(listing("A", begun, status), ()), begun)

    def test_a_cut_is_to_a_lower_price(self) -> None:
        changes = [Change(TODAY, "ListPrice", before, after) for before, after in (("2", "1"), ("2", "2"), ("1", "2"), ("", "1"))]
        self.assertEqual(cuts([*changes, Change(TODAY, "StandardStatus", "2", "1")]), (changes[0],))

    def test_a_sale_on_the_day_of_the_relisting_begins_anew(self) -> None:
        first, again = listing("A", date(2026, 1, 1), "Expired", expiration_date=date(2026, 6, 30)), listing("B", date(2026, 7, 10))
        for day, kept in (
            (date(2026, 1, 1), ["A", "B"]), (date(2026, 1, 2), ["B"]), (date(2026, 7, 10), ["B"]), (date(2026, 7, 11), ["A", "B"]),
        ):  # fmt: skip
            self.assertEqual([one.listing_id for one in chain_of([first, again], {}, (day,), 30).listings], kept, day)

    def test_of_one_day_the_later_row_is_the_latest(self) -> None:
        day = date(2026, 3, 1)
        self.assertEqual(latest_of([listing("A", day, key=2), listing("B", day, key=1)], lease=False).listing_id, "A")
        chain = chain_of([listing("A", day, key=2), listing("B", day, "Withdrawn", withdrawn_date=day, key=1)], {}, (), 30)
        self.assertEqual([one.listing_id for one in chain.listings], ["B", "A"])

    def test_a_chain_is_in_the_order_of_time(self) -> None:
        found = [listing(name, date(2026, month, 1)) for name, month in (("C", 5), ("A", 1), ("D", 7), ("B", 3))]
        self.assertEqual([one.listing_id for one in chain_of(found, {}, (), 30).listings], ["A", "B", "C", "D"])

    def test_since_when_it_has_its_status(self) -> None:
        begun, day = date(2026, 3, 1), date(2026, 4, 1)
        for status, more, since in (
            ("Active", {}, begun), ("Pending", {"purchase_contract_date": day}, day), ("Active Under Contract", {}, None),
            ("Closed", {"close_date": day, "purchase_contract_date": begun}, day), ("Expired", {}, None), ("Hold", {}, begun),
        ):  # fmt: skip
            self.assertEqual(chain_of([listing("A", begun, status, **more)], {}, (), 30).status_since, since, status)
        changes = {"A": [turned(begun, "Active", "Pending"), turned(day, "Pending", "Active"), turned(day + DAY, "Active", "Pending")]}
        self.assertEqual(chain_of([listing("A", begun, "Pending")], changes, (), 30).status_since, day + DAY)

    def test_signs_of_several_buyers(self) -> None:
        closed = listing("A", TODAY, "Closed", list_price=Decimal(200), close_price=Decimal(199))
        self.assertEqual(signs_of_competition(closed, None, []), ())
        for days, signs in ((0, (Sign.QUICK,)), (3, (Sign.QUICK,)), (4, ())):
            self.assertEqual(signs_of_competition(closed, days, []), signs)
        for status, signs in (("Pending", (Sign.QUICK,)), ("Active Under Contract", (Sign.QUICK,)), ("Active", ()), ("Expired", ())):
            self.assertEqual(signs_of_competition(listing("A", TODAY, status), 1, []), signs)
        over = closed._replace(close_price=Decimal(200))
        self.assertEqual(signs_of_competition(over._replace(status="Pending"), None, []), ())
        for unknown in ({"list_price": None}, {"close_price": None}):
            self.assertEqual(signs_of_competition(over._replace(**unknown), None, []), ())

    def test_whose_it_is_and_where_two_sources_differ(self) -> None:
        for conditions, seller in (("Probate Listing", "estate"), ("HUD Owned", "government"), ("Real Estate Owned", "bank")):
            self.assertEqual(seller_kind(conditions, None), seller)
        for kind, seller in (("lender", "bank"), ("government", "government"), ("company", "private")):
            self.assertEqual(seller_kind("", kind), seller)
        pairs = [("beds", 2, 3), ("baths", 2, 2), ("garage", None, 1), ("lot", 1, None), ("year", Decimal("1.5"), 2)]
        self.assertEqual(disagreements(pairs), (Disagreement("beds", 2.0, 3.0), Disagreement("year", 1.5, 2.0)))

    def test_lots(self) -> None:
        for frontage, lots in ((24.9, 1), (49.9, 1), (50, 2), (132, 5)):
            self.assertEqual(possible_lots(frontage, None, None), lots, frontage)
        # 132 ft at 33 ft are four lots.
        self.assertEqual(possible_lots(132, None, None, LotRules(width=33)), 4)
        for depth, lots in ((79.9, 1), (80, 3), (None, 3)):
            self.assertEqual(possible_lots(75, depth, None), lots, depth)
        for area, lots in ((4_999, 1), (5_000, 2), (7_499, 2), (7_500, 3), (1, 1), (None, 3)):
            self.assertEqual(possible_lots(75, 100, area), lots, area)
        self.assertEqual(percent_of_usual(40, 60), 66.67)
        for frontage, usual in ((None, 60), (40, None), (40, 0)):
            self.assertIsNone(percent_of_usual(frontage, usual))
        self.assertEqual(percent_of_usual(0, 60), 0)


class Signs(unittest.TestCase):
    def of(self, **filed) -> list[s.Signal]:
        return s.signals_of(s.Filed(**filed), (), TODAY, {})

    def test_the_newest_open_of_a_kind(self) -> None:
        old, new = (s.Signal(s.SignalKind.VACANCY, day, True, ("vacancy", key)) for key, day in ((1, TODAY - DAY), (2, TODAY)))
        for order in ([old, new], [new, old]):
            self.assertEqual(s.newest_open(order), {s.SignalKind.VACANCY: new})
        twin = s.Signal(s.SignalKind.VACANCY, TODAY, True, ("vacancy", 3))
        self.assertEqual(s.newest_open([new, twin]), {s.SignalKind.VACANCY: new}, "of one day the first")
        closed = s.Signal(s.SignalKind.VACANCY, TODAY, False, ("vacancy", 3))
        self.assertEqual(s.newest_open([closed]), {})

    def test_a_year_is_late_when_it_is_over(self) -> None:
        def year(number: int, due: int | None) -> s.TaxYear:
            return s.TaxYear(number, None, None, None, Decimal(2_000), due if due is None else Decimal(due), number)

        self.assertEqual(s.delinquent_years([year(2026, 1), year(2025, 0), year(2024, None)], TODAY), [])
        for reach, late in ((date(2025, 12, 31), []), (date(2026, 1, 1), [2025])):
            self.assertEqual([one.year for one in s.delinquent_years([year(2025, 1)], reach)], late, reach)
        (signal,) = self.of(tax_years=[year(2025, 10), year(2023, 5)])
        self.assertEqual((signal.on, signal.is_open, signal.row, signal.amount), (date(2025, 12, 31), True, ("tax-year", 2025), 15))

    def test_what_goes_on_counts_from_the_newest_record_that_shows_it(self) -> None:
        """On 1 January nothing jumps: the record does not tell that the tax of the year that is over is still unpaid."""
        bills = [s.TaxYear(year, None, None, None, None, Decimal(9), year) for year in (2025, 2026)]
        spell = s.Episode(date(2019, 4, 1), None, 1)
        filed = s.Filed(tax_years=bills, vacancies=[spell], violations=[spell, s.Episode(date(2018, 1, 1), date(2018, 2, 1), 2)])
        reach = date(2026, 11, 18)
        through = dict.fromkeys(("tax-years", "vacancies", "violations"), reach)
        before, after = (s.signals_of(filed, (), today, through) for today in (date(2026, 12, 31), date(2027, 1, 1)))
        self.assertEqual(before, after)
        self.assertEqual([one.counts_from for one in after if one.is_open], [reach] * 3)
        self.assertEqual([one.counts_from for one in after if not one.is_open], [date(2018, 1, 1)], "what is over fades from its day")
        early = s.signals_of(filed, (), date(2026, 11, 2), through)
        self.assertEqual({one.confirmed_on for one in early if one.is_open}, {date(2026, 11, 2)}, "no later than today")
        on = {one.kind: one.on for one in after if one.is_open}
        self.assertEqual(
            (on[s.SignalKind.VACANCY], on[s.SignalKind.TAX_DELINQUENT]), (spell.since, date(2025, 12, 31)), "its own day stays"
        )
        ahead = s.Signal(s.SignalKind.VACANCY, TODAY, True, ("vacancy", 1), confirmed_on=TODAY - DAY)
        self.assertEqual(ahead.counts_from, TODAY)

    def test_what_lies_before_a_sale_is_paid(self) -> None:
        sold = date(2020, 5, 5)
        for day, is_open in ((sold - DAY, False), (sold, False), (sold + DAY, True)):
            self.assertEqual(bool(s.open_liens([s.Lien(day, "hoa", None, "1")], [sold])), is_open)
            self.assertEqual(bool(s.open_foreclosure([s.Step(day, "lis-pendens", None)], [sold])), is_open)
        liens = [s.Lien(sold, "hoa", None, "1", key=2), s.Lien(sold, "hoa", None, "2", key=1)]
        self.assertEqual([lien.key for lien in s.open_liens(liens, ())], [1, 2])

    def test_a_case_and_when_it_is_over(self) -> None:
        filed, turned_on = date(2025, 2, 14), date(2026, 1, 5)

        def case(kind: str, status: str, on: date | None = turned_on) -> list[tuple[object, ...]]:
            found = self.of(cases=[s.Case(kind, filed, status, on, Decimal(9), "25-1", False, 7)])
            return [(one.kind, one.on, one.is_open, one.closed_on, one.amount, one.row) for one in found]

        row = ("case", 7)
        suit, judgment = s.SignalKind.TAX_SUIT, s.SignalKind.TAX_JUDGMENT
        self.assertEqual(case("tax", "filed"), [(suit, filed, True, None, 9, row)])
        self.assertEqual(case("tax", "dismissed"), [(suit, filed, False, turned_on, 9, row)])
        self.assertEqual(case("tax", "judgment"), [(suit, filed, True, None, 9, row), (judgment, turned_on, True, None, 9, row)])
        self.assertEqual(case("tax", "judgment", None)[1][1], filed, "the day of the judgment is not on record")
        self.assertEqual(case("eviction", "judgment"), [(s.SignalKind.EVICTION, filed, False, turned_on, 9, row)])
        self.assertEqual(case("eviction", "filed"), [(s.SignalKind.EVICTION, filed, True, None, 9, row)])
        self.assertEqual(case("probate", "judgment"), [(s.SignalKind.PROBATE, filed, True, None, 9, row)])
        self.assertEqual(case("divorce", "disposed"), [(s.SignalKind.DIVORCE, filed, False, turned_on, 9, row)])

    def test_an_auction_is_ahead_on_its_day(self) -> None:
        def auction(day: date, status: str = "scheduled") -> s.Auction:
            return s.Auction(day, "foreclosure", status, Decimal(5), 3)

        for day, is_ahead in ((TODAY - DAY, False), (TODAY, True), (TODAY + DAY, True)):
            self.assertIs(s.is_ahead(auction(day), TODAY), is_ahead)
        self.assertTrue(s.is_ahead(auction(TODAY, "postponed"), TODAY))
        self.assertFalse(s.is_ahead(auction(TODAY, "canceled"), TODAY))
        for day, reach, is_unknown in (
            (TODAY - DAY, TODAY, True), (TODAY, TODAY, False), (TODAY - DAY, TODAY - DAY, True), (TODAY - DAY, TODAY - 2 * DAY, False),
        ):  # fmt: skip
            self.assertIs(s.is_held_unknown(auction(day), TODAY, reach), is_unknown, (day, reach))
        self.assertFalse(s.is_held_unknown(auction(TODAY - DAY, "sold"), TODAY, TODAY))
        (past,) = self.of(auctions=[auction(TODAY - DAY)])
        self.assertEqual((past.is_open, past.closed_on, past.amount, past.row), (False, TODAY - DAY, 5, ("auction", 3)))
        (coming,) = self.of(auctions=[auction(TODAY)])
        self.assertEqual((coming.is_open, coming.closed_on), (True, None))

    def test_the_furthest_step_and_of_two_the_later(self) -> None:
        steps = [s.Step(date(2026, 1, 1), "judgment", None, 1), s.Step(date(2026, 5, 1), "lis-pendens", None, 2),
                 s.Step(date(2026, 3, 1), "judgment", None, 3)]  # fmt: skip
        self.assertEqual(s.furthest(steps).key, 3)
        found = self.of(steps=[*steps, s.Step(date(2026, 4, 1), "sale-scheduled", Decimal(1), 4)])
        self.assertEqual([(one.kind, one.row[1], one.is_open) for one in found], [
            (s.SignalKind.FORECLOSURE_JUDGMENT, 1, True), (s.SignalKind.LIS_PENDENS, 2, True), (s.SignalKind.FORECLOSURE_JUDGMENT, 3, True),
        ])  # fmt: skip

    def test_liens_and_episodes_say_their_rows(self) -> None:
        (lien,) = self.of(liens=[s.Lien(date(2020, 1, 1), "hoa", Decimal(7), "1", date(2021, 1, 1), 4)])
        self.assertEqual((lien.kind, lien.is_open, lien.closed_on, lien.amount, lien.row),
                         (s.SignalKind.HOA_LIEN, False, date(2021, 1, 1), 7, ("lien", 4)))  # fmt: skip
        empty, broken = self.of(vacancies=[s.Episode(TODAY, None, 5)], violations=[s.Episode(TODAY, TODAY, 6)])[::-1]
        self.assertEqual((empty.kind, empty.is_open, empty.row), (s.SignalKind.VACANCY, True, ("vacancy", 5)))
        self.assertEqual((broken.kind, broken.is_open, broken.closed_on), (s.SignalKind.CODE_VIOLATION, False, TODAY))


class Frozen(unittest.TestCase):
    def test_findings_are_values(self) -> None:
        """What the core returns can't be changed by whoever has it."""
        for made in (
            OnMarket(1, None), ActivePeriod(TODAY, None), LotRules(), Disagreement("x", 1, 2), s.Filed(),
            s.Signal(s.SignalKind.VACANCY, TODAY, True, ("vacancy", 1)), Flip(sale(TODAY), sale(TODAY), Decimal(1), Decimal(2)),
            loan_states([loan(TODAY)], {}, [], TODAY)[0], chain_of([listing("A", TODAY)], {}, (), 30),
        ):  # fmt: skip
            self.assertTrue(is_dataclass(made))
            with self.subTest(type(made).__name__), self.assertRaises(FrozenInstanceError):
                setattr(made, fields(made)[0].name, None)
