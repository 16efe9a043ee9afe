"""Each form of file that can be taken in: as it is written elsewhere, and with what goes wrong in it."""

from __future__ import annotations

import io
import json
import zipfile
from datetime import UTC, date, datetime
from pathlib import Path

import shapefile
from openpyxl import Workbook
from PIL import Image

from jaded_ledger.intake.readers import UnreadableFileError, read
from jaded_ledger.intake.services import IntakeError, IntakeOptions, take_in
from jaded_ledger.records.models import Contact, Listing, MapFeature, Parcel, Permit, Photograph, RollEntry, StoredImage
from tests.support.files import DAY, FileCase
from tests.support.tiers import thorough


class Workbooks(FileCase):
    def test_typed_cells(self) -> None:
        """Dates as dates or words, figures as numbers or words, a formula's result, blank rows between."""
        # As a sheet has it: without a zone.
        noon = datetime(2026, 3, 4, 12, tzinfo=UTC).replace(tzinfo=None)
        book = Workbook()
        sheet = book.active
        for row in (
            ["parcel_number", "number", "kind", "issued_on", "closed_on", "cost", "description"],
            ["12-001-001", "B1", "roof", noon, date(2026, 4, 5), 12500.0, "Tear off"],
            [None] * 7,
            ["12-001-001", "B2", "roof", "3/4/2026", None, "$8,250", 5],
            ["12-001-001", "B3", "roof", "last spring", None, 1, ""],
            ["12-001-001", "B4", "roof", date(2026, 5, 1), date(2026, 4, 1), 1, ""],
        ):
            sheet.append(row)
        path = self.folder / "permits.xlsx"
        book.save(path)
        file = self.take("permits", path)
        self.assertEqual((file.read, file.new, file.refused, file.doubtful), (4, 3, 1, 1))
        self.assertEqual(
            self.reasons(file),
            {5: "issued_on: is not a date such as 2026-11-24 or 11/24/2026", 6: "closed_on: closed on lies before issued on"},
        )
        first, second, _ = Permit.objects.filter(source_file=file).order_by("number")
        self.assertEqual((first.issued_on, first.closed_on, first.cost, first.source_line), (date(2026, 3, 4), date(2026, 4, 5), 12500, 2))
        self.assertEqual((second.issued_on, second.cost, second.description, second.source_line), (date(2026, 3, 4), 8250, "5", 4))

    def test_what_is_no_workbook(self) -> None:
        empty = self.folder / "empty.xlsx"
        Workbook().save(empty)
        for path, said in (
            (self.written("a.xlsx", "a,b\n"), "can't be read as an Excel workbook"),
            (empty, "is empty"),
            (self.written("a.doc", b"\xd0\xcf\x11\xe0 and more"), "neither text|can be read|old kind"),
        ):
            with self.assertRaisesRegex(IntakeError, said):
                self.take("permits", path)


class Shapefiles(FileCase):
    def zipped(self, name: str, shapes: list[tuple[list, dict]], kind: int, *, without: str = "") -> Path:
        parts = {ending: io.BytesIO() for ending in ("shp", "shx", "dbf")}
        with shapefile.Writer(**parts, shapeType=kind) as writer:
            for field in ("layer", "number", "name", "class_code", "is_barrier"):
                writer.field(field.upper(), "C", size=40)
            for points, record in shapes:
                (writer.poly if kind == shapefile.POLYGON else writer.line)(points)
                writer.record(**{key.upper(): value for key, value in record.items()})
        path = self.folder / name
        with zipfile.ZipFile(path, "w") as files:
            for ending, content in parts.items():
                if ending != without:
                    files.writestr(f"some folder/roads.{ending}", content.getvalue())
        return path

    @thorough
    def test_lines(self) -> None:
        road = {"layer": "road", "number": "R1", "name": "NEW ST", "class_code": "local", "is_barrier": "no"}
        line = [[[-86.9, 43.6], [-86.89, 43.6]]]
        path = self.zipped("layers.zip", [
            (line, road), (line, road | {"number": "R2", "layer": "Flood zone"}), (line, road | {"number": "R3", "layer": "canal"}),
            (line, road | {"number": ""}), ([[[500000, 43], [500001, 43]]], road | {"number": "R5"}),
        ], shapefile.POLYLINE)  # fmt: skip
        file = self.take("layers", path)
        self.assertEqual(file.new, 2)
        self.assertEqual(set(self.reasons(file)), {3, 4, 5})
        self.assertIn("degrees", self.reasons(file)[5])
        feature = MapFeature.objects.get(number="R1", superseded_at=None)
        self.assertEqual(
            (feature.name, feature.is_barrier, feature.geometry.geom_type, feature.drawn.srid), ("NEW ST", False, "LineString", 3857)
        )
        self.assertEqual(MapFeature.objects.get(number="R2", superseded_at=None).layer, "flood-zone")

    def test_a_shapefile_with_a_part_missing(self) -> None:
        path = self.zipped("layers.zip", [], shapefile.POLYLINE, without="dbf")
        with self.assertRaisesRegex(IntakeError, "can't be read as a zipped Shapefile"):
            self.take("layers", path)
        with self.assertRaisesRegex(IntakeError, "can't be read as a zip"):
            self.take("layers", self.written("broken.zip", b"PK\x03\x04 and then nothing"))


class Photographs(FileCase):
    def image(self, form: str) -> bytes:
        out = io.BytesIO()
        Image.new("RGB", (8, 6), (120, 90, 60)).save(out, form)
        return out.getvalue()

    def many_pixels(self) -> bytes:
        out = io.BytesIO()
        Image.new("1", (10_000, 5_001)).save(out, "PNG")
        return out.getvalue()

    def test_folders_named_by_listing_or_parcel(self) -> None:
        listing = Listing.objects.filter(county=self.county, parcel__isnull=False).first()
        path = self.folder / "photographs.zip"
        with zipfile.ZipFile(path, "w") as files:
            for name, content in (
                (f"{listing.listing_id}/11 rear porch.jpg", self.image("JPEG")), ("12-001-001/1_front.png", self.image("PNG")),
                ("12-001-001/2.webp", self.image("WEBP")), ("12-001-001/front.png", self.image("PNG")), ("nowhere/1 x.png",
                self.image("PNG")), ("12-001-001/5 x.png", self.many_pixels()),
                ("12-001-001/3 note.png", b"<svg onload='x()'/>"), ("12-001-001/4 x.gif", self.image("GIF")),
            ):  # fmt: skip
                files.writestr(name, content)
        before = StoredImage.objects.count()
        file = self.take("photographs", path)
        self.assertEqual((file.read, file.new, file.refused), (8, 3, 5))
        reasons = " ".join(self.reasons(file).values())
        for said in (
            "neither a listing nor a parcel",
            "not an image",
            "none of PNG, JPEG, WEBP",
            "more than 50 megapixels",
            "order: is blank",
        ):
            self.assertIn(said, reasons)
        found = {
            (photograph.listing_id, photograph.order, photograph.caption, photograph.parcel_id)
            for photograph in Photograph.objects.filter(source_file=file)
        }
        parcel = Parcel.objects.get(county=self.county, number="12-001-001").pk
        self.assertEqual(found, {(listing.listing_id, 11, "rear porch", None), ("", 1, "front", parcel), ("", 2, "", parcel)})
        self.assertEqual(StoredImage.objects.count(), before + 3)
        self.assertEqual(self.take("photographs", path).same, 3)
        self.assertEqual(StoredImage.objects.count(), before + 3)


class Contacts(FileCase):
    def test_numbers_are_kept_in_one_form(self) -> None:
        """Written as people write them; kept as E.164 (ITU-T), which the package phonenumbers computes."""
        rows = [
            "12-001-001,telephone,(414) 555-0123,card,no", "12-001-001,telephone,+1 414-555-0123,card,no",
            "12-001-001,e-mail,A.B@example.com,card,yes",
            "12-001-001,e-mail,not an address,card,no", "12-001-001,telephone,12,card,no", "12-001-001,fax,4145550123,card,no",
            "99-999-999,telephone,4145550124,card,no", "12-001-001,telephone,4145550125,,no", "12-001-001,telephone,call me,card,no",
        ]  # fmt: skip
        file = self.take("contacts", self.written("contacts.csv", "parcel_number,kind,value,source,do_not_contact\n" + "\n".join(rows)))
        reasons = self.reasons(file)
        self.assertEqual(set(reasons), {3, 5, 6, 7, 8, 9, 10})
        for line, said in {
            3: "more than once",
            5: "neither a telephone number",
            6: "not a telephone",
            7: "is none of",
            8: "has no owner",
            9: "is blank",
        }.items():
            self.assertIn(said, reasons[line])
        owner = RollEntry.objects.get(parcel__number="12-001-001", superseded_at=None).owner
        found = set(Contact.objects.filter(source_file=file).values_list("owner", "value", "do_not_contact"))
        self.assertEqual(found, {(owner.pk, "+14145550123", False), (owner.pk, "A.B@example.com", True)})


class Listings(FileCase):
    HEADER = "OriginatingSystemName,ListingId,ParcelNumber,StandardStatus,PropertyType,ListPrice,CloseDate,PublicRemarks"

    def test_a_listing_is_kept_without_its_parcel_and_keeps_the_day_it_was_first_seen(self) -> None:
        rows = 'S,X1,12-001-001,Active,Residential,250000,,"Two lines\nand \u201cquotes\u201d"\n'
        rows += "S,X2,77-777-777,active under contract,Land,,,\nS,X3,??,Gone,Land,1,,\nS,X4,,Closed,Land,1,,\n"
        file = self.take("listings", self.written("listings.csv", f"{self.HEADER}\n{rows}"))
        self.assertEqual((file.new, file.refused), (2, 2))
        self.assertEqual({reason.partition(":")[0] for reason in self.reasons(file).values()}, {"StandardStatus", "", "ParcelNumber"})
        first = Listing.objects.get(listing_id="X1", superseded_at=None)
        self.assertEqual(
            (first.parcel.number, first.first_seen_on, first.public_remarks), ("12-001-001", DAY, "Two lines\nand \u201cquotes\u201d")
        )
        second = Listing.objects.get(listing_id="X2", superseded_at=None)
        self.assertEqual((second.parcel, second.parcel_number, second.standard_status), (None, "77-777-777", "Active Under Contract"))
        again = take_in(
            self.written("listings.csv", f"{self.HEADER}\nS,X1,12-001-001,Pending,Residential,240000,,\n"),
            IntakeOptions("listings", self.county, date(2026, 11, 23)),
        )
        self.assertEqual(again.changed, 1)
        self.assertEqual(Listing.objects.get(listing_id="X1", superseded_at=None).first_seen_on, DAY)


class Geometry(FileCase):
    def test_outlines(self) -> None:
        square = [[0, 0], [0, 0.001], [0.001, 0.001], [0.001, 0], [0, 0]]
        bow = [[0, 0], [0.001, 0.001], [0.001, 0], [0, 0.001], [0, 0]]
        shapes = [
            ("12-001-001", {"type": "Polygon", "coordinates": [square]}), ("12-001-002", {"type": "Polygon", "coordinates": [bow]}),
            ("12-001-003", {"type": "Point", "coordinates": [0, 0]}), ("12-001-004", None), ("12-001-005", {"type": "Polygon",
            "coordinates": []}),
            ("12-001-006", {"type": "Polygon", "coordinates": [[[0, 0], ["x", 1]]]}), ("12-001-007", {"type": "Polygon",
            "coordinates": [[[500, 0], [501, 1], [0, 0]]]}),
            ("12-001-008", {"type": "MultiPolygon", "coordinates": [[square]]}), ("x", {"type": "Polygon", "coordinates": [square]}),
        ]  # fmt: skip
        features = [{"type": "Feature", "properties": {"parcel_number": number}, "geometry": shape} for number, shape in shapes]
        file = self.take("parcels", self.written("parcels.geojson", json.dumps({"type": "FeatureCollection", "features": features})))
        self.assertEqual(file.changed, 2)
        self.assertEqual(set(self.reasons(file)), {2, 3, 4, 5, 6, 7, 9})

    def test_broken_json(self) -> None:
        for text in ('{"type": "FeatureCollection", "features": [{"type": "Fea', '{"features": [x]}', "\xff"):
            with self.subTest(text), self.assertRaises(UnreadableFileError):
                list(read(self.written("a.geojson", text.encode("latin-1"))))
