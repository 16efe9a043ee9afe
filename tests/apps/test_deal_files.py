"""Files of a property: what is kept, what is refused and why, who sees it; and the papers of court cases."""

from __future__ import annotations

import io
import tempfile
import zipfile
from datetime import date
from pathlib import Path
from unittest.mock import patch

from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from PIL import Image
from pypdf import PdfReader, PdfWriter

from jaded_ledger.accounts.deletion import undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.bounded_programs import EndedError, run_bounded
from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.records.models import CasePaper, CourtCase, Parcel, StoredPaper
from jaded_ledger.worksheets.file_reading import MOST_BYTES, FileError, read_file
from jaded_ledger.worksheets.files import files_of, keep_file
from jaded_ledger.worksheets.models import DealFile
from jaded_ledger.worksheets.services import begin
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text


def picture(form: str = "PNG", size: tuple[int, int] = (900, 600)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (10, 107, 91)).save(out, form)
    return out.getvalue()


def pdf(pages: int = 1, password: str = "", script: str = "") -> bytes:
    writer = PdfWriter()
    for _ in range(pages):
        writer.add_blank_page(612, 792)
    if password:
        writer.encrypt(password)
    out = io.BytesIO()
    writer.write(out)
    found = out.getvalue()
    return (
        found.replace(b"/Type /Catalog", b"/Type /Catalog /OpenAction << /S /JavaScript /JS (%s) >>" % script.encode()) if script else found
    )


class FileCase(DemoTestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.scope = Scope(cls.scope.team, cls.user, cls.scope.today)
        cls.parcel = Parcel.objects.select_related("county").get(number="100-071-05")

    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def send(self, name: str, content: bytes, kind: str = "bid", **more: str) -> str:
        upload = SimpleUploadedFile(name, content)
        answer = self.client.post(
            reverse("worksheets:keep-file", args=[self.parcel.pk]), {"file": upload, "kind": kind, **more}, follow=True
        )
        return page_text(answer.content.decode())


class WhatIsKept(FileCase):
    def test_a_file_is_what_its_bytes_say(self) -> None:
        for name, content, kind, pages in (
            ("a.pdf", pdf(3), "application/pdf", 3), ("front.jpg", picture("PNG"), "image/png", None),
            ("x", picture("JPEG"), "image/jpeg", None),
            ("y.exe", picture("WEBP"), "image/webp", None),
        ):  # fmt: skip
            found = read_file(content)
            self.assertEqual((found.content_type, found.pages), (kind, pages), name)
            with Image.open(io.BytesIO(found.preview)) as preview:
                self.assertEqual(preview.format, "JPEG")
                self.assertLessEqual(max(preview.size), 361)

    def test_what_is_refused_says_why(self) -> None:
        for content, words in (
            (b"", "is empty"), (b"MZ\x90 an executable", "neither a PDF nor a picture"), (picture("GIF"), "none of PNG, JPEG, WEBP"),
            (pdf(password="secret"), "locked with a password"), (pdf(script="app.alert('x')"), "holds a script"),
            (b"%PDF-1.7 broken", "is damaged"), (b"\x89PNG\r\n\x1a\n cut", "neither a PDF nor a picture"),
            (b"x" * (MOST_BYTES + 1), "at most 20 MB"),
            (pdf(501), "501 pages"),
        ):  # fmt: skip
            with self.assertRaisesRegex(FileError, words):
                read_file(content)
        self.assertEqual(read_file(pdf(500)).pages, 500)

    def test_a_picture_is_measured_before_it_is_decoded(self) -> None:
        """A PNG of 308 KB and 80 megapixels took 700 MB and ten seconds of a request."""

        def drawn(width: int, height: int) -> bytes:
            out = io.BytesIO()
            Image.new("1", (width, height)).save(out, "PNG")
            return out.getvalue()

        with (
            patch("jaded_ledger.worksheets.file_reading.run_bounded") as decoded,
            self.assertRaisesMessage(FileError, "more than 50 megapixels"),
        ):
            read_file(drawn(10_000, 8_000))
        decoded.assert_not_called()
        with Image.open(io.BytesIO(read_file(drawn(7_000, 7_000)).preview)) as small:
            self.assertEqual(small.size, (360, 360))

    def test_what_takes_too_long_or_too_much_memory_ends(self) -> None:
        sent = io.BytesIO()
        Image.new("RGB", (40, 40)).save(sent, "PNG")
        for error, why in (
            (EndedError(is_unreadable=False), "takes too long to show"),
            (EndedError(is_unreadable=True), "neither a PDF nor"),
        ):
            with patch("jaded_ledger.worksheets.file_reading.run_bounded", side_effect=error), self.assertRaisesMessage(FileError, why):
                read_file(sent.getvalue())
        with self.assertRaises(EndedError) as raised:
            run_bounded("jaded_ledger.core.picture_preview", b"x", 20)
        self.assertTrue(raised.exception.is_unreadable)
        with self.assertRaises(EndedError) as raised:
            run_bounded("jaded_ledger.core.picture_preview", sent.getvalue(), 0.01)
        self.assertFalse(raised.exception.is_unreadable)

    def test_it_is_shown_previewed_put_away_and_put_back(self) -> None:
        worksheet = begin(self.scope, self.parcel)
        content = pdf(2)
        page = self.send("../../etc/roof <b> bid\x07.pdf", content, worksheet=str(worksheet.pk))
        found = DealFile.objects.get(team=self.scope.team)
        self.assertEqual((found.name, found.pages, found.size, found.worksheet_id), ("roof <b> bid.pdf", 2, len(content), worksheet.pk))
        self.assertIn("roof <b> bid.pdf", page)
        answer = self.client.get(reverse("worksheets:file", args=[found.pk]))
        self.assertEqual((answer.content, answer["Content-Type"]), (content, "application/pdf"))
        self.assertIn("no-store", answer["Cache-Control"])
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")
        self.assertEqual(self.client.get(reverse("worksheets:file-preview", args=[found.pk]))["Content-Type"], "image/jpeg")
        self.client.post(reverse("worksheets:remove-file", args=[found.pk]))
        self.assertEqual(self.client.get(reverse("worksheets:file", args=[found.pk])).status_code, 404)
        self.client.post(undo_address(found))
        self.assertTrue(files_of(self.scope).filter(pk=found.pk).exists())
        self.assertIn("roof", page_text(self.client.get(reverse("properties:more", args=[self.parcel.pk])).content.decode()))

    def test_the_same_bytes_are_kept_once_and_a_kind_is_asked(self) -> None:
        self.send("front.png", picture())
        self.assertIn("is kept already, as “front.png”", self.send("again.png", picture()))
        self.assertIn("say what it is", self.send("plan.png", picture(size=(20, 20)), kind="").lower())
        self.assertEqual(files_of(self.scope).count(), 1)
        answer = self.client.post(reverse("worksheets:keep-file", args=[self.parcel.pk]), {"kind": "bid"}, follow=True)
        self.assertIn("Choose a file", page_text(answer.content.decode()))

    def test_a_reader_keeps_none_and_other_teams_see_none(self) -> None:
        kept = keep_file(self.scope, self.parcel, "front.png", picture(), "photograph")
        reader = User.objects.create_user("wren", password="x" * 12, team=self.scope.team, role=User.Role.READER)
        with self.assertRaises(PermissionDenied):
            keep_file(Scope(self.scope.team, reader, self.scope.today), self.parcel, "x.png", picture(size=(9, 9)), "bid")
        self.client.force_login(reader, backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.get(reverse("worksheets:file", args=[kept.pk])).status_code, 200)
        self.assertEqual(self.client.post(reverse("worksheets:remove-file", args=[kept.pk])).status_code, 403)
        other = User.objects.create_user("olm", password="x" * 12, team=Team.objects.create(name="Others"), role=User.Role.OWNER)
        self.client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        for name in ("file", "file-preview"):
            self.assertEqual(self.client.get(reverse(f"worksheets:{name}", args=[kept.pk])).status_code, 404)


class Papers(FileCase):
    def take(self, members: dict[str, bytes]):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "case-papers.zip"
            with zipfile.ZipFile(path, "w") as files:
                for name, content in members.items():
                    files.writestr(name, content)
            return take_in(path, IntakeOptions("case-papers", self.parcel.county, self.scope.today))

    def test_a_zip_of_papers_is_taken_in_once_and_each_opens(self) -> None:
        case = CourtCase.objects.filter(county=self.parcel.county, superseded_at=None, parcels__isnull=False).order_by("pk").first()
        before = StoredPaper.objects.count()
        members = {
            f"{case.case_number}/2024-03-01 Deposition.pdf": pdf(2),
            f"{case.case_number}/Undated letter.pdf": pdf(2),
            "x/notes.pdf": b"none",
        }
        file = self.take(members)
        self.assertEqual(file.refused, 1)
        rows = {row.title: row for row in CasePaper.objects.filter(source_file=file)}
        self.assertEqual({title: row.filed_on for title, row in rows.items()}, {"Deposition": date(2024, 3, 1), "Undated letter": None})
        self.assertEqual(StoredPaper.objects.count(), before + 1)
        page = self.client.get(reverse("properties:more", args=[case.parcels.first().pk]))
        self.assertContains(page, "Deposition")
        answer = self.client.get(reverse("properties:paper", args=[rows["Deposition"].paper_id]))
        self.assertEqual(len(PdfReader(io.BytesIO(answer.content)).pages), 2)
        self.assertEqual(self.take(members).same, 2)

    def test_the_demos_papers_open(self) -> None:
        row = CasePaper.objects.select_related("paper").order_by("pk").first()
        text = PdfReader(io.BytesIO(bytes(row.paper.content))).pages[0].extract_text()
        self.assertIn(row.case_number, text)
        self.assertIn("invented", text)
