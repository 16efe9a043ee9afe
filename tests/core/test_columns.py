"""The searchable row of one parcel: what is known to be none, and what is unknown. Common practice."""

from __future__ import annotations

import unittest
from datetime import date
from decimal import Decimal

from jaded_ledger.core.criteria.catalogue.choices import ON_OFFER, SIGNALS
from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.facts.columns import Columns, derive_columns, rounded, whole_dollars
from jaded_ledger.core.facts.record import Building, Ground, Owned, Permit, Project
from tests.support.records import TODAY, described, listing, loan, of, roll, sale

NONE_KNOWN: dict[str, Columns] = {
    "projects": {"in_project": False, "amenities": []},
    "permits": {"has_permit": False},
    "exemptions": {"exemptions": []},
    "loans": {"loan_balance": 0, "open_loans": 0, "has_loan": False, "free_and_clear": True},
    "deeds": {"sales_10y": 0, "flips": 0, "was_flipped": False, "never_sold": True, "is_inherited": False},
    "foreclosures": {"foreclosure_stage": 0, "in_foreclosure": False},
    "auctions": {"has_auction": False, "auction_kind": 0},
    "liens": {"lien_total": 0},
    "listings": {"ever_listed": False, "on_offer": [], "offer": 0, "short_sale": False, "competition": [], "disagreement": []},
    "cases": {"tax_suit": 0, "evictions": 0},
}
"""What a parcel of which nothing is on record has, by the kind of record that is on file."""


def columns(through=(), **record) -> Columns:
    return derive_columns(of(dict.fromkeys(through, TODAY), **record))


class OnFile(unittest.TestCase):
    def test_where_nothing_is_on_file_nothing_is_known(self) -> None:
        known = {name: value for name, value in columns().items() if value not in (None, "", ())}
        self.assertEqual(known, {})

    def test_where_a_kind_is_on_file_no_row_is_none(self) -> None:
        nothing = columns()
        for kind, wanted in NONE_KNOWN.items():
            found = columns([kind])
            self.assertEqual({name: found[name] for name in wanted}, wanted, kind)
            self.assertTrue(all(nothing[name] is None for name in wanted), kind)

    def test_a_row_tells_whether_its_kind_is_on_file_or_not(self) -> None:
        for name, record in (
            ("in_project", {"project": Project("Lock Quarter", ())}), ("has_permit", {"permits": [Permit(TODAY, "roof", None)]}),
            ("has_loan", {"loans": [loan(date(2020, 1, 4))]}), ("is_vacant", {"filed": s.Filed(vacancies=[s.Episode(TODAY, None)])}),
        ):  # fmt: skip
            self.assertIs(columns(**record)[name], True, name)
        self.assertEqual(
            columns(project=Project("Lock Quarter", ("Pool",)))["amenities"],
            columns(["projects"], project=Project("", ("Pool",)))["amenities"],
        )

    def test_tax_is_known_of_what_was_billed(self) -> None:
        bill = s.Filed(tax_years=[s.TaxYear(2025, None, None, None, Decimal("2000.50"), Decimal("10.49"))])
        for through, record, known in ((["tax-years"], {}, None), ((), {"filed": bill}, None), (["tax-years"], {"filed": bill}, 1)):
            self.assertEqual(columns(through, **record)["tax_years_delinquent"], known)
        self.assertEqual([columns(["tax-years"], filed=bill)[name] for name in ("tax_due", "tax_bill")], [10, 2000])

    def test_a_loan_that_is_missing_leaves_the_count_unknown(self) -> None:
        suit = s.Case("tax", date(2024, 1, 1), "filed", None, None, "", True, 1)
        found = columns(["loans"], filed=s.Filed(cases=[suit]))
        self.assertEqual([found[name] for name in ("open_loans", "loan_balance", "free_and_clear", "has_loan")], [None, None, None, False])


class Figures(unittest.TestCase):
    def test_dollars_are_whole_and_fit_their_column(self) -> None:
        for amount, dollars in (
            (None, None),
            (0, 0),
            ("10.5", 10),
            ("11.5", 12),
            (3_000_000_000, 2_147_483_647),
            (-3_000_000_000, -2_147_483_647),
        ):
            self.assertEqual(whole_dollars(None if amount is None else Decimal(amount)), dollars)
        self.assertEqual([rounded(None), rounded(0), rounded(Decimal("1.005")), rounded(2.345, 1)], [None, 0, 1.0, 2.3])

    def test_a_side_of_the_street(self) -> None:
        for number, side in ((None, None), (1, 1), (2, 2), (0, 2), (117, 1)):
            self.assertEqual(columns(roll=roll(house_number=number))["house_side"], side, number)

    def test_an_area_is_the_neighborhood_else_the_municipality(self) -> None:
        for neighborhood, municipality, area in ((7, 3, 7), (None, 3, 3), (None, None, None)):
            self.assertEqual(columns(roll=roll(neighborhood_id=neighborhood, municipality_id=municipality))["area_id"], area)

    def test_the_roll_goes_before_the_listing(self) -> None:
        said = {"listings": [listing("A", TODAY, key=4)], "described": {4: described(association_fee=Decimal(90), waterfront=True)}}
        for fee, front, shown in ((None, None, (90, True)), (Decimal(0), False, (0, False))):
            found = columns(roll=roll(hoa_fee=fee, waterfront=front), **said)
            self.assertEqual((found["hoa_fee"], found["waterfront"]), shown)
        self.assertEqual([columns(**said)[name] for name in ("hoa_fee", "waterfront")], [90, True])

    def test_raw_land_is_without_improvements(self) -> None:
        for improvements, is_raw in ((None, None), (Decimal(0), True), (Decimal(1), False)):
            self.assertIs(columns(roll=roll(improvement_value=improvements))["raw_land"], is_raw)
        self.assertIsNone(columns()["raw_land"])

    def test_value_by_the_square_foot(self) -> None:
        worth = {"land_value": Decimal(40_000), "improvement_value": Decimal(50_000), "living_area": 1_200}
        self.assertEqual(columns(roll=roll(**worth))["value_sqft"], 75)

    def test_miles_have_one_place(self) -> None:
        self.assertEqual(columns(roll=roll(), ground=Ground(None, None, 12.26))["mailing_distance"], 12.3)

    def test_the_last_transfer_is_not_the_first(self) -> None:
        found = columns(["deeds"], transfers=[sale(date(2010, 1, 4), 50_000), sale(date(2020, 1, 4), None), sale(date(2015, 1, 4), 60_000)])
        self.assertEqual((found["last_transfer"], found["last_sale"]), (date(2020, 1, 4), date(2015, 1, 4)))

    def test_each_sign_that_ever_was_with_its_day(self) -> None:
        found = columns(["vacancies"], filed=s.Filed(vacancies=[s.Episode(date(2020, 1, 4), date(2020, 6, 1))]))
        vacant = [one.code for one in SIGNALS if one.key == SignalKind.VACANCY]
        self.assertEqual((found["signs_ever"], found["signs_ever_days"]), (vacant, [date(2020, 1, 4)]))

    def test_acres(self) -> None:
        # An acre is 43,560 square feet (NIST Handbook 44, appendix C; from memory).
        for square_feet, acres in ((None, None), (0, 0), (43_560, 1), (21_780, 0.5), (10_000, 0.23)):
            self.assertEqual(columns(roll=roll(lot_sqft=square_feet))["lot_acres"], acres)

    def test_prices_by_the_square_foot_need_both(self) -> None:
        for price, area, by_foot in ((200_000, 1_000, 200), (200_000, None, None), (200_000, 0, None), (None, 1_000, None)):
            found = columns(roll=roll(living_area=area), transfers=[sale(date(2020, 1, 1), price)])
            self.assertEqual(found["sale_sqft"], by_foot)

    def test_flood_zones(self) -> None:
        for zones, text, inside in ((None, "", None), ((), "", False), (("A", "AE"), "A, AE", True)):
            found = columns(ground=Ground(flood_zones=zones))
            self.assertEqual((found["flood_zone"], found["in_flood_zone"]), (text, inside))

    def test_an_owner_s_parcels_are_those_of_a_known_owner(self) -> None:
        for owner, count in ((None, None), (5, 3)):
            self.assertEqual(columns(roll=roll(owner_id=owner), owned=Owned(parcels=3))["parcels_owned"], count)

    def test_a_building_s_half_stories(self) -> None:
        found = columns(buildings=[Building(1, 1.5, 2, None, 3, "fair")])
        self.assertEqual([found[name] for name in ("stories", "garage", "pool", "main_floor_beds", "condition")], [1.5, 2, None, 3, "fair"])


class Listed(unittest.TestCase):
    def test_a_cut_is_in_percent_of_the_first_price(self) -> None:
        for asked, first, cut in ((90, 100, 10), (100, 100, 0), (110, 100, -10), (None, 100, None), (90, None, None), (90, 0, None)):
            prices = {"list_price": asked, "original_list_price": first}
            one = listing("A", TODAY, **{name: price if price is None else Decimal(price) for name, price in prices.items()})
            self.assertEqual(columns(listings=[one])["price_cut"], cut, prices)

    def test_sale_to_list_is_of_what_was_sold(self) -> None:
        prices = {"list_price": Decimal(200), "close_price": Decimal(190)}
        for status, share in (("Closed", 95), ("Pending", None), ("Expired", None)):
            self.assertEqual(columns(listings=[listing("A", TODAY, status, **prices)])["sale_to_list"], share)

    def test_what_is_on_offer_now(self) -> None:
        """On the market is Active and Coming Soon (RESO Data Dictionary 2.0, StandardStatus), and nothing else."""
        ways = {choice.key: choice.code for choice in ON_OFFER}
        for status, asked, rental in (
            ("Active", "for-sale", "for-rent"), ("Coming Soon", "for-sale", "for-rent"), ("Pending", "sale-pending", "rental-pending"),
            ("Active Under Contract", "sale-pending", "rental-pending"), ("Hold", "sale-on-hold", "rental-on-hold"),
            *((one, "", "") for one in ("Expired", "Withdrawn", "Canceled", "Closed", "Delete", "Incomplete")),
        ):  # fmt: skip
            for kind, way in (("Residential", asked), ("Residential Lease", rental)):
                found = columns(["listings"], listings=[listing("A", TODAY, status, property_type=kind)])["on_offer"]
                self.assertEqual(found, [ways[way]] if way else [], (status, kind))
        both = [listing("A", TODAY), listing("B", TODAY, property_type="Residential Lease")]
        self.assertEqual(columns(["listings"], listings=both)["on_offer"], [ways["for-sale"], ways["for-rent"]])

    def test_the_listing_s_area_goes_before_the_roll_s(self) -> None:
        one = listing("A", TODAY, key=4, list_price=Decimal(200_000))
        for said, on_roll, by_foot in ((1_000, 2_000, 200), (None, 2_000, 100), (0, 2_000, 100), (None, None, None)):
            found = columns(roll=roll(living_area=on_roll), listings=[one], described={4: described(living_area=said)})
            self.assertEqual(found["list_sqft"], by_foot)

    def test_relistings_are_those_after_the_first(self) -> None:
        first = listing("A", date(2026, 1, 1), "Expired", expiration_date=date(2026, 3, 1))
        for again, count in (([], 0), ([listing("B", date(2026, 3, 30))], 1), ([listing("B", date(2026, 3, 31))], 0)):
            self.assertEqual(columns(listings=[first, *again])["relistings"], count)

    def test_what_was_never_listed_has_the_same_columns(self) -> None:
        self.assertEqual(columns().keys(), columns(listings=[listing("A", TODAY)]).keys())
