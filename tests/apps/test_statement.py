"""The statement's lines: what each kind of document reads like, worked by hand from rows made for the purpose."""

from __future__ import annotations

import tempfile
from datetime import date
from decimal import Decimal
from pathlib import Path

import numpy_financial

from jaded_ledger.core.facts.findings import Findings
from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.properties.identity import nearby
from jaded_ledger.properties.outline_drawing import HEIGHT, WIDTH, draw_outline
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.properties.statement import About, StatementLine, recorded_lines, statement
from jaded_ledger.records.models import County, Parcel, ParcelShape
from jaded_ledger.records.reading import record_of
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

DAY = date(2026, 11, 22)
PARCEL = "99-001-001"
FILES = {
    "deeds": "document_number,recorded_on,sold_on,deed,price,grantor,grantee\n"
    "D1,2001-05-03,2001-05-01,warranty,61000,KELM ARVID,OSTROM HELEN\n"
    "D2,2010-02-02,2010-02-01,quitclaim,,OSTROM HELEN,OSTROM LIVING TRUST\n",
    "loans": "document_number,recorded_on,kind,amount,rate,rate_kind,term_months,lender\n"
    "L1,2001-05-03,purchase,54900.00,8.125,fixed,360,LAKEPORT BANK\n"
    "L2,2005-06-07,credit-line,20000,,,,TIDEWATER CREDIT UNION\n",
    "loan-events": "document_number,recorded_on,kind,loan_number,by,to\nE1,2003-08-09,assignment,L1,LAKEPORT BANK,FIRST BEACON BANK\n"
    "E2,2009-01-02,release,L1,FIRST BEACON BANK,\n",
    "liens": "document_number,recorded_on,kind,amount,claimant\nN1,2012-03-04,hoa,1250.50,HARBOUR ASSOCIATION\n",
    "lien-releases": "document_number,recorded_on,lien_number,amount\nN2,2013-03-04,N1,1250.50\n",
    "tax-years": "year,billed,paid,due\n2023,2871,0,3034.12\n2024,2900,2900,0\n",
    "exemptions": "kind,since,until\nHomestead,2002-01-01,2011-01-01\n",
    "cases": "case_number,kind,filed_on,status,status_on,amount,court\n25TX1,tax,2025-02-14,judgment,2025-09-01,,Circuit Court\n",
    "foreclosures": "step,taken_on,case_number,lender,amount\nlis-pendens,2008-04-04,08FC1,FIRST BEACON BANK,52000\n",
    "auctions": "kind,held_on,status,minimum_bid,sold_for,buyer,place\ntax,2027-01-15,scheduled,9000,,,Board room\n",
    "permits": "number,kind,issued_on,cost,contractor,description\nP1,roof,2015-05-05,12500,NORTH GABLE ROOFING,Tear off\n",
    "violations": "number,description,opened_on,closed_on,fine\nV1,Porch unsound,2026-03-09,2026-05-01,100\n",
    "vacancies": "since,until,noticed_by\n2025-10-10,2026-02-02,post returned\n",
    "rentals": "unit,since,rent,tenant,noted_by\nUPPR,2016-06-01,875,VUKOVIC IDA,rental register\n",
    "listings": "OriginatingSystemName,ListingId,StandardStatus,PropertyType,ListPrice,OriginalListPrice,"
    "ClosePrice,OnMarketDate,CloseDate,ListOfficeName\n"
    "S,Q1,Closed,Residential,229000,249000,225000,2026-06-06,2026-10-10,Lantern Street Realty\n",
    "listing-events": "OriginatingSystemName,ResourceRecordID,ModificationTimestamp,FieldName,PreviousValue,NewValue\n"
    "S,Q1,2026-07-07,ListPrice,249000,229000\nS,Q1,2026-09-09T10:00:00Z,StandardStatus,Active,Pending\n",
}
COLUMN = {"listings": "ParcelNumber"}
UNPARCELLED = ("loan-events", "lien-releases", "listing-events")
EXPECTED = """
2001-05-03|title|Warranty deed|D1|Kelm Arvid to Ostrom Helen||61000|
2001-05-03|loans and liens|Purchase, 30 y, 8.125 %|L1|Lakeport Bank|fixed||54900
2002-01-01|tax|Homestead exemption|||||
2003-08-09|loans and liens|Assignment of L1|E1|Lakeport Bank to First Beacon Bank|||
2005-06-07|loans and liens|Credit line, rate not stated|L2|Tidewater Credit Union|to its full limit||20000
2008-04-04|courts|Foreclosure: lis pendens|08FC1|First Beacon Bank||52000|
2009-01-02|loans and liens|Release of L1|E2|First Beacon Bank|||
2010-02-02|title|Quitclaim deed|D2|Ostrom Helen to Ostrom Living Trust|no price stated||
2011-01-01|tax|Homestead exemption ends|||||
2012-03-04|loans and liens|HOA lien|N1|Harbour Association|||1250.50
2013-03-04|loans and liens|Release of lien N1|N2||paid $1,250.50||
2015-05-05|permits and use|Permit, roof|P1|North Gable Roofing|Tear off|12500|
2016-06-01|permits and use|Let, UPPR||Vukovic Ida|rental register|875|
2025-02-14|courts|Tax case filed|25TX1|Circuit Court|||
2025-09-01|courts|Tax case: judgment|25TX1|Circuit Court|||
2025-10-10|permits and use|Noticed empty|||post returned||
2026-02-02|permits and use|No longer empty|||post returned||
2026-03-09|permits and use|Code violation|V1||Porch unsound|100|
2026-05-01|permits and use|Code violation closed|V1||||
2026-06-06|listings|Listed, agency|Q1|Lantern Street Realty||249000|
2026-07-07|listings|Price changed|Q1||from $249,000|229000|
2026-09-09|listings|Pending|Q1||||
2026-10-10|listings|Listing closed|Q1|Lantern Street Realty||225000|
2026-11-22|tax|Tax of 2023 due|||with interest, as of this day||3034.12
2027-01-15|courts|Tax auction, scheduled||Board room|at least $9,000||
"""


def money(text: str) -> Decimal | None:
    return Decimal(text) if text else None


class Statement(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        county = County.objects.get(name="Tamarack")
        cls.parcel = Parcel.objects.create(county=county, number=PARCEL, number_key="99001001")
        with tempfile.TemporaryDirectory() as folder:
            for kind, text in FILES.items():
                header, *rows = text.splitlines()
                if kind not in UNPARCELLED:
                    header = f"{COLUMN.get(kind, 'parcel_number')},{header}"
                    rows = [f"{PARCEL},{row}" for row in rows]
                path = Path(folder) / f"{kind}.csv"
                path.write_text("\n".join([header, *rows]))
                file = take_in(path, IntakeOptions(kind, county, DAY))
                assert file.new == len(rows), [str(refusal) for refusal in file.refusals.all()]

    def test_each_kind_of_document(self) -> None:
        lines = recorded_lines(PropertyRecord(self.parcel))
        found = [
            (line.day.isoformat(), line.about.value, line.document, line.number, line.party, line.note, line.amount, line.debit)
            for line in lines
        ]
        expected = []
        for row in EXPECTED.strip().splitlines():
            *words, amount, debit = row.split("|")
            expected.append((*words, money(amount), money(debit)))
        self.assertEqual(found, expected)

    def test_every_line_says_where_it_came_from(self) -> None:
        for line in recorded_lines(PropertyRecord(self.parcel)):
            self.assertTrue(line.row.source_file.name.endswith(".csv"))
            self.assertIn(line.row.source_line, (2, 3))

    def test_before_the_files_spoke_there_was_nothing(self) -> None:
        self.assertEqual(recorded_lines(PropertyRecord(self.parcel, date(2026, 11, 21))), [])
        self.assertEqual(len(recorded_lines(PropertyRecord(self.parcel, DAY))), len(EXPECTED.strip().splitlines()))

    def test_lines_are_told_apart_by_what_they_are_about(self) -> None:
        self.assertEqual({line.about for line in recorded_lines(PropertyRecord(self.parcel))}, set(About))

    def running(self) -> list[StatementLine]:
        return statement(PropertyRecord(self.parcel), Findings(record_of(self.parcel), date(2026, 11, 24)))

    def test_debits_less_credits_always_make_the_debt(self) -> None:
        lines = self.running()
        total = Decimal(0)
        for line in lines:
            total += (line.debit or 0) - (line.credit or 0)
            if line.balance:
                self.assertAlmostEqual(line.balance.debt, total, places=9)
        # The credit line at its limit, and the tax of 2023 with interest.
        self.assertAlmostEqual(total, Decimal("23034.12"), places=9)
        self.assertIsNone(lines[-1].balance, "an auction that is yet to come")

    def test_what_is_owed_after_each_document(self) -> None:
        """A loan of 54,900 at 8.125 % over 360 months: 27 payments by 9 Aug 2003, 91 by its release; as numpy-financial has it."""
        owed = {(line.day.isoformat(), line.document): line.balance.debt for line in self.running() if line.balance}
        level = numpy_financial.pmt(0.08125 / 12, 360, 54_900)
        for day, document, paid in [("2003-08-09", "Principal by schedule, 2001", 27), ("2009-01-02", "Principal by schedule, 2001", 91)]:
            left = -numpy_financial.fv(0.08125 / 12, paid, level, 54_900) + (20_000 if paid > 50 else 0)
            self.assertAlmostEqual(float(owed[day, document]), float(left), delta=0.01)
        for day, document, debt in [
            ("2001-05-03", "Warranty deed", 0), ("2001-05-03", "Purchase, 30 y, 8.125 %", 54_900), ("2009-01-02", "Release of L1", 20_000),
            ("2012-03-04", "HOA lien", Decimal("21250.50")), ("2013-03-04", "Release of lien N1", 20_000),
        ]:  # fmt: skip
            self.assertAlmostEqual(owed[day, document], debt, places=9, msg=document)

    def test_the_value_runs_between_the_days_on_which_it_is_told(self) -> None:
        """61,000 at the sale of 1 May 2001, the estimate on the last day of the county's files: in between by the days."""
        told = {line.document: line.balance for line in self.running() if line.balance}
        found = Findings(record_of(self.parcel), date(2026, 11, 24))
        estimate, reached = found.estimate.value, max(filter(None, found.county.through.values()))
        self.assertLess(reached, found.today)
        self.assertGreater(estimate, 61_000)
        between = Decimal((date(2015, 5, 5) - date(2001, 5, 1)).days) / (reached - date(2001, 5, 1)).days
        self.assertAlmostEqual(told["Permit, roof"].value, 61_000 + (estimate - 61_000) * between, places=6)
        lien = told["HOA lien"]
        self.assertEqual(lien.equity, lien.value - lien.debt)

    def test_computed_lines_name_no_document(self) -> None:
        computed = [line for line in self.running() if line.is_computed]
        self.assertEqual({line.document for line in computed}, {"Principal by schedule, 2001"})
        self.assertEqual(len(self.running()) - len(computed), len(EXPECTED.strip().splitlines()))


@thorough
class Drawings(DemoTestCase):
    """Pictures of every tenth parcel of each county: nothing is written over anything else, or out of the picture."""

    def test_words_can_be_read(self) -> None:
        for county in County.objects.all():
            shapes = ParcelShape.objects.filter(county=county, superseded_at=None, parcel__parent=None).select_related("parcel__county")
            for shape in shapes.order_by("id")[::60]:
                picture = draw_outline(shape.parcel, shape)
                words = [label for neighbor in picture.neighbors if (label := neighbor.label)]
                self.assertTrue(picture.lengths, shape.parcel.number)
                for place, word in enumerate(words):
                    others = [*picture.lengths, picture.number, *words[:place]]
                    self.assertTrue(word.is_clear_of(others), (shape.parcel.number, word))
                for length in picture.lengths:
                    self.assertTrue(length.reach - 12 < length.x < WIDTH - length.reach + 12, (shape.parcel.number, length))
                    self.assertTrue(6 < length.y < HEIGHT, (shape.parcel.number, length))

    def test_lengths_and_area_are_those_of_the_roll(self) -> None:
        checked = 0
        for shape in ParcelShape.objects.filter(county__name="Tamarack", parcel__parent=None).select_related("parcel__county")[:2000:40]:
            roll = PropertyRecord(shape.parcel).roll
            picture = draw_outline(shape.parcel, shape)
            if roll.frontage and roll.lot_sqft:
                self.assertIn(f"{roll.frontage:,.1f} ft", [length.text for length in picture.lengths], shape.parcel.number)
                self.assertAlmostEqual(picture.square_feet / roll.lot_sqft, 1, delta=0.01)
                checked += 1
        self.assertGreater(checked, 30)

    def test_neighbors_are_those_next_door(self) -> None:
        """Against PostGIS: every parcel that touches is listed as adjoining."""
        for shape in ParcelShape.objects.filter(county__name="Tamarack", parcel__parent=None).select_related("parcel")[100:1000:180]:
            touching = ParcelShape.objects.filter(outline__touches=shape.outline, parcel__parent=None).values_list("parcel", flat=True)
            adjoining = {one.parcel_id for one in nearby(shape.parcel, shape) if one.feet < 0.5}
            self.assertLessEqual(set(touching), adjoining)
            self.assertTrue(adjoining)
