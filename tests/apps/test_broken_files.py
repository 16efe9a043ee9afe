"""Files as nobody would write them: each is taken in or refused with a sentence, and no acceptable row is lost."""

from __future__ import annotations

import csv
import io
import json
import tempfile
import zipfile
from datetime import date
from pathlib import Path

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.test import Client
from django.urls import reverse
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase as HypothesisCase

from jaded_ledger.intake.encodings import ENCODINGS
from jaded_ledger.intake.layouts import DELIMITERS
from jaded_ledger.intake.mapping import ColumnMap
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.services import IntakeError, IntakeOptions, take_in
from jaded_ledger.intake.uploads import run
from jaded_ledger.records.models import County, Permit, SourceFile
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

DAY = date(2026, 11, 24)
FEW = settings(max_examples=10, deadline=None, suppress_health_check=list(HealthCheck))
coordinates = st.recursive(
    st.one_of(st.none(), st.floats(), st.text(max_size=5), st.integers()), lambda inner: st.lists(inner, max_size=4), max_leaves=30
)
cells = st.text(st.characters(codec="utf-8", exclude_characters="\x1e"), max_size=30)
_SEED = b"parcel_number,number,issued_on\n12-001-001,B1,2026-11-01\n"


def _zip(name: str, content: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as files:
        files.writestr(name, content)
    return out.getvalue()


_BEGINNINGS = [
    b"", _SEED, _SEED.decode().encode("utf-16"), b'{"type": "FeatureCollection", "features": [',
    b'{"features": [{"type": "Feature", "properties": ',
    _zip("a/1 x.png", b"\x89PNG\r\n\x1a\n"), _zip("a.shp", b"\x00\x00\x27\x0a" * 30), _zip("[Content_Types].xml", b"<Types/>"),
    _zip("x", b"y" * 400)[:60], b"PK\x05\x06" + bytes(18), b"\xff\xfe", b"a\tb\tc\n", b'"', b"\x00" * 50,
]  # fmt: skip


class Broken(DemoTestCase, HypothesisCase):
    def setUp(self) -> None:
        self.county = County.objects.get(name="Tamarack")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        # Hypothesis makes a test's own client only after this.
        self.client = Client()
        self.client.force_login(self.user)

    def take(self, content: bytes, name: str = "file.csv", kind: str = "permits", **wanted: object) -> SourceFile | None:
        """Take in a file; None where it is refused as a whole, which is to be said in a sentence."""
        path = self.folder / name
        path.write_bytes(content)
        try:
            with transaction.atomic():
                return take_in(path, IntakeOptions(kind, self.county, DAY, **wanted))
        except IntakeError as error:
            self.assertRegex(str(error), r"\S+ .*\S")
            return None

    @FEW
    @given(st.sampled_from(_BEGINNINGS), st.binary(max_size=400), st.sampled_from(["csv", "xlsx", "geojson", "zip", "txt"]))
    def test_any_bytes(self, beginning: bytes, rest: bytes, ending: str) -> None:
        for kind in ("permits", "parcels", "photographs"):
            self.take(beginning + rest, f"file.{ending}", kind)

    @FEW
    @given(st.sampled_from(_BEGINNINGS), st.binary(max_size=200), st.sampled_from(["csv", "xlsx", "geojson", "zip", "txt"]))
    def test_any_bytes_through_the_page(self, beginning: bytes, rest: bytes, ending: str) -> None:
        # Each example begins anew.
        self.client.force_login(self.user)
        response = self.client.post(reverse("intake:bring"), {"file": SimpleUploadedFile(f"file.{ending}", beginning + rest or b" ")})
        self.assertIn(response.status_code, (302, 400))
        if response.status_code == 302:
            self.assertEqual(self.client.get(response.url).status_code, 200)
            upload = Upload.objects.order_by("-id").first()
            self.client.post(
                response.url, {"kind": upload.kind or "permits", "county": self.county.pk, "as_of": "2026-11-24", "do": "take"}
            )
            run(upload.pk)
            upload.refresh_from_db()
            self.assertNotIn("our side", upload.error)

    @FEW
    @given(
        st.lists(st.tuples(cells, cells, st.one_of(cells, st.dates().map(str))), min_size=1, max_size=8),
        st.sampled_from(sorted(DELIMITERS)), st.sampled_from(["utf-8", "utf-16", "cp1252"]), st.sampled_from(["\n", "\r\n"]),
    )  # fmt: skip
    def test_good_rows_go_in_among_bad_ones(self, bad: list[tuple[str, str, str]], delimiter: str, encoding: str, end: str) -> None:
        """Rows of anything between rows of something: each of the latter is on record afterwards, whatever the former are."""
        out = io.StringIO()
        rows = csv.writer(out, delimiter=delimiter, lineterminator=end)
        rows.writerow(["parcel_number", "number", "issued_on", "description"])
        for place, row in enumerate(bad):
            rows.writerow(["12-001-001", f"G{place}", "2026-11-01", "sound"])
            rows.writerow([*row, "unsound"])
        content = out.getvalue().encode(encoding, errors="replace")
        layout = {"utf-8": "utf_8_sig", "utf-16": "utf_16"}.get(encoding, encoding)
        self.assertIn(layout, ENCODINGS)
        file = self.take(content, "file.txt")
        if file is None:
            # Only where what it is could not be told; said by hand, it goes in.
            from jaded_ledger.intake.layouts import Form, Layout

            file = self.take(content, "file.txt", layout=Layout(Form.TEXT, layout, delimiter))
        self.assertIsNotNone(file)
        good = Permit.objects.filter(source_file=file, number__startswith="G", description="sound").count()
        repeated = file.refusals.filter(reason__contains="more than once").count()
        self.assertGreaterEqual(good + repeated, len(bad))
        self.assertEqual(file.new + file.changed + file.same + file.refused, file.read)

    @thorough
    @FEW
    @given(coordinates, st.sampled_from(["Polygon", "MultiPolygon", "Point", "LineString", "GeometryCollection", "Circle"]))
    def test_any_geometry(self, coordinates: object, kind: str) -> None:
        good = {"type": "Polygon", "coordinates": [[[-86.9, 43.6], [-86.9, 43.61], [-86.89, 43.61], [-86.9, 43.6]]]}
        features = [
            {"type": "Feature", "properties": {"parcel_number": number}, "geometry": shape}
            for number, shape in (("12-001-001", {"type": kind, "coordinates": coordinates}), ("12-001-002", good))
        ]
        file = self.take(json.dumps({"type": "FeatureCollection", "features": features}).encode(), "parcels.geojson", "parcels")
        if file is not None:
            self.assertEqual((file.read, file.changed), (2, file.read - file.refused))
            self.assertGreaterEqual(file.changed, 1)

    def test_rows_of_ten_thousand_columns(self) -> None:
        wide = ",".join(f"c{n}" for n in range(10_000))
        self.assertIsNone(self.take(f"{wide}\n{wide}\n".encode()))
        file = self.take(_SEED + b"12-001-001,B2,2026-11-01," + b"x," * 10_000 + b"\n12-001-001,B3,2026-11-02\n")
        self.assertEqual((file.new, file.refused), (2, 1))
        self.assertIn("cells under 3 columns", file.refusals.get().reason)

    @thorough
    def test_many_own_columns(self) -> None:
        self.county = County.objects.get(name="Odell Marsh")
        names = [f"Own {n}" for n in range(450)]
        for wave in ("a", "b", "c", "d"):
            text = ",".join(["parcel_number", *(f"{name}{wave}" for name in names)]) + "\n010101001," + ",".join(str(n) for n in range(450))
            self.assertEqual(self.take(text.encode(), kind="roll").changed, 1)
        self.assertEqual(self.client.get(reverse("intake:records"), {"view": "fill"}).status_code, 200)

    def test_a_cell_beyond_all_bounds(self) -> None:
        file = self.take(_SEED + b'12-001-001,B2,2026-11-01\n12-001-001,"' + b"9" * 900_000 + b'",2026-11-01\n')
        self.assertEqual((file.new, file.doubtful, file.refused), (3, 1, 0))
        self.assertLessEqual(len(file.refusals.get().value), 2000)

    def test_the_columns_of_nobody(self) -> None:
        self.assertIsNone(self.take(_SEED, columns=ColumnMap({"parcel_number": None})))
