"""A county starts with whatever file there is: a roll without outlines, sales by address alone, a listing export.

The rows are of open data: the sales of Ames, Iowa (De Cock 2011, Journal of Statistics Education 19(3), as the R package modeldata
has them with coordinates) and of Grinnell, Iowa (Stat2Data, GrinnellHouses). The whole files were taken in by hand: docs/intake.md.
"""

from __future__ import annotations

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError
from django.urls import reverse

from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.find.results import rows
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.uploads import run
from jaded_ledger.lists import services
from jaded_ledger.records.models import County, Listing, Parcel, ParcelFacts, ParcelShape, RollEntry, SourceFile, Transfer
from tests.support.files import FilesCase
from tests.support.page_text import page_text

AMES = """\
MS_Zoning,Lot_Frontage,Lot_Area,Street,Neighborhood,Bldg_Type,Year_Built,Gr_Liv_Area,Full_Bath,Bedroom_AbvGr,Mo_Sold,Year_Sold,Sale_Price,\
Longitude,Latitude
Residential_Low_Density,141,31770,Pave,North_Ames,OneFam,1960,1656,1,3,5,2010,215000,-93.619754,42.054035
Residential_High_Density,80,11622,Pave,North_Ames,OneFam,1961,896,1,2,6,2010,105000,-93.619756,42.053014
Residential_Low_Density,81,14267,Pave,North_Ames,OneFam,1958,1329,1,3,6,2010,172000,-93.6193873,42.052659
Residential_Low_Density,77,11198,Pave,Stone_Brook,OneFam,2005,2504,2,4,6,2008,325000,-93.628901,42.06056
"""
GRINNELL = """\
rownames,Date,Address,Bedrooms,Baths,SquareFeet,LotSize,YearBuilt,YearSold,MonthSold,DaySold,CostPerSqFt,OrigPrice,ListPrice,SalePrice,SPLPPct
1,16695,1510 First Ave #112 ,2,1.0,1120.0,,1993,2005,9,16,6.25,17000,10500,7000,66.67
2,16880,1020 Center St ,3,1.0,1224.0,0.172176309,1900,2006,3,20,22.06,35000,35000,27000,77.14
59,16706,611 Pearl St ,3,1.5,880.0,,1982,2005,9,27,113.64,105000,105000,100000,95.24
538,18443,611 Pearl Street ,3,1.5,880.0,0.172176309,1982,2010,6,30,133.52,124000,124000,117500,94.76
"""
LISTINGS = """\
ListingId,OriginatingSystemName,StandardStatus,UnparsedAddress,UnitNumber,City,PostalCode,ListPrice,BedroomsTotal
A1,NORTH,Active,12 Lantern Street,,Alder,53301,210000,3
A2,NORTH,Active,14 Lantern St,4,Alder,53301,150000,2
"""


class Rolls(FilesCase):
    def test_numbered_by_their_rows_with_a_month_and_a_point(self) -> None:
        said = self.intake(AMES, "--county", "Story, IA", "--dry-run")
        self.assertIn("looks like assessment roll", said)
        self.assertIn("the row's own number → parcel_number", said)
        self.assertFalse(County.objects.exists() or SourceFile.objects.exists())
        self.assertIn("4 read, 4 new, 0 changed, 0 same, 0 refused", self.intake(AMES, "--county", "Story, IA"))
        county = County.objects.get()
        self.assertEqual((county.name, county.state, county.fips, county.mask.is_free), ("Story", "IA", None, True))
        self.assertEqual(self.numbers("beds: 3+"), ["2", "4", "5"])
        # What paves a street is none.
        self.assertEqual(RollEntry.objects.exclude(street=None).count(), 0)
        first = Parcel.objects.get(number="2")
        self.assertEqual((first.point.y, first.point.x), (42.054035, -93.619754))
        self.assertFalse(ParcelShape.objects.exists())
        # The same file again, for what it says of sales.
        said = self.intake(AMES, "--county", "Story", "--kind", "deeds")
        self.assertIn("4 read, 4 new, 0 changed, 0 same, 0 refused", said)
        self.assertEqual(self.numbers("last-sale: 2010"), ["2", "3", "4"])
        deed = Transfer.objects.get(parcels=first)
        self.assertEqual((deed.sold_on.isoformat(), deed.recorded_on.isoformat(), deed.price), ("2010-05-01", "2010-05-01", 215_000))
        self.assertEqual(deed.further["sold_on as filed"], "5 2010 (no day)")
        # A county has its parcels once it has some: the next roll begins none unless that is said.
        more = self.intake(AMES + AMES.splitlines()[1], "--county", "Story", "--kind", "roll")
        self.assertIn("is not on record; take in the parcels first, or have this file begin them", more)
        self.client.force_login(self.user)
        page = page_text(self.client.get(reverse("properties:property", args=[first.pk])).content)
        self.assertIn("No outline of this parcel is on record", page)

    def test_asked_not_to_begin(self) -> None:
        with self.assertRaises(SystemExit):
            self.intake(AMES, "--county", "Story, IA", "--kind", "roll", "--no-begin-parcels", "--mapping", self.mapping())
        self.assertFalse(Parcel.objects.exists())

    def mapping(self) -> str:
        path = self.folder / "map.json"
        path.write_text('{"columns": {"Bedroom_AbvGr": "beds"}, "fixed": {"parcel_number": "{row}"}}')
        return str(path)

    def test_a_county_that_is_named_without_its_state_is_asked_for(self) -> None:
        with self.assertRaisesRegex(CommandError, "To add it, say its state: --county 'Story' --state XX"):
            self.intake(AMES, "--county", "Story", "--kind", "roll")
        with self.assertRaisesRegex(CommandError, "no county on record; name one"):
            self.intake(AMES, "--kind", "roll")

    def test_numbers_of_one_form_are_read_so(self) -> None:
        said = self.intake("PIN,Bedrooms\n12-034-007,3\n12-035-118,2\n", "--county", "Alder", "--state", "wi")
        self.assertIn("its parcel numbers are read as NN-NNN-NNN", said)
        self.assertEqual(self.numbers("parcel-number: 12-34-*"), ["12-034-007"])


class Addresses(FilesCase):
    def test_one_parcel_a_door_found_again_by_its_address(self) -> None:
        said = self.intake(GRINNELL, "--county", "Poweshiek, IA")
        self.assertIn("Address '611 Pearl Street ': stands in this file more than once", said)
        self.assertEqual(
            sorted(Parcel.objects.values_list("number", flat=True)),
            ["no number yet: 1020 CENTER ST", "no number yet: 1510 FIRST AVE # 112", "no number yet: 611 PEARL ST"],
        )
        said = self.intake(GRINNELL + "9,1,1022 Center St,2,1,,,,2011,5,6,,,,9,\n", "--county", "Poweshiek", "--kind", "deeds")
        self.assertIn("5 read, 4 new", said)
        self.assertIn("is no address on record", said)
        twice = Transfer.objects.filter(parcels__number__contains="611 PEARL").values_list("sold_on", flat=True)
        self.assertEqual(sorted(day.isoformat() for day in twice), ["2005-09-27", "2010-06-30"])
        # A slip of the hand is told with the nearest.
        said = self.intake("Address,SalePrice,Sale Date\n611 Perl St,5,2012-01-02\n", "--county", "Poweshiek", "--kind", "deeds")
        self.assertIn("nearest: 611 PEARL ST (no number yet: 611 PEARL ST)", said)

    def intake(self, *words: str, **more: str) -> str:
        """Take in a file; of one whose every row is refused return why."""
        try:
            return super().intake(*words, **more)
        except SystemExit:
            return "; ".join(one.reason for one in SourceFile.objects.latest("id").refusals.all())

    def test_a_listing_begins_a_parcel_that_goes_on_under_its_number(self) -> None:
        self.assertIn("2 read, 2 new", self.intake(LISTINGS, "--county", "Alder, WI", "--kind", "listings"))
        self.assertEqual(self.numbers("status: active"), ["no number yet: 12 LANTERN ST", "no number yet: 14 LANTERN ST # 4"])
        first = Parcel.objects.get(number__contains="12 LANTERN")
        self.assertEqual([row.address for row in rows(ParcelFacts.objects.filter(pk=first.pk), (), "", 1)], ["12 Lantern St"])
        scope = scope_of_command()
        kept = services.make_list(scope, "Spring letters")
        services.add(scope, kept, [first.pk])
        services.tag(scope, "corner", [first.pk])
        services.set_stage(scope, "comping", [first.pk])
        # The roll comes, with numbers and the same address, otherwise written.
        roll = "parcel_number,address,zip,beds,owner\n12-1,12 LANTERN ST,53301,3,OSTROM HELEN\n12-2,14 LANTERN ST,53301,2,LARK ADA\n"
        said = self.intake(roll, "--county", "Alder", "--kind", "roll", "--begin-parcels")
        self.assertIn("2 read, 2 new", said)
        first.refresh_from_db()
        numbered = Parcel.objects.get(number="12-1")
        self.assertEqual((first.retired_on is not None, list(first.successors.all())), (True, [numbered]))
        self.assertEqual(Listing.objects.get(listing_id="A1", superseded_at=None).parcel, numbered)
        for asked in ('on-list: any of "spring letters"', 'tag: any of "corner"', 'stage: any of "comping"', "list-price: 210000"):
            self.assertEqual(self.numbers(asked), ["12-1"], asked)
        # Another unit of a building is another door.
        self.assertEqual(Parcel.objects.get(number__contains="# 4").retired_on, None)
        self.assertFalse(ParcelFacts.objects.filter(pk=first.pk).exists())

    def test_an_outline_comes_later(self) -> None:
        self.intake("PIN,Bedrooms\n12-1,3\n", "--county", "Alder, WI", "--kind", "roll")
        square = '{"type":"Polygon","coordinates":[[[-88,43],[-88,43.001],[-88.001,43.001],[-88,43]]]}'
        self.intake(f"parcel_number;geometry\n12-1;{square}\n", "--county", "Alder", "--kind", "parcels", name="outlines.csv")
        self.assertEqual(ParcelShape.objects.get().parcel.number, "12-1")
        self.assertEqual(Parcel.objects.count(), 1)


class OnThePage(FilesCase):
    def brought(self, text: str) -> Upload:
        self.client.post(reverse("intake:bring"), {"file": SimpleUploadedFile("ames.csv", text.encode())})
        return Upload.objects.latest("id")

    def test_it_is_offered_and_on_while_there_are_none(self) -> None:
        self.client.force_login(self.user)
        county = {"name": "Story", "state": "IA", "parcel_number_mask": "*", "assessment_ratio": "1", "relisting_gap_days": "30"}
        self.client.post(reverse("intake:add-county"), county)
        upload = self.brought(AMES)
        address = reverse("intake:upload", args=[upload.pk])
        page = self.client.get(address)
        self.assertContains(page, 'id="begins" checked')
        self.assertIn("4 begin a parcel that is not on record", page_text(page.content))
        self.assertEqual(self.client.post(address, {"do": "take"}).status_code, 302)
        run(upload.pk)
        upload.refresh_from_db()
        self.assertEqual((upload.error, upload.source_file.new), ("", 4))
        again = self.brought(AMES.replace("Pave", "Grvl"))
        page = self.client.get(reverse("intake:upload", args=[again.pk]))
        self.assertNotContains(page, 'id="begins" checked')
        said = {"says_begins": "1", "begins": "1", "kind": "roll", "county": County.objects.get().pk, "as_of": again.as_of}
        self.assertContains(self.client.post(reverse("intake:upload", args=[again.pk]), said), 'id="begins" checked')
