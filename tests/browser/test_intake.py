"""The story of a file: brought, mapped, watched, its refused rows read, corrected, and taken in again."""

from __future__ import annotations

import csv
import io
import tempfile
from pathlib import Path

from playwright.sync_api import Page, expect

from jaded_ledger.intake.models import Refusal
from jaded_ledger.records.models import Permit
from tests.support import worker
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

ROWS = [
    ["City of Alder Bay, permits of November"], [],
    ["Permit No", "APN", "Issue Date", "Permit Type", "Job Value", "Contractor", "Desk"],
    *(
        [f"P{n:03d}", f"12-001-{n % 20 + 1:03d}", f"11/{n % 15 + 1}/2026", "RF", f"${n * 100:,}", "BRASS KEY", f"desk {n % 3}"]
        for n in range(40)
    ),
    ["P900", "12-001-001", "sometime", "RF", "$5", "BRASS KEY", "<b>desk</b>"], ["P901", "99-999-999", "11/3/2026", "RF", "$5", "", ""],
    ["P902", "12-001-003", "11/3/2026", "RF", "-5", "", "it's \"late\""],
]  # fmt: skip


class Intake(BrowserCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def write(self, name: str, rows: list[list[str]], delimiter: str = ",") -> Path:
        path = self.folder / name
        out = io.StringIO()
        csv.writer(out, delimiter=delimiter).writerows(rows)
        path.write_text(out.getvalue(), encoding="cp1252")
        return path

    def bring(self, page: Page, path: Path) -> None:
        page.goto(f"{self.live_server_url}/records/")
        page.click("text=Take in a file")
        page.set_input_files("#file", path)
        page.click("text=Look at it")
        page.wait_for_selector("#mapping")

    def chosen(self, page: Page, field: str, label: str) -> None:
        """Choose by its label, and wait for the page's answer to it."""
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.select_option(field, label=label)
        self.settled(page)

    @thorough
    @in_browser
    def test_from_the_file_to_the_corrected_rows(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/records/")
        for view in ("files", "reach", "fill"):
            page.goto(f"{self.live_server_url}/records/?view={view}")
            self.assert_accessible(page)
        self.bring(page, self.write("november permits.txt", ROWS, "\t"))
        self.assertEqual(page.input_value("#kind"), "permits")
        self.assertEqual((page.input_value("#delimiter"), page.input_value("#header_line")), ("\t", "3"))
        self.assert_accessible(page)
        self.chosen(page, "#county", "Tamarack")
        # Two columns go where the guess did not see: the kind, and the desk, which is left out.
        self.assertEqual(page.input_value("#fills-1"), "parcel_number")
        self.chosen(page, "#fills-3", "kind")
        self.chosen(page, "#fills-6", "left out")
        expect(page.locator(".as-read")).to_contain_text("1 would be refused. 1 would go in with a value left unknown")
        expect(page.locator(".as-read")).to_contain_text("1 names a parcel that is not on record")
        expect(page.locator(".as-read tr.why").first).to_be_visible()
        self.assert_accessible(page)
        page.click("#take")
        page.wait_for_selector("#progress")
        self.assert_accessible(page)
        expect(page.locator("#progress")).to_contain_text("Waiting its turn")
        # Left, and come back to: the file is taken in all the same.
        page.goto(f"{self.live_server_url}/records/")
        page.click("text=november permits.txt")
        with worker.working():
            page.wait_for_selector("#new", timeout=60_000)
            self.assertEqual((page.inner_text("#read"), page.inner_text("#new")), ("43", "41"))
            self.assert_accessible(page)
            self.assertEqual(page.locator("tbody td.reason").count(), 3)
            page.click("text=is negative")
            expect(page.locator("tbody td.reason")).to_have_count(1)
            with page.expect_download() as download:
                page.click("text=Download the rows to correct")
            refused = list(csv.reader(io.StringIO(Path(download.value.path()).read_text(encoding="utf-8-sig"))))
            self.assertEqual(download.value.suggested_filename, "november permits to correct.csv")
            self.assertEqual(refused[1][2:], ROWS[-3])
            refused[1][4], refused[3][6] = "11/4/2026", "5"
            self.bring(page, self.write("corrected.csv", refused))
            self.assertEqual((page.input_value("#kind"), page.input_value("#fills-5")), ("permits", "kind"))
            page.click("#take")
            page.wait_for_selector("#new", timeout=60_000)
        self.assertEqual((page.inner_text("#read"), page.inner_text("#new")), ("3", "1"))
        expect(page.locator(".reasons")).to_contain_text("is not on record")
        self.assertEqual(self.orm(lambda: Permit.objects.filter(number__in=["P900", "P902"], superseded_at=None).count()), 2)
        self.assertEqual(self.orm(lambda: Refusal.objects.filter(settled_in__isnull=False).count()), 2)
        page.goto(f"{self.live_server_url}/records/")
        expect(page.locator("tbody tr").first).to_contain_text("corrected.csv")

    @in_browser
    def test_a_county_is_added_and_what_is_wrong_is_said(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/records/counties/new/")
        self.assert_accessible(page)
        for field, value in (
            ("name", "Marlow"),
            ("state", "WI"),
            ("fips", "55991"),
            ("parcel_number_mask", "12-34"),
            ("assessment_ratio", "1"),
        ):
            page.fill(f"#id_{field}", value)
        page.click("text=Add it")
        expect(page.locator("[role=alert]")).to_contain_text("is not a parcel-number mask")
        self.assertEqual(page.input_value("#id_name"), "Marlow")
        self.troubles.clear()
        page.fill("#id_parcel_number_mask", "NN-NNN")
        page.click("text=Add it")
        expect(page.locator(".head")).to_contain_text("Marlow nothing on record")
        page.goto(f"{self.live_server_url}/records/bring/")
        self.assert_accessible(page)
        path = self.folder / "picture.csv"
        path.write_bytes(bytes(range(1, 32)) * 30)
        page.set_input_files("#file", path)
        page.click("text=Look at it")
        expect(page.locator("[role=alert]")).to_contain_text("picture.csv is neither text")
        self.troubles.clear()

    @in_browser
    def test_keys(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/records/?view=fill")
        page.locator("a.fill", has_text="%").first.click()
        expect(page.locator(".line")).to_have_count(1)
        self.assertGreater(self.matches(page), 0)
        page.go_back()
        page.wait_for_load_state()
        page.keyboard.press("i")
        page.wait_for_selector("#file")
