"""What a county's own column holds, and how its cells are read."""

from __future__ import annotations

import re
import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria import own_columns
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import money_text
from jaded_ledger.core.criteria.text import CriteriaError, format, parse
from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.core.market.listings import Offer, offer_of


class Cells(unittest.TestCase):
    def test_numbers(self) -> None:
        for cell, number in [("0", 0), ("12", 12), ("1,284.5", 1284.5), ("$250", 250), (".5", 0.5), ("1,284,500", 1284500)]:
            self.assertEqual(own_columns.number_held(cell), number, cell)
            self.assertRegex(cell, own_columns.NUMBER)
        # A code with leading zeros is no number, and neither are words.
        for cell in ("", "007", "1,28", "12 ac", "-3", "1.2.3", "east"):
            self.assertIsNone(own_columns.number_held(cell), cell)

    def test_days(self) -> None:
        for cell in ("2026-11-24", "11/24/2026"):
            self.assertEqual(own_columns.day_held(cell), date(2026, 11, 24))
            self.assertRegex(cell, own_columns.DAY)
        for cell in ("", "2026-02-30", "24.11.2026", "soon"):
            self.assertIsNone(own_columns.day_held(cell))

    def test_kinds(self) -> None:
        for held, kind in [
            ((True, False, 900), Kind.NUMBER), ((False, True, 2), Kind.DATE), ((False, False, own_columns.MOST_WORDS), Kind.CHOICE),
            ((False, False, own_columns.MOST_WORDS + 1), Kind.NAME),
        ]:  # fmt: skip
            numbers, days, different = held
            self.assertIs(own_columns.kind_held(all_numbers=numbers, all_days=days, different=different), kind)

    @given(st.text(max_size=80))
    def test_whatever_a_county_calls_it_it_can_be_asked_for(self, name: str) -> None:
        trait = own_columns.own_trait("Ames", "ames", name, "further__c1_x", Kind.NUMBER, [])
        before = CATALOGUE.look_up_in(lambda: {trait.key: trait})
        try:
            search = parse(f"{trait.key}: 3.., or unknown\n~ {trait.key}: ..5")
            self.assertEqual([line.trait for line in search.lines], [trait.key, trait.key])
            self.assertEqual(parse(format(search)), search)
        finally:
            CATALOGUE.look_up_in(before)


class AsTraits(unittest.TestCase):
    def setUp(self) -> None:
        traits = [
            own_columns.own_trait("Odell Marsh", "odell-marsh", "Tillable Ac", "further__c1_tillable_ac", Kind.NUMBER, []),
            own_columns.own_trait("Odell Marsh", "odell-marsh", "Access", "further__c1_access", Kind.CHOICE, ["easement", "Public Road"]),
            own_columns.own_trait("Odell Marsh", "odell-marsh", "Land Desc", "further__c1_land_desc", Kind.NAME, []),
        ]
        self.addCleanup(CATALOGUE.look_up_in, CATALOGUE.look_up_in(lambda: {trait.key: trait for trait in traits}))

    def test_they_stand_in_the_text_form(self) -> None:
        text = "\n".join([
            "odell-marsh/tillable-ac: 10..40, or unknown",
            "odell-marsh/access: public road; not easement", 'odell-marsh/land-desc: "SEC 7"',
        ])  # fmt: skip
        self.assertEqual(format(parse(text)), text)
        self.assertEqual(parse(format(parse(text))), parse(text))

    def test_what_is_wrong_with_one_is_said(self) -> None:
        for text, said in [
            ("odell-marsh/tillable: 3", "did you mean odell-marsh/tillable-ac?"),
            ("odell-marsh/access: publik road", "did you mean public road?"),
            ("odell-marsh/tillable-ac: many", "is not a figure"),
        ]:
            with self.assertRaisesRegex(CriteriaError, re.escape(said)):
                parse(text)


class Words(unittest.TestCase):
    def test_money(self) -> None:
        for amount, text in [("1284500", "$1,284,500"), ("1284500.00", "$1,284,500"), ("41.5", "$41.50"), ("0", "$0")]:
            self.assertEqual(money_text(Decimal(amount)), text)

    def test_kinds_of_offer(self) -> None:
        """RESO property types and conditions to what is offered, by whom (common practice)."""
        for what, conditions, office, offer in [
            ("Residential", "Standard", True, Offer.AGENCY),
            ("Residential", "", False, Offer.OWNER_FOR_SALE),
            ("Residential Lease", "", False, Offer.OWNER_FOR_RENT),
            ("Commercial Lease", "Standard", True, Offer.AGENCY_FOR_RENT),
            ("Residential", "Auction", True, Offer.AUCTION),
            ("", "", True, Offer.AGENCY),
        ]:
            self.assertIs(offer_of(what, conditions, has_office=office), offer)
