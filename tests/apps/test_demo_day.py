"""The daily feed: days pass, what happens follows from what was, and all of it comes in as files."""

from __future__ import annotations

import csv
import io
import tempfile
from datetime import date, timedelta
from pathlib import Path

from django.core.cache import caches
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db.models import F

from jaded_ledger.demo.management.commands.demo import Command
from jaded_ledger.intake.models import Refusal
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import (
    AreaFigures,
    County,
    Coverage,
    FillRate,
    Listing,
    ListingEvent,
    Loan,
    Parcel,
    ParcelFacts,
    ParcelSale,
    SourceFile,
    TaxYear,
    Transfer,
    World,
)
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

DAYS = 10


def derived() -> dict[str, list[tuple]]:
    """Return all that is derived, in an order of its own: ids of sales change with every writing."""
    sold = [field.attname for field in ParcelSale._meta.concrete_fields if field.name != "id"]
    return {
        "facts": list(ParcelFacts.objects.order_by("parcel_id").values_list()),
        "areas": list(AreaFigures.objects.order_by("area_id").values_list()),
        "sales": list(ParcelSale.objects.order_by("parcel_id", "sold_on", "price").values_list(*sold)),
        "fill": list(FillRate.objects.order_by("county", "trait").values_list("county", "trait", "known", "parcels")),
    }


@thorough
class Days(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.before, cls.newest = today(), SourceFile.objects.order_by("id").last().pk
        cls.parcels = Parcel.objects.count()
        cls.folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.folder.cleanup)
        out = io.StringIO()
        call_command("demo_day", days=DAYS, keep=Path(cls.folder.name), stdout=out)
        cls.told = out.getvalue()
        cls.files = SourceFile.objects.filter(pk__gt=cls.newest)

    def test_the_days_pass_and_the_records_follow(self) -> None:
        self.assertEqual(today(), self.before + timedelta(days=DAYS))
        self.assertEqual(len(self.told.splitlines()), DAYS)
        self.assertFalse(Refusal.objects.filter(source_file__in=self.files).exists())
        self.assertEqual(Parcel.objects.count(), self.parcels)
        behind = {"Tamarack": 6, "Pike Hollow": 24, "Odell Marsh": 12}
        for county in County.objects.all():
            reached = dict(Coverage.objects.filter(county=county).values_list("kind", "recorded_through"))
            self.assertEqual(reached["listings"], today())
            self.assertEqual(reached["deeds"], today() - timedelta(days=behind[county.name]))
            # What the feed does not bring stays where it was.
            self.assertEqual(reached["roll"], self.before - timedelta(days=behind[county.name]))

    def test_day_by_day_gives_the_same_facts_as_from_nothing(self) -> None:
        """Ten days of files and of mere time passing, each deriving what it touched: then all is thrown away and built anew."""
        step_by_step = derived()
        call_command("derive", all=True, stdout=io.StringIO())
        from_nothing = derived()
        for what, rows in from_nothing.items():
            different = [(one, other) for one, other in zip(step_by_step[what], rows, strict=True) if one != other]
            self.assertEqual(different[:3], [], what)

    def test_what_happens_is_of_every_sort(self) -> None:
        kinds = set(self.files.values_list("kind", flat=True))
        self.assertLessEqual({"listings", "listing-events", "deeds", "loans", "cases", "permits", "violations", "tax-years"}, kinds)
        changed = ListingEvent.objects.filter(source_file__in=self.files)
        self.assertLessEqual({"Pending"}, set(changed.filter(field_name="StandardStatus").values_list("new_value", flat=True)))
        cuts = changed.filter(field_name="ListPrice")
        self.assertGreater(cuts.count(), 3)
        for cut in cuts:
            self.assertLess(float(cut.new_value), float(cut.previous_value))
            listing = Listing.objects.get(listing_id=cut.resource_record_id, superseded_at=None)
            self.assertLessEqual(listing.list_price, float(cut.new_value))
        self.assertTrue(Listing.objects.filter(source_file__in=self.files, first_seen_on__gt=self.before - timedelta(days=30)).exists())

    def test_a_payment_supersedes_what_was_due(self) -> None:
        for paid in TaxYear.objects.filter(source_file__in=self.files).select_related("parcel"):
            owed = TaxYear.objects.get(parcel=paid.parcel, year=paid.year, superseded_at=F("superseded_at"), superseded_at__isnull=False)
            self.assertGreater(owed.due, 0)
            self.assertEqual((paid.due, paid.paid), (0, (owed.paid or 0) + owed.due))

    def test_a_late_correction_keeps_the_earlier_price(self) -> None:
        corrected = [
            (deed, Transfer.objects.get(natural_key=deed.natural_key, county=deed.county, superseded_at__isnull=False))
            for deed in Transfer.objects.filter(source_file__in=self.files, superseded_at=None, document_number__gt="")
            if Transfer.objects.filter(natural_key=deed.natural_key, county=deed.county).count() == 2
        ]
        self.assertGreaterEqual(len(corrected), 3)
        for now, before in corrected:
            self.assertEqual(now.price, before.price + 1_000)
            self.assertEqual(set(now.parcels.values_list("id")), set(before.parcels.values_list("id")))

    def test_a_loan_follows_its_deed(self) -> None:
        deeds = {deed.grantee_id: deed for deed in Transfer.objects.filter(source_file__in=self.files)}
        for loan in Loan.objects.filter(source_file__in=self.files, kind="purchase"):
            self.assertIn(loan.borrower_id, deeds)
            self.assertLess(loan.amount, deeds[loan.borrower_id].price)

    def test_the_files_are_kept_and_the_same_again(self) -> None:
        for path in Path(self.folder.name).iterdir():
            with path.open(newline="") as handle:
                self.assertGreater(len(list(csv.reader(handle))), 1, path.name)

    def test_an_interrupted_day_is_gone_on_with(self) -> None:
        Coverage.objects.filter(county__name="Tamarack", kind="permits").update(recorded_through=date(2026, 11, 20))
        call_command("demo_day", stdout=io.StringIO())
        reached = set(
            Coverage.objects.filter(county__name="Tamarack", kind__in=("permits", "deeds")).values_list("recorded_through", flat=True)
        )
        self.assertEqual(reached, {today() - timedelta(days=6)})
        World.objects.update(is_complete=False)
        with self.assertRaisesRegex(CommandError, "bin/manage demo loads it"):
            call_command("demo_day", stdout=io.StringIO())
        with self.assertRaisesRegex(CommandError, "at least 1"):
            call_command("demo_day", days=0)


class Anew(DemoTestCase):
    def test_nothing_that_was_counted_before_is_remembered(self) -> None:
        caches["tallies"].set("counted of records that are gone", 1)
        Command()._throw_away()
        self.assertFalse(County.objects.exists())
        self.assertIsNone(caches["tallies"].get("counted of records that are gone"))
