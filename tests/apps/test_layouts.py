"""How files are laid out: found in them, as counties and listing services write them, and what can't be read."""

from __future__ import annotations

import csv
import io
import json
import random
import re
import tempfile
import zipfile
from dataclasses import replace
from pathlib import Path
from unittest.mock import patch

import pyproj
import shapefile
from django.test import SimpleTestCase
from openpyxl import Workbook

from jaded_ledger.intake import limits, readers
from jaded_ledger.intake.bounded_json import BoundedJson, TooDeepError
from jaded_ledger.intake.layouts import DELIMITERS, Form, find_layout
from jaded_ledger.intake.limits import UnreadableFileError
from jaded_ledger.intake.readers import RawRow, read

ROWS = [
    ["PIN", "OWNER", "SITUS ADDRESS", "SALE DATE", "PRICE"],
    *([f"12-001-{n:03d}", "MÜLLER, JOSÉ & HELEN", f"{n} PEÑA ST", f"{n % 12 + 1}/4/2024", f"{n * 1250:,}.00"] for n in range(1, 60)),
]


class FileCase(SimpleTestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def written(self, content: bytes, name: str = "file.txt") -> Path:
        path = self.folder / name
        path.write_bytes(content)
        return path

    def rows(self, content: bytes, name: str = "file.txt", **said: object) -> list[RawRow]:
        path = self.written(content, name)
        return list(read(path, find_layout(path).corrected(said)))

    def assert_unreadable(self, said: str, content: bytes, name: str = "file.txt", **layout: object) -> None:
        with self.assertRaisesRegex(UnreadableFileError, said):
            self.rows(content, name, **layout)


class Text(FileCase):
    def test_every_delimiter_in_every_encoding(self) -> None:
        for delimiter in DELIMITERS:
            out = io.StringIO()
            csv.writer(out, delimiter=delimiter).writerows(ROWS)
            for encoding in ("utf-8", "utf-8-sig", "utf-16", "cp1252", "latin-1", "mac_roman", "cp437"):
                with self.subTest(f"{delimiter!r} in {encoding}"):
                    found = self.rows(out.getvalue().encode(encoding))
                    self.assertEqual([list(row.cells.values()) for row in found], ROWS[1:])
                    self.assertEqual(found[0].cells["OWNER"], "MÜLLER, JOSÉ & HELEN")

    def test_an_accent_far_down_tells_the_encoding(self) -> None:
        text = "owner;street\n" + "OSTROM HELEN;MAIN ST\n" * 20_000 + "GARCÍA JOSÉ;PEÑA ST\n" * 5
        self.assertEqual(self.rows(text.encode("cp1252"))[-1].cells, {"owner": "GARCÍA JOSÉ", "street": "PEÑA ST"})

    def test_line_ends_and_quoted_breaks(self) -> None:
        for end in ("\n", "\r\n", "\r"):
            text = end.join(["id,remarks", f'1,"two{end}lines, and ""quotes"""', "", "2,plain"])
            found = self.rows(text.encode())
            self.assertEqual([(row.number, row.cells["id"]) for row in found], [(2, "1"), (5, "2")], repr(end))
            self.assertIn('and "quotes"', found[0].cells["remarks"])

    def test_a_title_above_the_header(self) -> None:
        text = "REGISTER OF DEEDS\n\nPrinted 24 Nov 2026,\nDOC,PRICE,GRANTOR\nD1,100,A\nD2,200,B\n"
        self.assertEqual([(row.number, row.cells["DOC"]) for row in self.rows(text.encode())], [(5, "D1"), (6, "D2")])
        by_hand = self.rows(b"a,b\nDOC,PRICE\nD1,1\n", header_line=2)
        self.assertEqual([row.cells for row in by_hand], [{"DOC": "D1", "PRICE": "1"}])

    def test_headers_that_repeat_or_are_blank(self) -> None:
        (row,) = self.rows(b"OWNER,OWNER,,OWNER\nA,B,C,D\n")
        self.assertEqual(row.cells, {"OWNER": "A", "OWNER (2)": "B", "column 3": "C", "OWNER (3)": "D"})

    def test_rows_too_long_and_too_short(self) -> None:
        found = self.rows(b"a,b,c\n1,2,3\n1,2,3,4\n1,2,3,,\n1\n")
        self.assertEqual([row.fault for row in found], ["", "has 4 cells under 3 columns", "", ""])
        self.assertEqual(found[3].cells, {"a": "1", "b": "", "c": ""})

    def test_a_quotation_mark_that_is_never_closed(self) -> None:
        self.assert_unreadable("line 3: a quotation mark is opened here and never closed", b'a,b\n1,2\n3,"four\n5,6\n7,8\n')
        self.addCleanup(csv.field_size_limit, csv.field_size_limit(200))
        self.assert_unreadable("line 2: field larger.*quotation mark", b'a,b\n1,"' + b"x" * 500 + b'"\n')

    def test_what_is_no_text(self) -> None:
        self.assert_unreadable("is empty", b"")
        self.assert_unreadable("is empty", b"\r\n \r\n")
        self.assert_unreadable("neither text", bytes(range(1, 32)) * 20)
        self.assert_unreadable("old kind", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(600))

    def test_an_encoding_that_does_not_fit(self) -> None:
        self.assert_unreadable("can't be read in UTF-8.*Choose another", "a,b\nJOSÉ,1\n".encode("latin-1"), encoding="utf_8_sig")

    def test_limits(self) -> None:
        with patch.object(readers, "LIMITS", replace(limits.LIMITS, rows=3, columns=4)):
            self.assert_unreadable("more than 3 rows", b"a\n1\n2\n3\n4\n")
            self.assert_unreadable("more than 4 columns", b"a,b,c,d,e\n1,2,3,4,5\n")
        with self.assertRaisesRegex(UnreadableFileError, "at most 0 MB are taken. Split it"):
            find_layout(self.written(b"a,b\n" * 10), replace(limits.LIMITS, size=10))


class Workbooks(FileCase):
    def workbook(self) -> bytes:
        book = Workbook()
        book.active.title = "Notes"
        book.active.append(["nothing here"])
        sheet = book.create_sheet("Permits")
        for row in (["City of Alder Bay"], [], ["Number", "Issued", "Cost", None], ["B1", "2026-03-04", 12.5, None], ["B2", None, 3.0]):
            sheet.append(row)
        out = io.BytesIO()
        book.save(out)
        return out.getvalue()

    def changed(self, wrong: bytes, right: bytes) -> bytes:
        """Return the workbook with something else in its parts, by an expression."""
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(self.workbook())) as source, zipfile.ZipFile(out, "w") as target:
            for name in source.namelist():
                target.writestr(name, re.sub(wrong, right, source.read(name)))
        return out.getvalue()

    def test_a_row_numbered_beyond_all_rows(self) -> None:
        far = self.changed(rb'r="([A-C]?)5"', rb'r="\g<1>99999999999"')
        self.assert_unreadable("a row beyond the last", far, "permits.xlsx", sheet="Permits", header_line=3)

    def test_what_a_sheet_says_of_its_size_is_not_believed(self) -> None:
        small = self.changed(rb'dimension ref="[^"]*"', rb'dimension ref="A1:A3"')
        found = self.rows(small, "permits.xlsx", sheet="Permits", header_line=3)
        self.assertEqual([row.cells["Cost"] for row in found], ["12.5", "3"])

    def test_what_is_wrong_is_said_in_a_line_without_where_it_lies(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            self.rows(self.changed(rb"<worksheet ", b'<!DOCTYPE x [<!ENTITY a "a">]><worksheet '), "permits.xlsx")
        self.assertNotIn(str(self.folder), str(caught.exception))
        self.assertNotIn("\n", str(caught.exception))

    def test_a_sheet_and_a_header_below_a_title(self) -> None:
        found = self.rows(self.workbook(), "permits.xlsx", sheet="Permits", header_line=3)
        self.assertEqual([(row.number, row.cells) for row in found], [
            (4, {"Number": "B1", "Issued": "2026-03-04", "Cost": "12.5"}), (5, {"Number": "B2", "Issued": "", "Cost": "3"}),
        ])  # fmt: skip
        with self.assertRaisesRegex(ValueError, "no sheet 'Deeds'; the workbook has Notes, Permits"):
            self.rows(self.workbook(), "permits.xlsx", sheet="Deeds")

    def test_by_its_content_whatever_it_is_called(self) -> None:
        self.assertEqual(find_layout(self.written(self.workbook(), "permits.csv")).form, Form.WORKBOOK)


class Zips(FileCase):
    def zipped(self, **members: bytes) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as files:
            for name, content in members.items():
                files.writestr(name, content)
        return out.getvalue()

    def test_a_bomb(self) -> None:
        self.assert_unreadable("would unpack to 50 MB, .* times its size", self.zipped(picture=bytes(50_000_000)), "bomb.zip")
        workbook = self.zipped(**{"[Content_Types].xml": b"<a/>", "xl/worksheets/sheet1.xml": b" " * 60_000_000})
        self.assert_unreadable("would unpack to 60 MB", workbook, "bomb.xlsx")

    def test_cut_off_or_locked(self) -> None:
        whole = self.zipped(**{"a/1 x.png": b"12345" * 400})
        self.assert_unreadable("can't be read as a zip", whole[: len(whole) // 2], "cut.zip")
        damaged = whole.replace(b"12345", b"12346") if b"12345" in whole else whole[:45] + bytes([whole[45] ^ 0xFF]) + whole[46:]
        self.assert_unreadable("can't be read as a zip of pictures", damaged, "damaged.zip")
        # The first bit of the flags says that a member is encrypted (PKWARE APPNOTE 4.4.4).
        at = whole.index(b"PK\x01\x02") + 8
        self.assert_unreadable("locked with a password", whole[:at] + b"\x01" + whole[at + 1 :], "locked.zip")

    def test_a_shapefile_in_a_projection_comes_in_degrees(self) -> None:
        """Wisconsin's southern zone in survey feet, as many a county there publishes; PROJ says where it lies."""
        to_feet = pyproj.Transformer.from_crs(4326, 2289, always_xy=True)
        corners = [(-87.9, 43.03), (-87.9, 43.031), (-87.899, 43.031), (-87.899, 43.03), (-87.9, 43.03)]
        parts = {ending: io.BytesIO() for ending in ("shp", "shx", "dbf")}
        with shapefile.Writer(**parts, shapeType=shapefile.POLYGON, encoding="cp1252") as writer:
            writer.field("PIN", "C", size=20)
            writer.field("NAME", "C", size=20)
            writer.poly([[to_feet.transform(*corner) for corner in corners]])
            writer.record("12-001-001", "PEÑA")
        members = {f"parcels.{ending}": content.getvalue() for ending, content in parts.items()}
        members["parcels.prj"] = pyproj.CRS(2289).to_wkt("WKT1_ESRI").encode()
        (row,) = self.rows(self.zipped(**members, **{"parcels.cpg": b"cp1252"}), "parcels.zip")
        self.assertEqual((row.cells["pin"], row.cells["name"]), ("12-001-001", "PEÑA"))
        ring = json.loads(row.cells["geometry"])["coordinates"][0]
        for (east, north), corner in zip(ring, corners, strict=True):
            self.assertAlmostEqual(east, corner[0], places=6)
            self.assertAlmostEqual(north, corner[1], places=6)
        (bare,) = self.rows(self.zipped(**{k: v for k, v in members.items() if not k.endswith("prj")}), "parcels.zip")
        self.assertGreater(json.loads(bare.cells["geometry"])["coordinates"][0][0][0], 1_000_000)


class Depth(FileCase):
    def depth(self, text: bytes, size: int = -1) -> int:
        """Return how deep a text is nested when it is read in blocks of a size, by where the bound begins to hold."""

        def is_deeper(most: int) -> bool:
            bounded = BoundedJson(io.BytesIO(text), most, 1_000_000)
            try:
                while bounded.read(size):
                    pass
            except TooDeepError:
                return True
            return False

        return next(most for most in range(200) if not is_deeper(most))

    def test_brackets_count_outside_of_texts_only(self) -> None:
        for text, depth in (
            (b"{}", 1), (b"[[1], [2, [3]]]", 3), (b'{"a": "[[[[{{{{"}', 1), (rb'{"a": "\"[[[", "b": [1]}', 2), (rb'{"a\\": [1]}', 2),
            (rb'["\\\\", [[]]]', 3), (b"", 0), (b'"never closed [[[', 0),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(self.depth(text), depth)

    def test_a_text_is_told_across_blocks(self) -> None:
        # An escape, and a text, lie across the end of each block.
        text = rb'{"a\\\"[[": "{\\", "b": [[2]]}'
        for size in range(1, 12):
            with self.subTest(size):
                self.assertEqual(self.depth(text, size), 3)

    def test_as_json_itself_has_it(self) -> None:
        """Against the standard library's parser, over objects at random."""
        rng = random.Random(7)

        def made(depth: int) -> object:
            if depth == 0:
                return rng.choice(["]", '[{"', "\\", 'a"b', 1, None])
            inner = [made(depth - 1), *(made(rng.randrange(depth)) for _ in range(rng.randrange(3)))]
            return inner if rng.random() < 0.5 else {f"k{place}[": one for place, one in enumerate(inner)}

        for depth in range(1, 9):
            text = json.dumps(made(depth)).encode()
            json.loads(text)
            self.assertEqual(self.depth(text), depth, text)

    def test_a_small_file_nested_deep_is_refused_before_it_is_read(self) -> None:
        deep = b'{"features": [{"properties": ' + b'{"a": ' * 50_000 + b"1" + b"}" * 50_000 + b"}]}"
        self.assert_unreadable("nested more than 64 deep", deep, "deep.geojson")
        unclosed = b'{"features": [' * 50_000
        self.assert_unreadable("nested more than 64 deep", unclosed, "deep.geojson")
        # As deep as a collection of collections of polygons, and what an office keeps beside it.
        path = self.written(b'{"features": [{"properties": {"a": ' + b"[" * 60 + b"]" * 60 + b"}}]}", "fair.geojson")
        self.assertEqual(len(list(read(path))), 1)
        path.write_bytes(path.read_bytes().replace(b"[" * 60, b"[" * 61).replace(b"]" * 60, b"]" * 61))
        with self.assertRaisesRegex(UnreadableFileError, "fair.geojson can't be read as GeoJSON: it is nested"):
            list(read(path))
