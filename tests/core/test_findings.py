"""What follows from one parcel's record, on the day itself and where the record does not tell. Common practice."""

from __future__ import annotations

import unittest
from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.distress import signals as s
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.core.facts.findings import all_of
from jaded_ledger.core.facts.record import Building, Exemption, Permit, Rental
from jaded_ledger.core.mail.addresses import Address, AddressKind
from jaded_ledger.core.market.areas import AreaFigures, Median, PriceLevels
from jaded_ledger.core.market.on_market import Change
from jaded_ledger.core.title.sales import DeedType
from tests.support.records import AWAY, EVERYWHERE, SITUS, case, described, listing, loan, of, roll, sale

TODAY = date(2026, 11, 24)
DAY = timedelta(days=1)


class Class(unittest.TestCase):
    """Of counties that write that a property is residential, and not of what kind; common practice."""

    def inferred(self, **on_roll) -> str | None:
        found = of(roll=roll(**({"property_class": None, "land_use": "1RES"} | on_roll)))
        code = found.property_class
        return None if code is None else CATALOGUE["class"].choice_by_code(code).key

    def test_code_and_dwellings_tell_it(self) -> None:
        kinds = {1: "single-family", 2: "duplex", 3: "triplex", 4: "fourplex", 5: "apartments", 40: "apartments", 0: None, None: None}
        for units, kind in kinds.items():
            self.assertEqual(self.inferred(units=units, improvement_value=Decimal(1)), kind, units)
        self.assertEqual(self.inferred(units=None, improvement_value=Decimal(0)), "residential-lot")
        self.assertIsNone(self.inferred(units=None, improvement_value=None))
        self.assertEqual(self.inferred(units=1, tenure="condominium"), "condominium")
        for land_use in ("201", "", "EXEMPT"):
            self.assertIsNone(self.inferred(units=2, land_use=land_use), land_use)
        self.assertEqual(self.inferred(units=2, property_class=1), "single-family", "as the roll has it")
        self.assertIsNone(of().property_class)

    def test_dwellings_recorded_one_by_one_tell_as_well(self) -> None:
        found = of(roll=roll(property_class=None, land_use="1RES"), dwellings=3)
        self.assertEqual(CATALOGUE["class"].choice_by_code(found.property_class).key, "triplex")


class Title(unittest.TestCase):
    def test_what_is_dated_after_today_is_left_out(self) -> None:
        found = of(transfers=[sale(TODAY + DAY), sale(TODAY)])
        self.assertEqual([one.sold_on for one in found.transfers], [TODAY])
        self.assertEqual(of().sold_on, [])
        self.assertIsNone(of().last_sale)

    def test_sales_of_ten_years_to_the_day(self) -> None:
        for day, count in ((date(2016, 11, 24), 1), (date(2016, 11, 23), 0)):
            self.assertEqual(len(of(transfers=[sale(day)]).recent_sales), count, day)

    def test_cash_is_unknown_without_a_sale_or_loans_on_file(self) -> None:
        sold = sale(date(2020, 5, 1))
        self.assertIs(of(transfers=[sold]).is_cash_purchase, True)
        self.assertIsNone(of().is_cash_purchase)
        self.assertIsNone(of({}, transfers=[sold]).is_cash_purchase)


class Owner(unittest.TestCase):
    def test_where_the_bill_goes(self) -> None:
        self.assertIs(of(roll=roll()).is_owner_occupied, True)
        self.assertIs(of(roll=roll(mailing=AWAY)).is_owner_occupied, False)
        self.assertIsNone(of().is_owner_occupied)

    def test_units_count_on_condominiums(self) -> None:
        at = {"situs": replace(SITUS, unit="APT 1"), "mailing": replace(SITUS, unit="APT 2")}
        for kind, is_occupied in ((6, False), (5, True), (7, True), (None, True)):
            self.assertIs(of(roll=roll(property_class=kind, **at)).is_owner_occupied, is_occupied, kind)

    def test_out_of_state_and_county(self) -> None:
        zips = {"zips": frozenset({"44001"})}
        far = Address(AddressKind.STREET, "1 ELM ST", city="ERIE", state="PA", zip5="44001")
        for mailing, state, county in (
            (SITUS, False, False), (AWAY, False, True), (far, True, True), (None, None, None),
            (Address(AddressKind.STREET, "1 ELM ST", zip5="44001"), None, False), (Address(AddressKind.STREET, "1 ELM ST"), None, None),
        ):  # fmt: skip
            found = of(roll=roll(mailing=mailing), county=zips)
            self.assertEqual((found.is_out_of_state, found.is_out_of_county), (state, county), mailing)
        self.assertIsNone(of(roll=roll()).is_out_of_county, "the county's ZIP Codes are not known")
        self.assertIsNone(of().is_out_of_state)
        self.assertIsNone(of().is_out_of_county)

    def test_exemptions_of_today(self) -> None:
        for since, until, holds in (
            (TODAY, None, True), (TODAY + DAY, None, False), (TODAY - DAY, TODAY, False), (TODAY - DAY, TODAY + DAY, True),
        ):  # fmt: skip
            found = of(exemptions=[Exemption(since, until, "senior")]).exemptions
            self.assertEqual(bool(found), holds, (since, until))


class House(unittest.TestCase):
    def test_what_no_building_says_is_unknown(self) -> None:
        def built(number: int, garage: int | None, pool: bool | None) -> Building:
            return Building(number, 1.0, garage, pool, None, "")

        for buildings, garage, pool in (
            ((), None, None), ((built(1, None, None),), None, None), ((built(1, 0, False),), 0, False),
            ((built(2, 2, True), built(1, 1, False), built(3, None, None)), 3, True),
        ):  # fmt: skip
            found = of(buildings=buildings)
            self.assertEqual((found.garage, found.has_pool), (garage, pool), buildings)
        self.assertEqual(of(buildings=[built(2, None, None), built(1, None, None)]).building.number, 1)

    def test_dwellings_by_the_roll_else_as_counted(self) -> None:
        for units, counted, dwellings in ((None, 0, None), (None, 3, 3), (0, 3, 0), (2, 3, 2)):
            self.assertEqual(of(roll=roll(units=units), dwellings=counted).dwellings, dwellings)
        self.assertEqual(of(dwellings=3).dwellings, 3)

    def test_the_last_permit(self) -> None:
        permits = [Permit(TODAY, "roof", None, 1), Permit(TODAY, "deck", None, 2), Permit(TODAY - DAY, "porch", None, 3)]
        self.assertEqual(of(permits=permits).last_permit.kind, "deck")
        self.assertIsNone(of().last_permit)


class Value(unittest.TestCase):
    def test_assessed_only_where_both_parts_are(self) -> None:
        for land, improvement, whole in ((30, 70, 100), (0, 70, 70), (None, 70, None), (30, None, None)):
            values = {"land_value": land, "improvement_value": improvement}
            self.assertEqual(of(roll=roll(**values)).assessed, whole)
        self.assertIsNone(of().assessed)

    def test_the_area_s_trend_before_the_county_s(self) -> None:
        def levels(now: int, count: int = 5) -> PriceLevels:
            return PriceLevels({2020: Median(Decimal(100), count)}, Median(Decimal(now), 5))

        sold = [sale(date(2020, 5, 1), 200_000)]
        for area, worth in ((levels(150), 300_000), (levels(150, 4), 240_000)):
            found = of(transfers=sold, area=AreaFigures(levels=area), county={"levels": levels(120)})
            self.assertEqual(found.estimate.value, worth)
        self.assertIsNone(of(transfers=sold).estimate)

    def test_what_is_owed(self) -> None:
        first = loan(date(2020, 5, 1), "purchase", 100_000, "0", 400)
        self.assertIs(of(loans=[first]).is_free_and_clear, False)
        self.assertEqual(of(loans=[first]).owed, 80_500)
        self.assertEqual((of().owed, of().is_free_and_clear), (0, True))
        self.assertEqual((of({}).owed, of({}).is_free_and_clear), (None, None))

    def test_a_lender_at_law_says_that_a_loan_is_missing(self) -> None:
        suit = case("tax", date(2024, 2, 1), serves_lender=True)
        missing = of(filed=s.Filed(cases=[suit]))
        self.assertEqual((missing.owed, missing.is_free_and_clear, missing.is_loan_missing), (None, None, True))
        # A suit before the present owner came is not about the owner's loan; on the day itself it is.
        for day, is_missing in ((date(2024, 2, 1), True), (date(2024, 2, 2), False)):
            self.assertIs(of(filed=s.Filed(cases=[suit]), transfers=[sale(day)]).is_loan_missing, is_missing, day)
        quiet = case("tax", date(2024, 2, 1))
        self.assertIs(of(filed=s.Filed(cases=[quiet])).is_loan_missing, False)

    def test_a_foreclosing_lender_until_the_property_is_lost(self) -> None:
        step = s.Step(date(2025, 3, 1), "lis-pendens", None, 7)
        for day, at_law in ((date(2025, 2, 28), [("foreclosure", 7)]), (date(2025, 3, 1), [])):
            lost = sale(day, deed=DeedType.SHERIFF)
            self.assertEqual(of(filed=s.Filed(steps=[step]), transfers=[lost]).lenders_at_law, at_law, day)
        sold = s.Step(date(2025, 5, 1), "sold", None, 8)
        self.assertEqual(of(filed=s.Filed(steps=[step, sold])).lenders_at_law, [])

    def test_what_is_not_known_of_liens_and_taxes(self) -> None:
        def lien(amount: int | None) -> s.Lien:
            return s.Lien(date(2025, 1, 1), "hoa", None if amount is None else Decimal(amount), str(amount))

        for liens, total in (([], 0), ([lien(5), lien(7)], 12), ([lien(5), lien(None)], None)):
            self.assertEqual(of(filed=s.Filed(liens=liens)).lien_total, total)
        self.assertIsNone(of({}).lien_total)

        def year(number: int, due: int | None) -> s.TaxYear:
            return s.TaxYear(number, None, None, None, None, None if due is None else Decimal(due))

        for years, due in (([], None), ([year(2025, 0)], 0), ([year(2024, 300), year(2025, 400)], 700), ([year(2025, None)], 0)):
            self.assertEqual(of(filed=s.Filed(tax_years=years)).tax_due, due, years)

    def test_equity_counts_taxes_only_where_bills_are_on_file(self) -> None:
        house = {"roll": roll(land_value=Decimal(40_000), improvement_value=Decimal(60_000))}
        self.assertIsNone(of(**house).equity, "bills are on file, and this parcel's is not")
        without = {kind: day for kind, day in EVERYWHERE.items() if kind != "tax-years"}
        self.assertEqual(of(without, **house).equity.amount, 100_000)

    def test_change_of_the_market_value(self) -> None:
        def year(number: int, worth: int | None) -> s.TaxYear:
            return s.TaxYear(number, None, None, None if worth is None else Decimal(worth), None, None)

        for before, now, change in ((100, 125, 25), (0, 125, None), (None, 125, None), (100, None, None), (125, 100, -20)):
            found = of(filed=s.Filed(tax_years=[year(2025, now), year(2022, before)]))
            self.assertEqual(found.market_value_change(3), change)
            self.assertIsNone(found.market_value_change(2))
        self.assertIsNone(of().market_value_change(1))


class Distress(unittest.TestCase):
    def test_an_inheritance_is_a_sign_for_five_years(self) -> None:
        for day, is_open in ((date(2021, 11, 24), False), (date(2021, 11, 25), True)):
            (sign,) = of(transfers=[sale(day, None, deed=DeedType.PERSONAL_REPRESENTATIVE)]).signals
            self.assertEqual((sign.kind, sign.on, sign.is_open), (SignalKind.INHERITED, day, is_open))
            self.assertEqual(sign.closed_on, None if is_open else TODAY)

    def test_120_days_on_the_market(self) -> None:
        for begun, signs in ((TODAY - 120 * DAY, [SignalKind.LONG_ON_MARKET]), (TODAY - 119 * DAY, [])):
            found = of(listings=[listing("A", begun)])
            self.assertEqual([one.kind for one in found.signals], signs, begun)
        (sign,) = of(listings=[listing("A", TODAY - 200 * DAY)]).signals
        self.assertEqual((sign.on, sign.is_open), (TODAY - 80 * DAY, True))

    def test_an_unsold_listing_until_a_sale(self) -> None:
        expired = listing("A", TODAY - 90 * DAY, "Expired", expiration_date=TODAY - 30 * DAY)
        for sold, is_open in ((None, True), (TODAY - 31 * DAY, True), (TODAY - 30 * DAY, False)):
            found = of(listings=[expired], transfers=[sale(sold)] if sold else [])
            self.assertEqual([(one.kind, one.is_open) for one in found.signals], [(SignalKind.UNSOLD_LISTING, is_open)], sold)

    def test_cuts_of_what_is_offered(self) -> None:
        cut = {"A": [Change(TODAY - 3 * DAY, "ListPrice", "310000", "300000", 4), Change(TODAY - DAY, "ListPrice", "300000", "280000", 5)]}
        (sign,) = of(listings=[listing("A", TODAY - 9 * DAY)], changes=cut).signals
        self.assertEqual((sign.kind, sign.on, sign.row), (SignalKind.PRICE_CUTS, TODAY - DAY, ("listing-event", 5)))
        gone = listing("A", TODAY - 9 * DAY, "Closed", close_date=TODAY)
        self.assertEqual(of(listings=[gone], changes=cut).signals, [])

    def test_the_newest_sign_is_one_of_today_or_before(self) -> None:
        ahead = s.Auction(TODAY + DAY, "tax", "scheduled", None, 3)
        vacant = [s.Episode(TODAY, None, 1)]
        found = of(filed=s.Filed(auctions=[ahead], vacancies=vacant))
        self.assertEqual(found.newest_signal.kind, SignalKind.VACANCY)
        self.assertEqual(found.next_auction, ahead)
        self.assertIsNone(of(filed=s.Filed(auctions=[ahead])).newest_signal)
        self.assertIsNone(of().next_auction)

    def test_a_tired_landlord(self) -> None:
        trouble = s.Filed(violations=[s.Episode(date(2026, 2, 1), None, 1)])
        usual = {"transfers": [sale(date(2016, 11, 24))], "roll": roll(mailing=AWAY), "filed": trouble}
        self.assertIs(of(**usual).is_tired_landlord, True)
        for more, is_tired in (
            ({"transfers": [sale(date(2016, 11, 25))]}, False), ({"transfers": []}, None), ({"roll": roll()}, False),
            ({"roll": roll(mailing=AWAY, property_class=9)}, False), ({"roll": roll(mailing=AWAY, property_class=8)}, True),
            ({"roll": roll(mailing=AWAY, property_class=None)}, None), ({"filed": s.Filed()}, False), ({"roll": None}, None),
        ):  # fmt: skip
            self.assertIs(of(**(usual | more)).is_tired_landlord, is_tired, more)
        for missing in ("cases", "violations", "listings"):
            through = {kind: day for kind, day in EVERYWHERE.items() if kind != missing}
            self.assertIsNone(of(through, **(usual | {"filed": s.Filed()})).is_tired_landlord, missing)
        for more in (
            {"filed": s.Filed(cases=[case("eviction", date(2012, 1, 1))])},
            {"filed": s.Filed(), "listings": [listing("A", date(2019, 1, 1), property_type="Residential Lease")]},
        ):
            self.assertIs(of(**(usual | more)).is_tired_landlord, True, more)

    def test_all_of(self) -> None:
        for answers, whole in (
            ((), True), ((True, True), True), ((True, None), None), ((None, False), False), ((False, True), False),
        ):  # fmt: skip
            self.assertIs(all_of(*answers), whole, answers)


class Offers(unittest.TestCase):
    def test_the_latest_offer_for_sale_or_to_let(self) -> None:
        on_sale, to_let = listing("A", TODAY - DAY, key=1), listing("B", TODAY, property_type="Residential Lease", key=2)
        self.assertEqual(of(listings=[on_sale, to_let]).latest_offer, to_let)
        self.assertEqual(of(listings=[on_sale, to_let._replace(on_market_date=TODAY - DAY, key=0)]).latest_offer, on_sale)
        self.assertIsNone(of().latest_offer)

    def test_baths_as_listed(self) -> None:
        for full, half, baths in ((2, 1, 2.5), (2, None, 2), (None, 1, 0.5), (None, None, None)):
            said = described(full_baths=full, half_baths=half)
            self.assertEqual(of(listings=[listing("A", TODAY, key=4)], described={4: said}).listed_baths, baths)
        self.assertIsNone(of(listings=[listing("A", TODAY, key=4)]).listed_baths)

    def test_compared_with_the_same_class_and_bedrooms(self) -> None:
        offered = {"listings": [listing("A", TODAY, key=4, list_price=Decimal(90))], "described": {4: described(beds=3)}}
        for on_roll, key in ((roll(beds=2), (1, 2)), (roll(), (1, 3)), (roll(beds=0), (1, 0)), (roll(property_class=None, beds=2), None)):
            self.assertEqual(of(roll=on_roll, **offered).asked_among, key)
        self.assertIsNone(of(**offered).asked_among)
        asked = {(1, 3): [Decimal(one) for one in (90, 80, 100, 100, 120, 130)]}
        found = of(roll=roll(), area=AreaFigures(asked=asked), **offered)
        self.assertEqual(found.by_area.percent_of_median, 90)
        pending = listing("A", TODAY, "Pending", key=4, list_price=Decimal(90))
        self.assertIsNone(of(roll=roll(), area=AreaFigures(asked=asked), **(offered | {"listings": [pending]})).by_area.percent_of_median)

    def test_gone_within_three_days(self) -> None:
        for days, signs in ((3, 1), (4, 0)):
            taken = listing("A", TODAY - 20 * DAY, "Pending", purchase_contract_date=TODAY - (20 - days) * DAY)
            self.assertEqual(len(of(listings=[taken]).competition), signs, days)
        self.assertEqual(of(listings=[listing("A", TODAY)]).competition, (), "still active")
        self.assertEqual(of().competition, ())

    def rent(self, *rentals: Rental, **record) -> Decimal | None:
        found = of(rentals=rentals, **record).rent
        return found and found[0]

    def test_the_rent_as_let_else_as_asked_else_the_area_s(self) -> None:
        def let(rent: int | None, until: date | None = None) -> Rental:
            return Rental(date(2025, 1, 1), until, None if rent is None else Decimal(rent))

        self.assertEqual([self.rent(let(900, until)) for until in (TODAY - DAY, TODAY, TODAY + DAY)], [None, None, 900])
        two = {"roll": roll(units=2)}
        for each, rent in (([let(900)], None), ([let(900), let(800)], 1700), ([let(900)] * 3, 2700)):
            self.assertEqual(self.rent(*each, **two), rent)
        self.assertIsNone(self.rent(let(900), let(None), **two))
        asked = listing("A", TODAY, property_type="Residential Lease", lease_amount=Decimal(1000))
        self.assertEqual(self.rent(listings=[asked]), 1000)
        self.assertEqual(self.rent(listings=[asked._replace(status="Closed")]), 1000)
        for status in ("Expired", "Withdrawn", "Canceled"):
            self.assertIsNone(self.rent(listings=[asked._replace(status=status)]), status)
        self.assertIsNone(self.rent(listings=[asked], **two))
        for count, rent in ((4, None), (5, 1400)):
            self.assertEqual(self.rent(area=AreaFigures(rent=Median(Decimal(700), count)), **two), rent)
        self.assertIsNone(self.rent(area=AreaFigures(rent=Median(Decimal(700), 5))), "how many dwellings is not known")

    def test_the_yield_at_the_asking_price(self) -> None:
        let = {"rentals": [Rental(date(2025, 1, 1), None, Decimal(1000))]}
        self.assertEqual(of(listings=[listing("A", TODAY, list_price=Decimal(120_000))], **let).by_area.asking_yield, 10)
        self.assertIsNone(of(listings=[listing("A", TODAY, list_price=Decimal(0))], **let).by_area.asking_yield)
        self.assertIsNone(of(listings=[listing("A", TODAY, list_price=Decimal(120_000))]).by_area.asking_yield)
        self.assertIsNone(of(**let).by_area.asking_yield)
