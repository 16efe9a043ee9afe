"""Values that can't be so: the row goes in without them, is listed as doubtful, and comes back corrected."""

from __future__ import annotations

import csv
import io
from datetime import date

from django.urls import reverse

from jaded_ledger.find.results import value_of, with_values
from jaded_ledger.intake.refusals import correction_file
from jaded_ledger.records.models import Listing, Loan, Parcel, ParcelFacts, RollEntry, SourceFile, Transfer, Vacancy
from jaded_ledger.records.own_columns import traits_of
from tests.support.files import DAY, FileCase
from tests.support.page_text import page_text

NUMBER = "12-001-001"


class Doubtful(FileCase):
    def taken(self, kind: str, content: str, read: int, doubtful: int, refused: int = 0) -> SourceFile:
        file = self.take(kind, self.written(f"{kind}.csv", content))
        self.assertEqual((file.read, file.doubtful, file.refused), (read, doubtful, refused), self.reasons(file))
        return file

    def deeds(self, *rows: str) -> str:
        return "\n".join(("document_number,recorded_on,sold_on,deed,price,grantor,grantee,parcel_number", *rows))

    def test_a_deed_whose_date_can_not_be_counts_as_of_its_recording(self) -> None:
        rows = [
            f"D1,2026-11-02,2031-04-05,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
            f"D2,2026-11-03,04/31/2020,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
            f"D3,2026-11-04,2026-11-05,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
            f"D4,2026-11-05,,gift deed,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
            f"D5,,2026-11-05,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
        ]
        file = self.taken("deeds", self.deeds(*rows), 5, 4, 1)
        self.assertEqual(
            self.reasons(file),
            {
                2: f"sold_on: lies after {DAY}, the day the file speaks of",
                3: "sold_on: is not a date such as 2026-11-24 or 11/24/2026",
                4: "sold_on: lies after its recording on 2026-11-04",
                5: "deed: is none of warranty, special-warranty, quitclaim, personal-representative, trustee, land-contract, sheriff, tax, "
                "correction, other",
                6: "recorded_on: is blank and must not be",
            },
        )
        found = {row.document_number: row for row in Transfer.objects.filter(source_file=file)}
        self.assertEqual(
            {number: (row.sold_on - row.recorded_on).days for number, row in found.items()}, dict.fromkeys(("D1", "D2", "D3", "D4"), 0)
        )
        self.assertEqual(found["D4"].deed, "other")
        self.assertEqual(found["D3"].doubts, {"sold_on": ["2026-11-05", "lies after its recording on 2026-11-04"]})
        trait = next(trait for trait in traits_of([self.county]) if trait.key == "last-sale")
        self.assertEqual(value_of(with_values(ParcelFacts.objects.filter(parcel__number=NUMBER), [trait]).get(), trait), date(2026, 11, 5))
        self.client.force_login(self.user)
        parcel = Parcel.objects.get(number=NUMBER, county=self.county)
        told = page_text(self.client.get(reverse("properties:explained", args=[parcel.pk, "last-sale"])).content.decode())
        self.assertIn("dated as of its recording: “2026-11-05” lies after its recording on 2026-11-04", told)
        page, below = (
            page_text(self.client.get(reverse(f"properties:{name}", args=[parcel.pk])).content.decode()) for name in ("property", "more")
        )
        self.assertIn("sold_on “04/31/2020” is not a date", below)
        self.assertEqual(page.count("doubtful"), 4)

    def test_it_comes_back_corrected_and_supersedes(self) -> None:
        first = self.taken("deeds", self.deeds(f"D1,2026-11-02,2031-04-05,warranty,9x,KELM DORA,BRANDVOLD PETER,{NUMBER}"), 1, 1)
        self.assertEqual(first.refusals.count(), 2, "two of its values")
        (head, row) = csv.reader(io.StringIO("".join(correction_file(first)).lstrip("\ufeff")))
        self.assertIn("sold_on: lies after", row[1])
        self.assertIn("; price: is not a number", row[1])
        row = ["2026-10-30" if cell == "2031-04-05" else "210000" if cell == "9x" else cell for cell in row]
        again = io.StringIO()
        csv.writer(again).writerows([head, row])
        file = self.taken("deeds", again.getvalue(), 1, 0)
        self.assertEqual((file.changed, first.refusals.filter(settled_in=file).count()), (1, 2))
        deed = Transfer.objects.get(document_number="D1", superseded_at=None)
        self.assertEqual((deed.sold_on, deed.price, deed.doubts), (date(2026, 10, 30), 210_000, {}))

    def test_what_tells_a_row_is_required(self) -> None:
        """Without a number a loan is told by its amount among others; with one it can do without."""
        head = "document_number,recorded_on,amount,rate,term_months,matures_on,borrower,lender,parcel_number"
        file = self.taken("loans", "\n".join((
            head, f",2026-11-02,much,6,360,,KELM DORA,FERN BANK,{NUMBER}",
            f"L2,2026-11-02,much,61,900,2020-01-01,KELM DORA,FERN BANK,{NUMBER}",
            f"L3,2026-11-02,100000,6,360,,KELM DORA,FERN BANK,{NUMBER}",
        )), 3, 1, 1)  # fmt: skip
        self.assertEqual(self.reasons(file)[2], "amount: is not a number")
        loan = Loan.objects.get(document_number="L2", superseded_at=None)
        self.assertEqual((loan.amount, loan.rate, loan.term_months, loan.matures_on), (None, None, None, None))
        self.assertEqual(set(loan.doubts), {"amount", "rate", "term_months", "matures_on"})
        self.assertEqual(loan.doubts["rate"], ["61", "a rate above 40 % is none"])

    def test_where_a_blank_means_something_the_row_is_refused(self) -> None:
        """A vacancy without an end goes on: an end that can't be read is none to leave out."""
        file = self.taken(
            "vacancies",
            f"parcel_number,since,until,noticed_by\n{NUMBER},2026-01-02,soon,post\n{NUMBER},2026-02-02,2026-01-01,post\n",
            2,
            0,
            2,
        )
        self.assertFalse(Vacancy.objects.filter(source_file=file).exists())

    def test_of_a_roll_and_of_listings(self) -> None:
        entry = RollEntry.objects.get(parcel__number="12-001-002", superseded_at=None)
        self.taken("roll", "parcel_number,owner,lot_acres,year_built,beds\n12-001-002,KELM DORA,some,1066,two\n", 1, 1)
        found = RollEntry.objects.get(parcel=entry.parcel, superseded_at=None)
        self.assertEqual((found.lot_sqft, found.year_built, found.beds), (None, None, None))
        self.assertEqual(set(found.doubts), {"lot_acres", "year_built", "beds"})
        head = "OriginatingSystemName,ListingId,ParcelNumber,StandardStatus,ListPrice,ListingContractDate,CloseDate"
        self.taken("listings", "\n".join((
            head, f"S,X1,{NUMBER},Active,a lot,2026-11-01,", f"S,X2,{NUMBER},Closed,200000,2026-11-01,2026-02-30",
            f"S,X3,{NUMBER},Sold!,200000,2026-11-01,",
        )), 3, 1, 2)  # fmt: skip
        self.assertIsNone(Listing.objects.get(listing_id="X1", superseded_at=None).list_price)

    def test_the_pages_of_a_file(self) -> None:
        file = self.taken("deeds", self.deeds(
            f"D1,2026-11-02,2031-04-05,warranty,210000,KELM DORA,BRANDVOLD <b>,{NUMBER}",
            f"D2,soon,,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}",
        ), 2, 1, 1)  # fmt: skip
        self.user.is_staff = True
        self.user.save()
        self.client.force_login(self.user)
        address = reverse("intake:file", args=[file.pk])
        page = page_text(self.client.get(address).content.decode())
        for said in ("1 of them doubtful", "Why rows were refused", "Values left unknown: the rows went in"):
            self.assertIn(said, page)
        only = page_text(
            self.client.get(address, {"why": f"doubtful|sold_on|lies after {DAY}, the day the file speaks of"}).content.decode()
        )
        self.assertIn("2031-04-05", only)
        self.assertNotIn("soon", only[only.index("Line") :])
        self.assertIn("2026-11-02", "".join(correction_file(file)))

    def test_a_file_that_comes_again_is_the_same(self) -> None:
        rows = self.deeds(f"D1,2026-11-02,2031-04-05,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}")
        self.taken("deeds", rows, 1, 1)
        again = self.taken("deeds", rows, 1, 1)
        self.assertEqual((again.same, again.new, again.changed), (1, 0, 0))

    def test_a_fault_that_was_corrected_and_comes_again_changes_nothing(self) -> None:
        """As where an office sends the whole year each night."""
        head, fault = "D1,2026-11-02", f"2031-04-05,warranty,210000,KELM DORA,BRANDVOLD PETER,{NUMBER}"
        sound = fault.replace("2031-04-05", "2026-10-30")
        self.taken("deeds", self.deeds(f"{head},{fault}"), 1, 1)
        self.assertEqual(self.taken("deeds", self.deeds(f"{head},{sound}"), 1, 0).changed, 1)
        for _ in range(2):
            again = self.taken("deeds", self.deeds(f"{head},{fault}"), 1, 0)
            self.assertEqual((again.same, again.changed), (1, 0))
        self.assertEqual(Transfer.objects.get(document_number="D1", superseded_at=None).sold_on, date(2026, 10, 30))
        # What else it says counts, and so does the fault once more when the row was sound in between.
        other = self.taken("deeds", self.deeds(f"{head},{fault.replace('210000', '220000')}"), 1, 1)
        self.assertEqual(other.changed, 1)
        self.assertEqual(self.taken("deeds", self.deeds(f"{head},{sound}"), 1, 0).changed, 1)
