"""What a file counts in is told by its values: acres, thousands, shares, day first; and what is doubtful is said before it goes in."""

from __future__ import annotations

from django.core.management import CommandError
from django.urls import reverse

from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.intake.address_book import AddressBook
from jaded_ledger.intake.guessing import guess
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.mapping import ColumnMap, MappingError, Translator, column_map_from
from jaded_ledger.intake.refusals import by_reason, of_reason, open_refusals
from jaded_ledger.intake.units import Doubt, doubts_about, is_day_first
from jaded_ledger.records.models import County, Listing, Parcel, RollEntry, SourceFile, Transfer
from tests.support.files import FilesCase
from tests.support.page_text import page_text

LOTS = (0.17, 0.24, 0.31, 0.5, 1.2, 0.22, 0.19, 0.4, 5.1, 0.26)


def sheet(header: str, *columns: tuple) -> str:
    return "\n".join([header, *(",".join(map(str, row)) for row in zip(*columns, strict=True))]) + "\n"


def guessed(kind: str, **cells: tuple) -> tuple[ColumnMap, list[Doubt]]:
    """Return the guessed mapping of a file of these columns, and what is doubtful in it."""
    rows = [dict(zip(cells, values, strict=True)) for values in zip(*cells.values(), strict=True)]
    found = guess(KINDS[kind], list(cells), rows, None)
    return found, doubts_about(kind, {one.name: one for one in KINDS[kind].described}, found, cells)


class Units(FilesCase):
    def test_a_lot_of_small_figures_is_in_acres(self) -> None:
        found, doubts = guessed("roll", parcel_number=tuple(range(10)), LotSize=LOTS)
        self.assertEqual((found.columns["LotSize"], doubts), ("lot_acres", []))
        feet = tuple(43_560 * one for one in LOTS)
        self.assertEqual(guessed("roll", parcel_number=tuple(range(10)), LotSize=feet)[0].columns["LotSize"], "lot_sqft")
        self.assertEqual(guessed("roll", parcel_number=tuple(range(10)), Acres=feet)[0].columns["Acres"], "lot_sqft")
        # Between the two nobody can tell: it stays, and is said.
        found, (doubt,) = guessed("roll", parcel_number=tuple(range(10)), LotSize=tuple(300 + one for one in range(10)))
        self.assertEqual((found.columns["LotSize"], doubt.column), ("lot_sqft", "LotSize"))
        self.assertIn("Choose acres if they are acres", doubt.said)
        # Too few tell nothing.
        self.assertEqual(guessed("roll", parcel_number=(1, 2), LotSize=(0.2, 0.3))[0].columns["LotSize"], "lot_sqft")

    def test_square_feet_after_import(self) -> None:
        text = sheet("parcel_number,LotSize,GrLivArea", tuple(range(1, 11)), LOTS, (95, 110, 120, 88, 140, 77, 101, 99, 130, 85))
        said = self.intake(text, "--county", "Pike, WI", "--kind", "roll")
        self.assertIn("LotSize → lot_acres", said)
        self.assertIn("Check GrLivArea: half of the houses are below 100 square feet", said)
        self.assertEqual(sorted(RollEntry.objects.values_list("lot_sqft", flat=True))[0], round(0.17 * 43_560))

    def test_prices_in_thousands_and_rates_as_shares(self) -> None:
        days = ("2026-05-01",) * 9
        found, (doubt,) = guessed(
            "deeds", parcel_number=tuple(range(9)), recorded_on=days, Price=(210, 185, 92, 340, 155, 260, 198, 77, 410)
        )
        self.assertEqual(found.times, {"price": "1000"})
        self.assertIn("read as thousands", doubt.said)
        dollars = tuple(1_000 * one for one in range(90, 99))
        self.assertEqual(guessed("deeds", parcel_number=tuple(range(9)), recorded_on=days, Price=dollars)[0].times, {})
        shares = (0.065, 0.0725, 0.05, 0.055, 0.06, 0.0475, 0.07, 0.068, 0.061)
        found, (doubt,) = guessed("loans", parcel_number=tuple(range(9)), recorded_on=days, rate=shares)
        self.assertEqual((found.times, doubt.column), ({"rate": "100"}, "rate"))
        percent = tuple(100 * one for one in shares)
        self.assertEqual(guessed("loans", parcel_number=tuple(range(9)), recorded_on=days, rate=percent), (
            guessed("loans", parcel_number=tuple(range(9)), recorded_on=days, rate=percent)[0], [],
        ))  # fmt: skip

    def test_days_first(self) -> None:
        days = ("24/11/2025", "03/02/2025", "28/01/2025", "07.06.2025", "30-09-2025", "11/12/2025", "05/05/2025", "19/08/2025")
        self.assertTrue(is_day_first(days))
        self.assertFalse(is_day_first(("11/24/2025", "02/03/2025")))
        # What can be read in one way only in some rows, and in the other only in others, is neither.
        self.assertFalse(is_day_first(("11/24/2025", "24/11/2025")))
        found, (doubt,) = guessed("deeds", parcel_number=tuple(range(8)), RecDate=days, price=tuple(range(90_000, 90_008)))
        self.assertEqual((found.day_first, doubt.said), (("recorded_on",), "RecDate: dates are read day first, as 24/11/2026 is."))
        row = Translator(KINDS["deeds"], found).cells({"RecDate": "07.06.2025", "parcel_number": "1", "price": "1"}, 1)
        self.assertEqual(row["recorded_on"], "06/07/2025")
        either = tuple(f"{1 + one:02d}/{2 + one:02d}/2025" for one in range(8))
        found, (doubt,) = guessed("deeds", parcel_number=tuple(range(8)), recorded_on=either, price=tuple(range(90_000, 90_008)))
        self.assertEqual(found.day_first, ())
        self.assertIn("and is read month first", doubt.said)
        mapping = {"columns": {}, "day_first": ["recorded_on"]}
        self.assertEqual(column_map_from(mapping, KINDS["deeds"]).as_json()["day_first"], ("recorded_on",))
        with self.assertRaises(MappingError):
            column_map_from({"day_first": ["nothing"]}, KINDS["deeds"])
        numbers = tuple(range(1, 9))
        self.intake(
            sheet("parcel_number,RecDate,price", numbers, days, (90_000,) * 8),
            "--county",
            "Pike, WI",
            "--kind",
            "deeds",
            "--begin-parcels",
        )
        self.assertEqual(Transfer.objects.get(parcels__number="4").recorded_on.isoformat(), "2025-06-07")

    def test_cities_zips_and_kinds_of_building(self) -> None:
        text = sheet("parcel_number,address,city,zip,type", (1, 2, 3), ("1 Fern Rd", "2 Fern Rd", "3 Fern Rd"),
                     ("NORTH_FALLS", "Brant", "Brant"), ("z53391", "53391", "5339"), ("Residential", "Condo", "Multi_Family"))  # fmt: skip
        said = self.intake(text, "--county", "Pike, WI", "--kind", "roll")
        self.assertIn("type → class", said)
        self.assertIn("is not a ZIP Code of five digits", said)
        self.assertEqual(RollEntry.objects.get(parcel__number="3").situs.address.zip5, "")
        self.assertIsNone(RollEntry.objects.get(parcel__number="3").zip)
        first = RollEntry.objects.get(parcel__number="1").situs
        self.assertEqual((first.address.city, first.address.zip5), ("NORTH FALLS", "53391"))


class SaidBefore(FilesCase):
    def test_a_dry_run_says_what_the_run_says(self) -> None:
        text = sheet("parcel_number,beds", (1, 2, 2, 4), (3, "many", 2, 2))
        dry = self.intake(text, "--county", "Pike, WI", "--kind", "roll", "--dry-run")
        self.assertFalse(Parcel.objects.exists() or SourceFile.objects.exists())
        self.assertEqual(dry, self.intake(text, "--county", "Pike, WI", "--kind", "roll"))
        self.assertIn("beds 'many': is not a number", dry)

    def test_a_missing_column_names_what_else_would_do(self) -> None:
        for more in ((), ("--dry-run",)):
            with self.assertRaises(CommandError) as raised:
                self.intake("price\n90000\n", "--county", "Pike, WI", "--kind", "deeds", *more)
            self.assertIn("has no column parcel_number (or address), recorded_on (or sold_on)", str(raised.exception))

    def test_documents_without_a_number_are_told_apart_by_what_they_say(self) -> None:
        text = sheet(
            "parcel_number,document_number,recorded_on,price", (1, 1, 1), ("", "", ""), ("2025-05-01",) * 3, (90_000, 250_000, 250_000)
        )
        said = self.intake(text, "--county", "Pike, WI", "--kind", "deeds", "--begin-parcels")
        self.assertIn("3 read, 2 new, 0 changed, 0 same, 1 refused", said)
        self.assertEqual(sorted(Transfer.objects.values_list("price", flat=True)), [90_000, 250_000])
        # The same file again says nothing new.
        self.assertIn("3 read, 0 new, 0 changed, 2 same, 1 refused", self.intake(text, "--county", "Pike", "--kind", "deeds"))


class WithoutParcel(FilesCase):
    ADDRESSES = ("2168 County Road K", "2200 County Road K", "14 Lantern St", "18 Lantern St")
    ROLL = sheet("parcel_number,address,city,zip", (1, 2, 3, 4), ADDRESSES, ("Corvid Falls",) * 4, (53_391,) * 4)
    LISTINGS = """\
ListingId,OriginatingSystemName,StandardStatus,UnparsedAddress,City,PostalCode,ListPrice
A1,NORTH,Active,"2168 County Road K, Corvid Falls",Corvid Falls,53391,210000
A2,NORTH,Active,"14 Lantern St Corvid Falls",Corvid Falls,53391,150000
A3,NORTH,Active,2190 County Road K,Corvid Falls,53391,99000
A4,NORTH,Active,9 Nowhere Ln,Corvid Falls,53391,88000
"""

    def test_every_one_is_counted_and_listed_with_the_nearest(self) -> None:
        self.intake(self.ROLL, "--county", "Pike, WI", "--kind", "roll")
        said = self.intake(self.LISTINGS, "--county", "Pike", "--kind", "listings")
        self.assertEqual(set(Listing.objects.exclude(parcel=None).values_list("listing_id", flat=True)), {"A1", "A2"})
        self.assertIn("is no address on record; nearest: 2200 COUNTY ROAD K (2), 2168 COUNTY ROAD K (1)", said)
        self.assertIn("'9 Nowhere Ln': is no address on record", said)
        file = SourceFile.objects.get(kind="listings")
        self.assertEqual((file.read, file.refused, file.doubtful), (4, 0, 2))
        self.client.force_login(self.user)
        page = page_text(self.client.get(reverse("intake:file", args=[file.pk])).content)
        for text in ("2190 County Road K", "2200 COUNTY ROAD K (2)", "9 Nowhere Ln"):
            self.assertIn(text, page)
        # Under one reason, whatever lies nearest to each; all are read in a few statements.
        (reason,) = by_reason(file)
        self.assertEqual((reason["why"], reason["rows"]), ("is no address on record", 2))
        self.assertEqual(of_reason(open_refusals(file), "UnparsedAddress", reason["why"], is_doubtful=True).count(), 2)
        book, lost = (
            AddressBook(County.objects.get()),
            [standardize(f"{number} County Road K", city="Corvid Falls") for number in range(1, 90)],
        )
        with self.assertNumQueries(4):
            found = book.find(lost)
        self.assertTrue(all("nearest: 2168 COUNTY ROAD K (1)" in one.why_not for one in found.values()))
