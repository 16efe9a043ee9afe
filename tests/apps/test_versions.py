"""Files that come again, correct, and end what is on record: the earlier rows stay readable as of their day."""

from __future__ import annotations

import json
import tempfile
from datetime import date
from pathlib import Path

from django.apps import apps

from jaded_ledger.demo import files, world
from jaded_ledger.demo.loading import ADDITIONAL, FIRST, NAMED, NAMELESS, take
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.properties.record_kinds import PropertyRecord
from jaded_ledger.records.models import (
    County,
    CountyColumn,
    Filed,
    LoanParcel,
    Parcel,
    ParcelFacts,
    RollEntry,
    SourceFile,
    TaxYear,
    Transfer,
)
from jaded_ledger.records.models.provenance import as_of
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

DAY = date(2026, 11, 22)


class Repeated(DemoTestCase):
    @thorough
    def test_the_same_files_again_change_nothing(self) -> None:
        """Every kind of file of a county, written anew and taken in a second time."""
        county = world.county("odell-marsh")
        before = {model: model.objects.count() for model in apps.get_app_config("records").get_models() if issubclass(model, Filed)}
        with tempfile.TemporaryDirectory() as folder:
            files.write_county(Path(folder), county.key, county.share)
            taken = take(Path(folder) / county.key, county.key, (*FIRST, *NAMELESS, *NAMED))
        again = SourceFile.objects.order_by("-id")[: len(taken.lines)]
        self.assertEqual({file.kind for file in again}, set(KINDS) - {"projects"})
        for file in again:
            with self.subTest(file.name):
                self.assertEqual((file.new, file.changed, file.gone, file.same + file.refused), (0, 0, 0, file.read))
        self.assertEqual({model: model.objects.count() for model in before}, before)

    def test_each_kind_of_file_is_in_the_demo(self) -> None:
        self.assertEqual(set(SourceFile.objects.values_list("kind", flat=True)), set(KINDS))
        self.assertEqual({*FIRST, *NAMELESS, *NAMED}, set(KINDS))
        self.assertLessEqual(set(ADDITIONAL), set(KINDS))
        endings = {Path(name).suffix for name in SourceFile.objects.values_list("name", flat=True)}
        self.assertEqual(endings, {".csv", ".xlsx", ".geojson", ".zip"})


class Corrected(DemoTestCase):
    def setUp(self) -> None:
        self.county = County.objects.get(name="Tamarack")
        self.parcel = Parcel.objects.get(county=self.county, number="12-001-001")

    def take(self, kind: str, text: str, *, day: date = DAY, is_complete: bool = False) -> SourceFile:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"{kind}.csv"
            path.write_text(text)
            return take_in(path, IntakeOptions(kind, self.county, day, is_complete=is_complete, may_end_most=True))

    def test_an_earlier_row_is_read_as_of_its_day(self) -> None:
        """The demo's January roll was corrected in November: a parcel sold in between had another owner."""
        january, november = date(2026, 1, 20), date(2026, 11, 20)
        sold = RollEntry.objects.filter(superseded_at__isnull=False, county=self.county).select_related("owner_name").first()
        now = RollEntry.objects.select_related("owner_name").get(parcel=sold.parcel_id, superseded_at=None)
        self.assertEqual((sold.valid_from, sold.valid_until, now.valid_from), (date(2026, 1, 15), date(2026, 11, 18), date(2026, 11, 18)))
        for day, expected in ((january, sold), (november, now), (date(2026, 11, 18), now)):
            self.assertEqual(PropertyRecord(sold.parcel, day).roll, expected)
            self.assertEqual(RollEntry.objects.get(as_of(day), parcel=sold.parcel_id), expected)
        self.assertIsNone(PropertyRecord(sold.parcel, date(2025, 12, 31)).roll)
        self.assertNotEqual((sold.owner_name_id, sold.mailing_address_id), (now.owner_name_id, now.mailing_address_id))

    def test_a_document_is_corrected_and_covers_other_parcels(self) -> None:
        line = "document_number,recorded_on,kind,amount,parcel_number\nX-1,2026-11-20,purchase,{},{}\n"
        self.assertEqual(self.take("loans", line.format(100000, "12-001-001")).new, 1)
        self.assertEqual(self.take("loans", line.format(100000, "12-001-001")).same, 1)
        self.assertEqual(self.take("loans", line.format(150000, "12-001-001;12-001-002")).changed, 1)
        covered = LoanParcel.objects.filter(loan__document_number="X-1")
        self.assertEqual(covered.filter(loan__superseded_at=None).count(), 2)
        self.assertEqual(covered.filter(loan__superseded_at__isnull=False).get().loan.amount, 100000)

    def test_without_a_number_a_document_is_known_by_what_it_says(self) -> None:
        header = "document_number,recorded_on,sold_on,deed,price,grantor,grantee,parcel_number\n"
        line = header + ",2026-11-20,2026-11-19,warranty,{},KELM A,OSTROM H,12-001-001\n"
        self.assertEqual(self.take("deeds", line.format(90000)).new, 1)
        corrected = self.take("deeds", line.format(95000))
        self.assertEqual((corrected.new, corrected.changed), (0, 1))
        self.assertEqual(Transfer.objects.get(document_number="", grantee__text="OSTROM H", superseded_at=None).price, 95000)

    def test_a_complete_file_ends_what_it_no_longer_holds(self) -> None:
        """So that a debt which is no longer listed is known to be paid; an additional file ends nothing."""
        unpaid = TaxYear.objects.filter(county=self.county, due__gt=0).count()
        self.assertGreater(unpaid, 50)
        header, row = "parcel_number,year,billed,paid,due\n", "12-001-001,2025,4000,0,4000\n"
        self.assertEqual(self.take("tax-years", header + row).gone, 0)
        self.assertEqual(self.take("tax-years", header + row, is_complete=True).gone, 43_199)
        standing = TaxYear.objects.get(county=self.county, superseded_at=None)
        self.assertEqual((standing.parcel, standing.due), (self.parcel, 4000))
        self.assertEqual(TaxYear.objects.filter(as_of(date(2026, 11, 20)), county=self.county, due__gt=0).count(), unpaid)

    def test_a_countys_own_columns_become_its_traits(self) -> None:
        # All of a county is derived for a new column, so the smallest will do.
        self.county = County.objects.get(name="Odell Marsh")
        self.parcel = Parcel.objects.get(county=self.county, number="010101001")
        self.take("roll", "parcel_number,Beat No,Surveyed\n010101001,7,2026-01-02\n010101002,8.5,\n")
        kinds = dict(CountyColumn.objects.filter(county=self.county).values_list("name", "kind"))
        self.assertEqual((kinds["Beat No"], kinds["Surveyed"]), ("number", "date"))
        facts = ParcelFacts.objects.get(parcel=self.parcel)
        self.assertEqual(facts.further, {f"c{self.county.pk}_beat_no": 7.0, f"c{self.county.pk}_surveyed": "2026-01-02"})
        # Another row shows that it was no number after all: its values are kept as words from then on.
        self.take("roll", "parcel_number,Beat No\n010101003,east\n", day=date(2026, 11, 23))
        facts.refresh_from_db()
        self.assertEqual(CountyColumn.objects.get(county=self.county, name="Beat No").kind, "choice")
        self.assertIsInstance(facts.further[f"c{self.county.pk}_beat_no"], int)


class Awkward(DemoTestCase):
    """Cells that no table could hold are left out with a reason, and the rest of the row and of the file goes in."""

    def take(self, kind: str, name: str, content: bytes) -> SourceFile:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / name
            path.write_bytes(content)
            return take_in(path, IntakeOptions(kind, County.objects.get(name="Tamarack"), DAY))

    def test_cells(self) -> None:
        long = "LONG " * 200
        lines = [
            "parcel_number,beds,baths,land_value,lot_acres,year_built,owner,mailing_address,Note",
            "12-001-001,NaN,,,,,,,", "12-001-002,,Infinity,,,,,,", "12-001-003,,,99999999999999,,,,,", "12-001-004,,,,999999999,,,,",
            "12-001-005,1e9999,,,,,,,", f"12-001-006,,,,,,{long},,", f"12-001-007,,,,,,,{long},",
            "12-001-008,2,1,10.005,0.5,1950,A\x00B,1 X\x00 ST,n\x00ul",
            f"12-001-009,2,,,,,,,{long}", "12-001-010,\u0663,,,,,,,", "12-001-011,,,,,20000000000,,,",
        ]  # fmt: skip
        file = self.take("roll", "roll.csv", "\n".join(lines).encode())
        reasons = {refusal.line: (refusal.column, refusal.reason) for refusal in file.refusals.all()}
        self.assertEqual(set(reasons), {2, 3, 4, 5, 6, 7, 8, 12}, reasons)
        self.assertEqual((file.new + file.changed, file.refused, file.doubtful), (11, 0, 8))
        entry = RollEntry.objects.get(parcel__number="12-001-008", superseded_at=None)
        self.assertEqual((entry.owner_name.text, str(entry.land_value), entry.further["Note"]), ("AB", "10.01", "nul"))

    def test_amounts_beyond_their_column(self) -> None:
        header = "document_number,recorded_on,kind,amount,rate,term_months,parcel_number\n"
        rows = ["X-1,2026-11-01,purchase,1000,250,360", "X-2,2026-11-01,purchase,1000,41,360", "X-3,2026-11-01,purchase,1000,6.1234,601",
                "X-4,2026-11-01,purchase,1000,6.1234,360"]  # fmt: skip
        file = self.take("loans", "loans.csv", (header + "".join(f"{row},12-001-001\n" for row in rows)).encode())
        self.assertEqual((file.new, file.refused, file.doubtful), (4, 0, 3))
        self.assertEqual(
            sorted(file.refusals.values_list("reason", flat=True)),
            ["a rate above 40 % is none", "a term runs from 1 to 600 months", "is 100 or more"],
        )

    @thorough
    def test_a_document_over_more_parcels_than_an_index_takes(self) -> None:
        numbers = list(Parcel.objects.filter(county__name="Tamarack", parent=None).values_list("number", flat=True)[:900])
        line = "recorded_on,sold_on,deed,price,grantor,grantee,parcel_number\n2026-11-20,2026-11-19,warranty,{},KELM A,OSTROM H,{}\n"
        self.assertEqual(self.take("deeds", "deeds.csv", line.format(1, ";".join(numbers)).encode()).new, 1)
        self.assertEqual(self.take("deeds", "deeds.csv", line.format(2, ";".join(numbers)).encode()).changed, 1)
        self.assertEqual(self.take("deeds", "deeds.csv", line.format(2, ";".join(numbers[:-1])).encode()).new, 1)

    def test_geojson_that_is_no_text(self) -> None:
        ring = [[0, 0], [0, 0.001], [0.001, 0.001], [0, 0]]
        odd = {"parcel_number": "12-001-001", "odd": "a\x00b\ud800c"}
        feature = {"type": "Feature", "properties": odd, "geometry": {"type": "Polygon", "coordinates": [ring]}}
        collection = json.dumps({"type": "FeatureCollection", "features": [feature]})
        file = self.take("parcels", "parcels.geojson", collection.encode())
        self.assertEqual((file.changed, file.refused), (1, 0))
