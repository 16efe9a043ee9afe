"""Days on the market, relistings, signs of several buyers, land. The names are RESO's, the rules common practice."""

from __future__ import annotations

import unittest
from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.market.areas import Median, PriceLevels, growth, months_of_supply, percent_of_median, rental_yield
from jaded_ledger.core.market.land import percent_of_usual, possible_lots
from jaded_ledger.core.market.offers import Sign, disagreements, says_of_competition, seller_kind, signs_of_competition
from jaded_ledger.core.market.on_market import (
    ActivePeriod,
    Change,
    Listing,
    active_periods,
    chain_of,
    days_on_market,
    latest_of,
    left_market_on,
)
from jaded_ledger.core.phrases import hits
from tests.support.records import listing, turned

TODAY = date(2026, 11, 24)


class Days(unittest.TestCase):
    def on_market(self, one: Listing, *changes: Change) -> int:
        return days_on_market(active_periods(one, changes)).on(TODAY)

    def test_active_intervals_are_added(self) -> None:
        one = listing("A", date(2026, 10, 1))
        self.assertEqual(self.on_market(one), 54)
        back = (turned(date(2026, 10, 11), "Active", "Pending"), turned(date(2026, 11, 14), "Pending", "Active"))
        self.assertEqual(self.on_market(one, *back), 20, "ten days before the contract, ten after it fell through")

    def test_without_a_history_its_own_dates_tell(self) -> None:
        sold = listing("A", date(2026, 3, 1), "Closed", purchase_contract_date=date(2026, 3, 4), close_date=date(2026, 4, 20))
        self.assertEqual(self.on_market(sold), 3)
        self.assertEqual(self.on_market(listing("A", date(2026, 3, 1), "Expired", expiration_date=date(2026, 8, 28))), 180)
        self.assertEqual(self.on_market(listing("A", date(2026, 3, 1), "Coming Soon")), 0)

    def test_the_list_date_stands_in_and_then_the_first_sight(self) -> None:
        one = listing("A", None, listing_contract_date=date(2026, 11, 4), first_seen_on=date(2026, 11, 9))
        self.assertEqual(self.on_market(one), 20)
        self.assertEqual(self.on_market(listing("A", None, first_seen_on=date(2026, 11, 9))), 15)

    def test_past_its_expiry_an_active_one_counts_no_more_days(self) -> None:
        for expires, days in ((TODAY - timedelta(1), 9), (TODAY, 10), (None, 10), (date(2026, 11, 1), 0)):
            one = listing("A", TODAY - timedelta(10), expiration_date=expires)
            self.assertEqual(days_on_market(active_periods(one, (), TODAY)).on(TODAY), days, expires)
            chain = chain_of([one], {}, (), 30, TODAY)
            self.assertEqual((chain.is_past_expiry, chain.days.on(TODAY), chain.cumulative.on(TODAY)), (days < 10, days, days), expires)
        pending = listing("A", TODAY - timedelta(10), "Pending", expiration_date=TODAY - timedelta(1))
        self.assertFalse(chain_of([pending], {}, (), 30, TODAY).is_past_expiry)


class Relisting(unittest.TestCase):
    FIRST = listing("A", date(2026, 1, 1), "Expired", expiration_date=date(2026, 6, 30))

    def chained(self, again: date, *, sold: tuple[date, ...] = (), first: Listing = FIRST) -> list[str]:
        return [one.listing_id for one in chain_of([listing("B", again), first], {}, sold, 30).listings]

    def test_a_gap_shorter_than_the_countys(self) -> None:
        self.assertEqual(self.chained(date(2026, 7, 29)), ["A", "B"], "29 days")
        self.assertEqual(self.chained(date(2026, 7, 30)), ["B"], "30 days")

    def test_a_sale_between_begins_anew(self) -> None:
        self.assertEqual(self.chained(date(2026, 7, 10), sold=(date(2026, 7, 1),)), ["B"])
        closed = listing("A", date(2026, 1, 1), "Closed", close_date=date(2026, 6, 30))
        self.assertEqual(self.chained(date(2026, 7, 10), first=closed), ["B"])

    def test_cumulative_days(self) -> None:
        chain = chain_of([self.FIRST, listing("B", date(2026, 7, 10))], {}, (), 30)
        self.assertEqual((chain.days.on(TODAY), chain.cumulative.on(TODAY)), (137, 180 + 137))

    def test_cuts(self) -> None:
        changes = {
            "B": [Change(date(2026, 8, 1), "ListPrice", "200000", "190000"), Change(date(2026, 9, 1), "ListPrice", "190000", "195000")]
        }
        self.assertEqual([cut.on for cut in chain_of([listing("B", date(2026, 7, 1))], changes, (), 30).cuts], [date(2026, 8, 1)])

    def test_the_latest_for_sale(self) -> None:
        lease = listing("L", date(2026, 11, 1), property_type="Residential Lease")
        mistake = listing("M", date(2026, 11, 2), "Delete")
        of_all = [self.FIRST, lease, mistake]
        self.assertEqual(latest_of(of_all, lease=False), self.FIRST)
        self.assertEqual(latest_of(of_all, lease=True), lease)
        self.assertIsNone(chain_of([lease, mistake], {}, (), 30))


class Competition(unittest.TestCase):
    def test_each_sign_is_named(self) -> None:
        sold = listing("A", date(2026, 3, 1), "Closed", list_price=Decimal(200), close_price=Decimal(200))
        self.assertEqual(signs_of_competition(sold, 3, ["Offer deadline Monday"]), (Sign.OVER_LIST, Sign.QUICK, Sign.SAID))
        self.assertEqual(signs_of_competition(sold._replace(close_price=Decimal(199)), 4, ["Quiet street"]), ())

    def test_bring_all_offers_says_the_opposite(self) -> None:
        self.assertFalse(says_of_competition("Price reduced, BRING ALL OFFERS to listing agent"))
        self.assertTrue(says_of_competition("Please send all offers to the office by noon"))
        self.assertTrue(says_of_competition("Bring all offers? No: multiple offers are in hand"))

    def test_whose_it_is(self) -> None:
        self.assertEqual(seller_kind("Real Estate Owned", "individual"), "bank")
        self.assertEqual(seller_kind("Standard", "estate"), "estate")
        self.assertEqual(seller_kind("Standard", "couple"), "private")
        self.assertIsNone(seller_kind("Standard", None))


class Phrases(unittest.TestCase):
    def test_check_values(self) -> None:
        for text, phrase, is_hit in [
            ("Sold as R.E.O. only", "r.e.o.", True), ("REO, cash", "r.e.o.", True), ("an r.e.o sale", "r.e.o.", True),
            ("R E O", "r.e.o.", True),
            ("CREOLE kitchen", "r.e.o.", False), ("STEREO stays", "r.e.o.", False), ("seller OREOSKY", "r.e.o.", False),
            ("no fire, no damage", "fire damage", False), ("some fire-damage in the cellar", "fire damage", True),
            ("needs working kitchen", "needs work*", True),
            ("As-Is, no repairs", "as is", True), ("this was ist", "as is", False), ("x", "?!", False),
        ]:  # fmt: skip
            self.assertIs(hits(text, phrase), is_hit, (text, phrase))


class Areas(unittest.TestCase):
    def test_too_few_tell_nothing(self) -> None:
        few, enough = Median(Decimal(100), 4), Median(Decimal(110), 5)
        self.assertIsNone(growth(enough, few))
        self.assertEqual(growth(enough, Median(Decimal(100), 5)), 10)
        self.assertIsNone(PriceLevels({2015: few}, enough).trend(2015))
        self.assertEqual(PriceLevels({2015: Median(Decimal(55), 9)}, enough).trend(2015), 2)
        self.assertIsNone(months_of_supply(3, 4))
        self.assertEqual(months_of_supply(6, 24), 3)
        self.assertEqual(rental_yield(Median(Decimal(900), 6), Median(Decimal(108_000), 6)), 10)

    def test_percent_of_median_wants_five_others(self) -> None:
        asked = [Decimal(n) for n in (100, 120, 140, 160, 180)]
        self.assertIsNone(percent_of_median(Decimal(100), asked))
        self.assertEqual(percent_of_median(Decimal(70), [*asked, Decimal(70)]), 50)

    def test_lots(self) -> None:
        """75 ft at 25 ft are three lots; NIST Handbook 44, Appendix C, has 43,560 sq ft to the acre."""
        self.assertEqual(possible_lots(75, 120, 9_000), 3)
        self.assertEqual(possible_lots(74.9, 120, 9_000), 2)
        self.assertEqual(possible_lots(75, 60, 4_500), 1)
        self.assertIsNone(possible_lots(None, 120, 9_000))
        self.assertEqual(percent_of_usual(75, 50), 150)

    def test_disagreements_either_way(self) -> None:
        pairs = [("beds", 3, 4), ("baths", 2, 1), ("units", 2, 2), ("lot", None, 1), ("year", 1900, None)]
        self.assertEqual([(one.what, one.roll, one.listing) for one in disagreements(pairs)], [("beds", 3, 4), ("baths", 2, 1)])


class Leaving(unittest.TestCase):
    def test_the_last_change_to_its_status_tells(self) -> None:
        one = listing("A", date(2026, 1, 1), "Expired", expiration_date=date(2026, 9, 1))
        twice = [
            turned(date(2026, 3, 1), "Active", "Expired"),
            turned(date(2026, 4, 1), "Expired", "Active"),
            turned(date(2026, 6, 1), "Active", "Expired"),
        ]
        self.assertEqual(left_market_on(one, twice), date(2026, 6, 1))
        self.assertEqual(left_market_on(one, [twice[1]]), date(2026, 9, 1))
        self.assertEqual(left_market_on(one._replace(expiration_date=None), ()), date(2026, 1, 1))
        self.assertIsNone(left_market_on(one._replace(status="Active"), twice))

    def test_periods_within_one_another_count_once(self) -> None:
        whole = ActivePeriod(date(2026, 1, 1), date(2026, 1, 31))
        for other in (whole, ActivePeriod(date(2026, 1, 5), date(2026, 1, 20)), ActivePeriod(date(2026, 1, 5), date(2026, 1, 31))):
            self.assertEqual(days_on_market([whole, other]), days_on_market([whole]))
        self.assertEqual(days_on_market([whole, ActivePeriod(date(2026, 1, 5), None)]).since, date(2026, 1, 31))
