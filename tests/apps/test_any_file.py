"""Files of every form, as nobody would write them: read or refused with a sentence, in memory that does not grow with the file."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
import sys
import tempfile
import unittest
import zipfile
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

import openpyxl
import shapefile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.db import transaction
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from jaded_ledger.core.criteria.search import Search
from jaded_ledger.find import compiler
from jaded_ledger.intake.bounded_json import TooLongError
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Form, Layout
from jaded_ledger.intake.limits import Limits, UnreadableFileError
from jaded_ledger.intake.mapping import MappingError, column_map_from
from jaded_ledger.intake.readers import read
from jaded_ledger.lists.import_members import import_file
from jaded_ledger.lists.messages import ListError
from jaded_ledger.maps.area_files import bring_areas
from jaded_ledger.maps.map_files import bring_map_file
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.worksheets.file_reading import FileError, read_file
from tests.support.any_text import any_json, any_text
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

FEW = settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
_BEGINNINGS = (
    b"", b"PK\x03\x04", b"%PDF-1.7\n", b"\x89PNG\r\n\x1a\n", b"RIFF\x10\x00\x00\x00WEBP", b"\xff\xd8\xff", b"II*\x00", b"MM\x00*",
    b"PMTiles\x03",
    b'{"type": "FeatureCollection", "features": [', b"parcel_number\n12-001-001\n", b"\xef\xbb\xbf", b"\xff\xfe", b"\x00" * 40,
)  # fmt: skip
some_bytes = st.tuples(st.sampled_from(_BEGINNINGS), st.binary(max_size=300), any_text).map(
    lambda parts: parts[0] + parts[1] + parts[2].encode(errors="replace")
)
names = st.one_of(
    st.sampled_from(["x.csv", "x.xlsx", "x.zip", "x.geojson", "x.tif", "x.pmtiles", "x.pdf"]),
    any_text.map(lambda text: text.replace("/", "_")),
)
"""Django lets no path through: what stands behind the last slash is the name of an upload."""


class AnyFile(DemoTestCase, HypothesisCase):
    """What is brought on pages other than the county's own, whose files have tests of their own."""

    @FEW
    @given(names, some_bytes)
    def test_a_list(self, name: str, content: bytes) -> None:
        try:
            import_file(SimpleUploadedFile(f"x{name}", content), compiler.compile(Search(), self.scope))
        except ListError as error:
            self.assertRegex(str(error), r"\S+ \S+")

    @FEW
    @given(names, some_bytes)
    def test_areas_and_backgrounds(self, name: str, content: bytes) -> None:
        with tempfile.TemporaryDirectory() as folder, transaction.atomic():
            path = Path(folder) / "file"
            path.write_bytes(content)
            for bring in (lambda: bring_areas(path, name, self.scope), lambda: bring_map_file(path, name, name, self.user)):
                try:
                    bring()
                except AreaError as error:
                    self.assertRegex(str(error), r"\S+ \S+")
            transaction.set_rollback(True)

    @FEW
    @given(some_bytes)
    def test_a_file_of_a_deal(self, content: bytes) -> None:
        try:
            read_file(content)
        except FileError as error:
            self.assertRegex(str(error), r"\S+ \S+")

    @settings(FEW, max_examples=200)
    @given(st.sampled_from(sorted(KINDS)), st.one_of(
        any_json, st.dictionaries(st.sampled_from(("columns", "words", "times", "fixed", "days")), any_json, max_size=4)
    ))  # fmt: skip
    def test_a_mapping(self, kind: str, said: object) -> None:
        try:
            column_map_from(said, KINDS[kind])
        except MappingError as error:
            self.assertRegex(str(error), r"\S+ \S+")

    def test_json_that_is_too_deep_for_its_reader(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deep.json"
            path.write_text("[" * 200_000)
            with self.assertRaisesRegex(CommandError, "is not JSON"):
                call_command("worksheet", str(path))
            table = Path(folder) / "permits.csv"
            table.write_text("parcel_number,number,issued_on\n")
            with self.assertRaisesRegex(CommandError, "is not JSON"):
                call_command("intake", str(table), kind="permits", county="Tamarack", mapping=path)
            path.write_bytes(b'{"parcel": "\xff\xfe"}')
            with self.assertRaisesRegex(CommandError, "can't be read"):
                call_command("worksheet", str(path))


def _text(folder: Path, rows: int) -> Path:
    path = folder / f"{rows}.csv"
    with path.open("w", newline="") as handle:
        out = csv.writer(handle)
        out.writerow([f"column {place}" for place in range(20)])
        out.writerows([f"{row} of {place}" for place in range(20)] for row in range(rows))
    return path


def _workbook(folder: Path, rows: int) -> Path:
    path, book = folder / f"{rows}.xlsx", openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet()
    sheet.append([f"column {place}" for place in range(20)])
    for row in range(rows // 5):
        sheet.append([row * 20 + place + 0.5 for place in range(20)])
    book.save(path)
    return path


def _geojson(folder: Path, rows: int) -> Path:
    path = folder / f"{rows}.geojson"
    with path.open("w") as handle:
        handle.write('{"type": "FeatureCollection", "features": [')
        for row in range(rows):
            line = [[-86.9 + corner / 1000, 43.6 + row / 1e6] for corner in range(20)]
            feature = {"type": "Feature", "properties": {"n": row}, "geometry": {"type": "LineString", "coordinates": line}}
            handle.write(f"{',' if row else ''}{json.dumps(feature)}")
        handle.write("]}")
    return path


def _shapes(folder: Path, rows: int) -> Path:
    path = folder / f"{rows}.zip"
    parts = [io.BytesIO() for _ in range(3)]
    with shapefile.Writer(shp=parts[0], shx=parts[1], dbf=parts[2], shapeType=shapefile.POLYLINE) as writer:
        writer.field("N", "N")
        for row in range(rows):
            writer.record(row)
            writer.line([[[-86.9 + corner / 1000, 43.6 + row / 1e6] for corner in range(20)]])
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as files:
        for ending, part in zip(("shp", "shx", "dbf"), parts, strict=True):
            files.writestr(f"lines.{ending}", part.getvalue())
    return path


def _pictures(folder: Path, rows: int) -> Path:
    path = folder / f"pictures {rows}.zip"
    with zipfile.ZipFile(path, "w") as files:
        for number in range(rows // 100):
            files.writestr(f"12-001-{number:03}/01 front.png", os.urandom(300_000))
    return path


FORMS = ((_text, 150_000, 20), (_workbook, 90_000, 20), (_geojson, 80_000, 20), (_shapes, 80_000, 45), (_pictures, 30_000, 20))
"""What makes a file, how many rows of it, and how many MB more it may take than a thirtieth of them. A zip that is read on from place
to place, as a Shapefile is, reads 16 MB at once to get there.
"""
_MEASURE = """
import re, sys
from collections import deque
from pathlib import Path
import django
django.setup()
from jaded_ledger.intake.readers import read
peak = lambda: int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) // 1024
few, many, held = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]
deque(read(few), maxlen=1)
before = peak()
deque(read(many), maxlen=None if held == "held" else 1)
print(peak() - before)
"""


@thorough
class Memory(unittest.TestCase):
    """How much more memory a reader takes for a large file than for one of a thirtieth its length, in MB."""

    def growth(self, few: Path, many: Path, held: str = "") -> int:
        command = [sys.executable, "-c", _MEASURE, str(few), str(many), held]
        return int(subprocess.run(command, capture_output=True, text=True, check=True).stdout)

    def test_no_reader_holds_the_file(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            for make, rows, most in FORMS:
                with self.subTest(make.__name__):
                    few, many = make(Path(name), rows // 30), make(Path(name), rows)
                    self.assertLess(self.growth(few, many), most)
                    if make is _text:
                        # The measure tells: with all rows held it is many times that.
                        self.assertGreater(self.growth(few, many, "held"), 60)


class Bounds(unittest.TestCase):
    """A row, however it is written, has no more than it may; one of exactly that has."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "file"

    def rows(self, layout: Layout, limits: Limits) -> Iterator[object]:
        with mock.patch("jaded_ledger.intake.readers.LIMITS", limits):
            return iter(list(read(self.path, layout)))

    def test_a_row_of_text(self) -> None:
        layout, limits = Layout(Form.TEXT, "utf_8_sig", ","), Limits(row=20)
        self.path.write_text("a,b\n" + "x" * 17 + ",y\n" + "c,d\n" * 9)
        self.assertEqual(len(list(self.rows(layout, limits))), 10)
        for row in ("x" * 18 + ",y\n", '"\n",' * 6 + "z\n", "," * 25):
            self.path.write_text(f"a,b\n{row}")
            with self.subTest(row), self.assertRaisesRegex(UnreadableFileError, "a row of more than"):
                self.rows(layout, limits)

    def test_a_feature(self) -> None:
        layout = Layout(Form.GEOJSON)
        feature = json.dumps({"type": "Feature", "properties": {"a": "x" * 100_000}, "geometry": None})
        self.path.write_text('{"features": [' + ",".join([feature] * 5) + "]}")
        # It is read in blocks of 64 KB, and what follows in the block counts for the item before.
        self.assertEqual(len(list(self.rows(layout, Limits(row=300_000)))), 5)
        with self.assertRaisesRegex(UnreadableFileError, "an item of it has more than") as caught:
            self.rows(layout, Limits(row=90_000))
        self.assertIsInstance(caught.exception.__cause__, TooLongError)

    def test_a_shape(self) -> None:
        path = _shapes(self.path.parent, 3)
        self.path = path
        # Twenty corners of 16 bytes, and what is said before them.
        self.assertEqual(len(list(self.rows(Layout(Form.SHAPEFILE), Limits(row=400)))), 3)
        with self.assertRaisesRegex(UnreadableFileError, "a shape has more than"):
            self.rows(Layout(Form.SHAPEFILE), Limits(row=300))

    def test_the_texts_of_a_workbook(self) -> None:
        book = openpyxl.Workbook()
        book.active.append(["a", "b"])
        book.active.append(["some text", "another"])
        book.save(self.path)
        layout = Layout(Form.WORKBOOK, sheet=book.active.title)
        # The library that wrote it keeps texts in their cells; spreadsheet programs keep them once.
        texts = b'<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><si><t>once</t></si></sst>'
        with zipfile.ZipFile(self.path, "a") as files:
            files.writestr("xl/sharedStrings.xml", texts)
        size = len(texts)
        self.assertEqual(len(list(self.rows(layout, Limits(shared_texts=size)))), 1)
        with self.assertRaisesRegex(UnreadableFileError, "MB of texts; save it as CSV"):
            self.rows(layout, Limits(shared_texts=size - 1))
