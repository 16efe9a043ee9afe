"""The demo world by independent queries: each household and property is one story, and only so much of it is dirty."""

from __future__ import annotations

from django.db import connection

from jaded_ledger.demo.world import PARCELS, counties
from jaded_ledger.intake.models import Refusal
from jaded_ledger.records.models import Area, County, FillRate, Listing, Parcel, ParcelFacts, RollEntry, Transfer
from jaded_ledger.records.own_columns import traits_of
from tests.support.demo import DemoTestCase


def ask(statement: str) -> list[tuple]:
    with connection.cursor() as cursor:
        cursor.execute(statement)
        return cursor.fetchall()


class Size(DemoTestCase):
    def test_three_counties(self) -> None:
        for county in counties():
            with self.subTest(county.name):
                self.assertEqual(Parcel.objects.filter(county__name=county.name).count(), county.share)
                self.assertEqual(ParcelFacts.objects.filter(county__name=county.name).count(), county.share)
        self.assertEqual(ParcelFacts.objects.count(), PARCELS)
        for model, about in ((Listing, 900), (Transfer, 14_000)):
            self.assertTrue(0.8 < model.objects.filter(superseded_at=None).count() / about < 1.25, model)

    def test_what_each_county_never_says(self) -> None:
        """Pike Hollow never says what kind of residence, but for code and units; Odell Marsh measures in acres and knows few sales."""
        fills = {(fill.county.name, fill.trait): fill.share / 100 for fill in FillRate.objects.select_related("county")}
        self.assertGreater(fills["Pike Hollow", "class"], 0.95)
        self.assertGreater(fills["Tamarack", "class"], 0.95)
        self.assertLess(fills["Odell Marsh", "last-sale"], 0.5)
        entries = RollEntry.objects.filter(superseded_at=None, county__name="Pike Hollow", property_class=None)
        self.assertEqual(set(entries.values_list("land_use", flat=True)), {"1RES"})

    def test_about_three_in_a_hundred_rows_are_dirty(self) -> None:
        roll = RollEntry.objects.filter(superseded_at=None)
        dirty = {
            "a lot of 0": roll.filter(lot_sqft=None, parcel__parent=None).count(),
            "no ZIP": roll.filter(mailing_address__zip5="").count(),
            "no mailing address": roll.filter(mailing_address=None).count(),
            "two spellings": roll.filter(owner_name__text__contains=" AND ").count(),
            "doubtful": Refusal.objects.count(),
        }  # fmt: skip
        self.assertTrue(0.02 < sum(dirty.values()) / PARCELS < 0.04, dirty)
        self.assertTrue(all(dirty.values()), dirty)
        # A sale in the future can't be so; no row is refused.
        self.assertEqual(set(Refusal.objects.values_list("column", "is_doubtful")), {("sold_on", True)})

    def test_there_is_something_of_everything(self) -> None:
        for column, words in [("owner_kind", 8), ("acquired", 4), ("foreclosure_stage", 4), ("status", 5), ("offer", 5), ("owner_role", 5)]:
            self.assertGreaterEqual(len(set(ParcelFacts.objects.values_list(column, flat=True)) - {None}), words, column)


class Ground(DemoTestCase):
    def test_lots_are_valid_do_not_overlap_and_lie_in_their_county(self) -> None:
        self.assertEqual(ask("SELECT count(*) FROM records_parcelshape WHERE NOT ST_IsValid(outline)"), [(0,)])
        self.assertEqual(ask("SELECT count(*) FROM records_mapfeature WHERE NOT ST_IsValid(geometry)"), [(0,)])
        # More than a square meter in common; the units of a condominium stand on their parent's ground.
        overlapping = """
            SELECT p.number, q.number FROM records_parcelshape a JOIN records_parcelshape b ON a.outline && b.outline
                AND a.parcel_id < b.parcel_id
              JOIN records_parcel p ON p.id = a.parcel_id JOIN records_parcel q ON q.id = b.parcel_id
             WHERE p.parent_id IS NULL AND q.parent_id IS NULL AND ST_Area(ST_Intersection(a.outline, b.outline)::geography) > 1"""
        self.assertEqual(ask(overlapping), [])
        outside = """
            SELECT c.name, p.number FROM records_parcelshape s JOIN records_parcel p ON p.id = s.parcel_id JOIN records_county c
                ON c.id = p.county_id
             WHERE NOT EXISTS (SELECT 1 FROM records_areaentry e WHERE e.kind = 'county' AND e.county_id = c.id
                               AND ST_Area(ST_Difference(s.outline, e.geometry)::geography) < 1)"""
        self.assertEqual(ask(outside), [])

    def test_the_roll_and_the_map_agree(self) -> None:
        """A lot's square feet against its outline's; the neighborhood on the roll against the one its point lies in."""
        off = """
            SELECT p.number, r.lot_sqft, ST_Area(s.outline::geography) / 0.09290304 FROM records_rollentry r
              JOIN records_parcel p ON p.id = r.parcel_id JOIN records_parcelshape s ON s.parcel_id = p.id
             WHERE r.superseded_at IS NULL AND p.parent_id IS NULL AND r.lot_sqft IS NOT NULL
               AND abs(ST_Area(s.outline::geography) / 0.09290304 / r.lot_sqft - 1) > 0.03"""
        self.assertEqual(ask(off), [])
        elsewhere = """
            SELECT p.number FROM records_rollentry r JOIN records_parcel p ON p.id = r.parcel_id JOIN records_parcelshape s
                ON s.parcel_id = p.id
              JOIN records_areaentry e ON e.area_id = r.neighborhood_id
             WHERE r.superseded_at IS NULL AND NOT ST_Covers(e.geometry, s.place::geometry)"""
        self.assertEqual(ask(elsewhere), [])

    def test_no_house_stands_in_the_water(self) -> None:
        wet = """SELECT p.number FROM records_mapfeature w JOIN records_parcelshape s ON ST_Intersects(w.geometry, s.place::geometry)
                   JOIN records_parcel p ON p.id = s.parcel_id WHERE w.layer = 'water'"""
        self.assertEqual(ask(wet), [])


class Stories(DemoTestCase):
    def none(self, statement: str) -> None:
        found = ask(statement)
        self.assertEqual(found, [], f"{len(found)} rows")

    def test_chains_of_title_have_no_gap(self) -> None:
        """Whoever sells is whoever bought before; but for the deed that fulfills a land contract, which names its parties again."""
        gaps = ask("""
            WITH chain AS (
                SELECT c.parcel_id, g.text AS grantor, e.text AS grantee,
                       lag(e.text) OVER (PARTITION BY c.parcel_id ORDER BY t.recorded_on, t.id) AS before
                  FROM records_transfer t JOIN records_transferparcel c ON c.transfer_id = t.id
                  JOIN records_recordedname g ON g.id = t.grantor_id JOIN records_recordedname e ON e.id = t.grantee_id
                 WHERE t.superseded_at IS NULL)
            SELECT count(*) FILTER (WHERE grantor <> before AND grantee <> before), count(before) FROM chain""")
        self.assertEqual(gaps[0][0], 0)
        self.assertGreater(gaps[0][1], 1500)

    def test_the_owner_on_the_roll_is_the_last_grantee(self) -> None:
        """But for other spellings, those who died, and deeds that are missing."""
        ((differ, all_owners),) = ask("""
            WITH latest AS (
                SELECT DISTINCT ON (c.parcel_id) c.parcel_id, t.grantee_id FROM records_transfer t
                  JOIN records_transferparcel c ON c.transfer_id = t.id WHERE t.superseded_at IS NULL
                      ORDER BY c.parcel_id, t.recorded_on DESC, t.id DESC)
            SELECT count(*) FILTER (WHERE r.owner_name_id <> latest.grantee_id), count(*) FROM latest
              JOIN records_rollentry r ON r.parcel_id = latest.parcel_id AND r.superseded_at IS NULL""")
        self.assertLess(differ / all_owners, 0.015)

    def test_loans(self) -> None:
        """No release or assignment before its loan, or of none; none lent to somebody who did not own the property then.

        But for those whose deed is missing from the recorder's file: the property says so.
        """
        self.none("""SELECT e.id FROM records_loanevent e LEFT JOIN records_loan l ON l.county_id = e.county_id
            AND l.document_number = e.loan_number
                      WHERE l.id IS NULL OR e.recorded_on < l.recorded_on""")
        self.none("""SELECT e.id FROM records_lienrelease e LEFT JOIN records_lien l ON l.county_id = e.county_id
            AND l.document_number = e.lien_number
                      WHERE l.id IS NULL OR e.recorded_on < l.recorded_on""")
        self.none("""
            SELECT l.id FROM records_loan l JOIN records_loanparcel c ON c.loan_id = l.id
              JOIN LATERAL (SELECT t.grantee_id FROM records_transfer t JOIN records_transferparcel d ON d.transfer_id = t.id
                             WHERE d.parcel_id = c.parcel_id AND t.recorded_on <= l.recorded_on AND t.superseded_at IS NULL
                             ORDER BY t.recorded_on DESC, t.id DESC LIMIT 1) owner ON true
             WHERE owner.grantee_id <> l.borrower_id
               AND NOT EXISTS (SELECT 1 FROM records_parcelfacts f WHERE f.parcel_id = c.parcel_id AND f.owner_not_on_deed)""")
        ((forgotten, refinanced),) = ask("""
            SELECT count(*) FILTER (WHERE NOT EXISTS (SELECT 1 FROM records_loanevent e WHERE e.kind = 'release'
                AND e.county_id = l.county_id
                                                      AND e.loan_number = l.document_number)), count(*)
              FROM records_loan l WHERE l.kind = 'purchase' AND l.recorded_on < '2005-01-01'""")
        self.assertTrue(0.02 < forgotten / refinanced < 0.6, (forgotten, refinanced))

    def test_no_tax_suit_without_unpaid_tax(self) -> None:
        self.none("""
            SELECT c.case_number FROM records_courtcase c JOIN records_caseparcel p ON p.case_id = c.id
             WHERE c.kind = 'tax' AND c.status <> 'disposed' AND c.superseded_at IS NULL
               AND (SELECT count(*) FROM records_taxyear y WHERE y.parcel_id = p.parcel_id AND y.due > 0
                    AND y.year + 2 <= extract(year FROM c.filed_on)) = 0""")
        self.none("""
            SELECT c.case_number FROM records_courtcase c JOIN records_caseparcel p ON p.case_id = c.id
             WHERE c.kind = 'tax' AND c.status = 'disposed'
               AND NOT EXISTS (SELECT 1 FROM records_taxyear y WHERE y.parcel_id = p.parcel_id AND y.paid > y.billed)""")
        # What is unpaid runs up to the last bill.
        self.none("""SELECT a.id FROM records_taxyear a JOIN records_taxyear b ON b.parcel_id = a.parcel_id AND b.year = a.year + 1
                      WHERE a.due > 0 AND b.due = 0""")

    def test_a_foreclosure_has_a_loan_and_its_steps_follow_each_other(self) -> None:
        self.none("""
            SELECT f.id FROM records_foreclosurestep f WHERE NOT EXISTS (
                SELECT 1 FROM records_loan l JOIN records_loanparcel p ON p.loan_id = l.id
                 WHERE p.parcel_id = f.parcel_id AND l.recorded_on <= f.taken_on)""")
        self.none("""
            SELECT a.id FROM records_foreclosurestep a JOIN records_foreclosurestep b ON b.parcel_id = a.parcel_id
             WHERE a.step = 'notice-of-default' AND b.step <> 'notice-of-default' AND b.taken_on < a.taken_on""")

    def test_listings(self) -> None:
        """A relisting follows the end of the one before; what closed was sold on record; cuts cut; prices add up."""
        self.none("""
            SELECT a.listing_id FROM records_listing a JOIN records_listing b ON b.parcel_id = a.parcel_id AND b.listing_id <> a.listing_id
             WHERE a.standard_status = 'Expired' AND a.property_type <> 'Residential Lease' AND b.property_type <> 'Residential Lease'
               AND b.on_market_date > a.on_market_date
               AND b.on_market_date <= (SELECT max(e.modification_timestamp) FROM records_listingevent e
                   WHERE e.resource_record_id = a.listing_id)""")
        self.none("""
            SELECT l.listing_id FROM records_listing l WHERE l.standard_status = 'Closed' AND l.close_price IS NOT NULL
                AND l.parcel_id IS NOT NULL
               AND NOT EXISTS (SELECT 1 FROM records_transfer t JOIN records_transferparcel p ON p.transfer_id = t.id
                                WHERE p.parcel_id = l.parcel_id AND t.price = l.close_price)
               AND NOT EXISTS (SELECT 1 FROM records_parcelfacts f WHERE f.parcel_id = l.parcel_id AND f.owner_not_on_deed)""")
        self.none(
            """SELECT id FROM records_listingevent WHERE field_name = 'ListPrice' AND new_value::numeric >= previous_value::numeric"""
        )
        self.none(
            """SELECT e.id FROM records_listingevent e LEFT JOIN records_listing l ON l.listing_id = e.resource_record_id
                WHERE l.id IS NULL"""
        )
        ((relisted, over_asking, by_owner, to_let, auction),) = ask("""
            SELECT count(*) FILTER (WHERE EXISTS (SELECT 1 FROM records_listing b WHERE b.parcel_id = a.parcel_id
                AND b.on_market_date > a.on_market_date)
                                    AND standard_status = 'Expired'),
                   count(*) FILTER (WHERE close_price > list_price), count(*) FILTER (WHERE list_office_name = ''),
                   count(*) FILTER (WHERE property_type = 'Residential Lease'),
                   count(*) FILTER (WHERE special_listing_conditions = 'Auction')
              FROM records_listing a""")
        self.assertTrue(min(relisted, over_asking, by_owner, to_let, auction) > 2, (relisted, over_asking, by_owner, to_let, auction))

    def test_work_and_trouble_have_a_cause(self) -> None:
        """A mechanic's lien follows a permit of the same builder; a company's resale within a year has a permit between."""
        self.none("""
            SELECT l.id FROM records_lien l JOIN records_lienparcel p ON p.lien_id = l.id WHERE l.kind = 'mechanics' AND NOT EXISTS (
                SELECT 1 FROM records_permit b WHERE b.parcel_id = p.parcel_id AND b.contractor_id = l.claimant_id
                    AND b.issued_on < l.recorded_on)""")
        self.none("""
            SELECT c.case_number FROM records_courtcase c JOIN records_caseparcel p ON p.case_id = c.id
             WHERE c.kind = 'eviction' AND NOT EXISTS (SELECT 1 FROM records_rental r WHERE r.parcel_id = p.parcel_id)""")
        self.none("""
            SELECT c.case_number FROM records_courtcase c WHERE c.kind = 'probate' AND NOT EXISTS (
                SELECT 1 FROM records_caseparty p WHERE p.case_number = c.case_number AND p.county_id = c.county_id
                    AND p.part = 'decedent')""")
        ((flips,),) = ask("""
            SELECT count(*) FROM records_transfer a JOIN records_transferparcel p ON p.transfer_id = a.id
              JOIN records_transferparcel q ON q.parcel_id = p.parcel_id JOIN records_transfer b ON b.id = q.transfer_id
             WHERE b.grantor_id = a.grantee_id AND b.sold_on - a.sold_on BETWEEN 1 AND 365 AND b.price > a.price * 1.15
               AND EXISTS (SELECT 1 FROM records_permit x WHERE x.parcel_id = p.parcel_id AND x.issued_on BETWEEN a.sold_on
                   AND b.sold_on)""")
        self.assertGreater(flips, 15)

    def test_two_sources_that_disagree_are_both_kept(self) -> None:
        ((differ, same),) = ask("""
            SELECT count(*) FILTER (WHERE l.bedrooms_total <> r.beds), count(*) FILTER (WHERE l.bedrooms_total = r.beds)
                FROM records_listing l
              JOIN records_rollentry r ON r.parcel_id = l.parcel_id AND r.superseded_at IS NULL""")
        self.assertTrue(10 < differ < same, (differ, same))


class Catalogue(DemoTestCase):
    """A county's own columns are traits of that county."""

    def test_own_columns_by_what_they_hold(self) -> None:
        kinds = {trait.key: trait.kind.value for trait in traits_of(County.objects.all()) if trait.is_own}
        self.assertEqual(
            kinds,
            {
                "odell-marsh/access": "choice", "odell-marsh/land-desc": "name", "odell-marsh/mfl-expires": "date",
                "odell-marsh/tillable-ac": "number", "pike-hollow/occ-code": "choice", "tamarack/harbour-dist": "choice",
            },
        )  # fmt: skip
        self.assertTrue(Area.objects.filter(kind="neighborhood").exists())
