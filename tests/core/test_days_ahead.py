"""The day on which a parcel's facts change by themselves: one day before it nothing has, on it something has. Common practice."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal

from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.facts.columns import derive_columns
from jaded_ledger.core.facts.days_ahead import changes_on
from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.core.facts.record import Exemption, RecordedParcel, Rental
from jaded_ledger.core.market.on_market import Change
from jaded_ledger.core.title.sales import DeedType
from tests.support.records import AWAY, DAY, TODAY, listing, loan, of, roll, sale

AUCTION = s.Auction(date(2026, 12, 5), "tax", "scheduled", None, 1)


class DaysAhead(unittest.TestCase):
    def assert_changes(self, day: date | None, **record) -> None:
        """Hold the day said against the columns as of the days about it."""
        found = of(**record)
        self.assertEqual(changes_on(found), day, record)
        if day:
            before, after = (derive_columns(Findings(found.record, on)) for on in (day - DAY, day))
            self.assertNotEqual(before, after, record)
            self.assertEqual(derive_columns(found), before, "nothing changes earlier")

    def test_nothing_ahead(self) -> None:
        self.assert_changes(None)
        self.assert_changes(None, loans=[loan(date(1980, 1, 4))])
        self.assert_changes(None, exemptions=[Exemption(date(2001, 1, 1), None, "senior"), Exemption(date(2001, 1, 1), TODAY, "senior")])

    def test_the_next_payment_or_the_last(self) -> None:
        self.assert_changes(date(2026, 12, 4), loans=[loan(date(2020, 1, 4))])
        self.assert_changes(date(2026, 12, 24), loans=[loan(date(2020, 1, 24))])
        self.assert_changes(date(2026, 11, 30), loans=[loan(date(2020, 1, 31))])

    def test_an_auction_s_day_and_the_day_after(self) -> None:
        found = of(filed=s.Filed(auctions=[AUCTION]))
        self.assertEqual(changes_on(found), AUCTION.held_on)
        self.assertEqual(changes_on(Findings(found.record, AUCTION.held_on)), AUCTION.held_on + DAY)
        self.assertIsNone(changes_on(Findings(found.record, AUCTION.held_on + DAY)))

    def test_a_sale_is_counted_ten_years(self) -> None:
        self.assert_changes(date(2026, 11, 26), transfers=[sale(date(1999, 1, 1)), sale(date(2016, 11, 25)), sale(date(2018, 1, 1))])

    def test_a_transfer_yet_to_come(self) -> None:
        self.assert_changes(date(2026, 11, 25), transfers=[sale(date(2026, 11, 25))])

    def test_an_inheritance_of_five_years(self) -> None:
        self.assert_changes(date(2026, 12, 1), transfers=[sale(date(2021, 12, 1), None, deed=DeedType.PERSONAL_REPRESENTATIVE)])

    def test_an_owner_of_ten_years(self) -> None:
        held = sale(date(2016, 12, 1), None, deed=DeedType.QUITCLAIM)
        trouble = s.Filed(violations=[s.Episode(date(2020, 1, 1), None, 1)])
        self.assert_changes(date(2026, 12, 1), transfers=[held], roll=roll(mailing=AWAY), filed=trouble)

    def test_what_begins_and_ends(self) -> None:
        self.assert_changes(date(2026, 12, 1), exemptions=[Exemption(date(2026, 12, 1), None, "senior")], **self.exempt())
        self.assert_changes(date(2026, 12, 1), exemptions=[Exemption(date(2001, 1, 1), date(2026, 12, 1), "senior")], **self.exempt())
        let = {"rentals": [Rental(date(2020, 1, 1), date(2026, 12, 1), None)]}
        self.assertEqual(changes_on(of(**let)), date(2026, 12, 1))

    def exempt(self) -> dict[str, object]:
        return {"through": {"exemptions": TODAY}}

    def test_a_new_year_alone_makes_no_tax_late(self) -> None:
        self.assert_changes(None, filed=s.Filed(tax_years=[s.TaxYear(2026, None, None, None, None, Decimal(9), 1)]))

    def test_an_active_listing_stops_counting_days_at_its_expiry(self) -> None:
        self.assert_changes(date(2026, 12, 2), listings=[listing("A", date(2026, 11, 1), expiration_date=date(2026, 12, 1))])

    def test_120_days_on_the_market(self) -> None:
        self.assert_changes(date(2026, 11, 29), listings=[listing("A", date(2026, 8, 1))])
        self.assert_changes(None, listings=[listing("A", date(2026, 8, 1), "Expired", expiration_date=date(2026, 9, 1))])
        under_contract = {"A": [Change(date(2026, 9, 1), "StandardStatus", "Active", "Pending")]}
        self.assert_changes(None, listings=[listing("A", date(2026, 8, 1), "Pending")], changes=under_contract)

    def test_the_nearest_of_all(self) -> None:
        found = of(filed=s.Filed(auctions=[AUCTION]), loans=[loan(date(2020, 1, 4))])
        self.assertEqual(changes_on(found), date(2026, 12, 4))
        later: RecordedParcel = replace(found.record, loans=[loan(date(2020, 1, 6))])
        self.assertEqual(changes_on(Findings(later, TODAY)), AUCTION.held_on)
