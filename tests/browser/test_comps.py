"""Comps: a pool narrowed and widened, a comp put out with a reason, an area drawn, all kept and reopened; the report read back."""

from __future__ import annotations

import io
from pathlib import Path

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from jaded_ledger.comps.models import CompDecision, ConditionGrade, KeptComps
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.records.models import Parcel
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

NUMBER = "12-005-014"


class Comps(BrowserCase):
    def left(self, page: Page, line: str) -> int:
        return self.figure(page, f".line:has(#amount-{line}) .bal")

    def pool(self, page: Page) -> int:
        return self.figure(page, "#pool-count")

    def value(self, page: Page) -> str:
        return page.inner_text("#value b")

    def open_comps(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/deals/")
        self.assert_accessible(page)
        page.fill("#number", NUMBER)
        page.press("#number", "Enter")
        page.wait_for_selector("#comps")
        expect(page.locator("#trust")).to_contain_text("This method on")

    def changed(self, page: Page, line: str, amount: str) -> None:
        with self.swapped(page, "/act"):
            page.fill(f"#amount-{line}", amount)
            page.press(f"#amount-{line}", "Enter")
        expect(page.locator(f"#amount-{line}")).to_have_value(amount)

    @thorough
    @in_browser
    def test_from_the_parcel_to_the_report(self, page: Page) -> None:
        self.open_comps(page)
        self.assert_accessible(page)
        pool, value = self.pool(page), self.value(page)
        before = self.left(page, "within")
        # Narrower, then back: addresses tell the lines, and the browser's back leads to those before.
        self.changed(page, "within", "0.3")
        self.assertLess(self.left(page, "within"), before)
        self.assertIn("within", page.url)
        page.go_back()
        expect(page.locator("#amount-within")).to_have_value("1")
        self.assertEqual((self.left(page, "within"), self.value(page)), (before, value))
        # What striking a line is said to give back, it gives.
        line = page.locator(".line:has(#amount-area)")
        line.hover()
        gain = int("".join(filter(str.isdigit, line.locator(".give").inner_text())))
        likest = self.left(page, "built")
        line.locator(".strike").click()
        expect(page.locator("#amount-area")).to_have_count(0)
        self.assertEqual(self.left(page, "built"), likest + gain)
        # A line is typed; a wrong one is said, and nothing is lost.
        page.keyboard.press("/")
        page.keyboard.type("stories: many")
        page.keyboard.press("Enter")
        expect(page.locator("[role=alert]")).to_contain_text("can only be “same”")
        self.assertEqual(self.left(page, "built"), likest + gain)
        page.fill("#add", "area: 20 %")
        page.press("#add", "Enter")
        expect(page.locator("#amount-area")).to_have_value("20")
        self.assertEqual((self.pool(page), self.value(page)), (pool, value))

        # By keyboard: a comp is out with its reason, another graded.
        page.keyboard.press("Escape")
        counted = page.locator("tr[data-comp]:has([title*='counts for'])").first
        counted.focus()
        name = counted.locator("th").inner_text()
        page.keyboard.press("x")
        page.keyboard.type('beyond the "marina" <b>')
        page.keyboard.press("Enter")
        out = page.locator("tr.left-out")
        expect(out).to_contain_text(name)
        expect(out).to_contain_text('beyond the "marina" <b>')
        self.assertNotEqual(self.value(page), value)
        resale = page.locator("tr[data-comp]:not(:has([title*='counts for']))").first.get_attribute("id")
        page.locator(f"#{resale}").focus()
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.keyboard.press("g")
        expect(page.locator(f"#{resale}")).to_contain_text("as found")
        expect(page.locator(f"#{resale}")).to_be_focused()
        self.assertEqual(self.orm(lambda: (CompDecision.objects.count(), ConditionGrade.objects.count())), (1, 1))

        # Ungraded it was of the other set, a resale for more; as it was found it is of this one.
        self.assertNotEqual(self.value(page), value)

        # One comp beside the subject, and its way to the value adds up.
        page.keyboard.press("o")
        panel = page.locator(".beside")
        expect(panel).to_contain_text("as a comp of 501 Lantern St")
        self.assert_accessible(page)
        figures = [cell.inner_text() for cell in panel.locator("tbody td.n:last-child, tfoot td.n").all()]
        numbers = [int(text.replace("−", "-").replace("$", "").replace(",", "").replace("+", "").replace(" ", "")) for text in figures]
        self.assertAlmostEqual(sum(numbers[:-1]), numbers[-1], delta=len(numbers))
        page.keyboard.press("Escape")
        expect(panel).to_have_count(0)

        # An area is drawn by keyboard, and left out; then it is a line of its own.
        page.click("#draw")
        for key, times in (("ArrowLeft", 13), ("ArrowUp", 9), (" ", 1), ("ArrowRight", 27), (" ", 1), ("ArrowDown", 18), (" ", 1),
                           ("ArrowLeft", 27), (" ", 1), ("Enter", 1)):  # fmt: skip
            for _ in range(times):
                page.keyboard.press(key)
        page.keyboard.type("Middle blocks")
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.click("[data-as=outside]")
        expect(page.locator(".line").filter(has_text="Middle blocks")).to_have_count(1)
        self.assertEqual(self.orm(lambda: DrawnArea.objects.filter(name="Middle blocks").count()), 1)
        self.assertGreater(self.figure(page, ".line:has-text('Middle blocks') .off"), 0)
        drawn = self.value(page)

        # Kept, changed, and reopened as it was.
        page.click("text=Keep today’s")
        page.wait_for_url("**/deals/kept/*")
        self.assert_accessible(page)
        kept = page.url
        self.assertEqual(self.value(page), drawn)
        page.click("text=Today’s comps")
        page.wait_for_selector("tr.left-out")
        # They open with the pool that was kept.
        self.assertEqual(self.value(page), drawn)
        row = page.locator("tr.left-out")
        row.locator("button.note").click()
        expect(page.locator("tr.left-out")).to_have_count(0)
        page.goto(kept)
        self.assertEqual(self.value(page), drawn)
        expect(page.locator(".line").filter(has_text="Middle blocks")).to_have_count(1)
        with page.expect_download() as download:
            page.click("text=Report")
        self.assertEqual(download.value.suggested_filename, "comps of 501 Lantern St.pdf")
        text = "\n".join(sheet.extract_text() for sheet in PdfReader(io.BytesIO(Path(download.value.path()).read_bytes())).pages)
        for said in ("501 Lantern St", drawn, "The sales", "How far this can be trusted", "Nora"):
            self.assertIn(said, text)
        self.assertNotIn("marina", text)
        self.assertEqual(self.orm(lambda: KeptComps.objects.count()), 1)
        # Deleted, and undone.
        page.goto(f"{self.live_server_url}/deals/")
        page.click("text=Delete")
        expect(page.locator("main")).to_contain_text("None yet")
        page.keyboard.press("Control+z")
        expect(page.locator("table:has-text('Comps that the team keeps') tbody tr")).to_contain_text("501 Lantern St")

    @thorough
    @in_browser
    def test_the_sets_and_the_offers_stand_apart(self, page: Page) -> None:
        self.open_comps(page)
        page.click(".tabs .say >> text=after repair")
        expect(page.locator("#value")).to_contain_text("after repair")
        page.click(".tabs nav >> text=For sale")
        expect(page.locator("table.rows")).to_contain_text("active")
        self.assert_accessible(page)
        page.click(".tabs nav >> text=For rent")
        expect(page.locator("table.rows")).to_contain_text("Rent a month")
        self.open(page, "county: Tamarack\nstatus: active\nclass: single-family")
        page.keyboard.press("a")
        page.locator("button[value=comps]").first.click()
        expect(page.locator("h1")).to_have_text("Comps of what was chosen")
        self.assert_accessible(page)
        page.goto(f"{self.live_server_url}/deals/comps?number=99-999-999")
        expect(page.locator("[role=alert]")).to_contain_text("No parcel on record has the number")
        self.troubles.clear()
        pk = self.orm(lambda: Parcel.objects.get(number=NUMBER).pk)
        page.goto(f"{self.live_server_url}/property/{pk}/#comps")
        expect(page.locator("#comps")).to_contain_text("as it stands")
        page.click("text=Open the comps")
        # Scripts open and close what stands on the page until it is loaded.
        page.wait_for_load_state()
        page.click("summary >> text=What a difference is worth")
        page.click("text=Set them by hand")
        self.assert_accessible(page)
        page.fill("#set-living-area", "much")
        page.click("main >> text=Set >> nth=-1")
        expect(page.locator("[role=alert]")).to_contain_text("is not a number")
        self.troubles.clear()
        page.fill("#set-living-area", "0.9")
        page.locator("button.btn-main").click()
        expect(page.locator("[role=status]")).to_contain_text("Set. Comps in this county")
        page.goto(f"{self.live_server_url}/deals/comps/{pk}/")
        page.click("summary >> text=What a difference is worth")
        expect(page.locator(".constants")).to_contain_text("0.90 of $/sq ft")
        expect(page.locator(".constants")).to_contain_text("set by hand")
