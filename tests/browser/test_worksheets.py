"""A worksheet of two exits, from a property's record: changed until one works, kept, printed, and reopened after a price cut."""

from __future__ import annotations

import io
from pathlib import Path

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from jaded_ledger.records.models import Listing, Parcel, ParcelFacts
from jaded_ledger.worksheets.models import DealFile, Worksheet, WorksheetVersion
from tests.support.browser import BrowserCase, HeldRequests, in_browser
from tests.support.keys import Keys
from tests.support.tiers import thorough

NUMBER, OTHER, LISTED = "100-054-17", "100-030-24", "12-005-014"


class Worksheets(BrowserCase):
    def set(self, page: Page, name: str, typed: str, shown: str | None = None) -> None:
        """Type over a figure and press Enter."""
        field = page.locator(f'.exit [name="{name}"], .slip [name="{name}"]').first
        with self.swapped(page, "/change"):
            field.fill(typed)
            field.press("Enter")
        expect(page.locator(f'[name="{name}"]').first).to_have_value(shown or typed)

    def main(self, page: Page, exit_: str) -> str:
        return page.inner_text(f"section:has(> .exit-head #exit-{exit_}) .results .main dd")

    @thorough
    @in_browser
    def test_a_rental_in_two_lines_and_comps_with_a_limit_by_key(self, page: Page) -> None:
        """From a property: costs by the month and a discount from asking in four inputs; a limit of comps as it is said."""
        parcel = self.orm(lambda: Parcel.objects.get(number=LISTED).pk)
        page.goto(f"{self.live_server_url}/property/{parcel}/")
        page.wait_for_load_state()
        keys = Keys(page)
        with keys.at_most(1):
            keys.press("w")
            page.wait_for_url("**/deals/worksheets/*/")
        page.wait_for_load_state()
        with self.swapped(page, "/change"):
            page.click("text=Clear all assumptions")
        with self.swapped(page, "/change"):
            page.check("[name=by][value=month]")
        for name, typed in (("costs:month", "815"), ("discount", "-12%")):
            page.locator(f'[name="input:{name}"]').first.click()
            with keys.at_most(len(typed) + 1), self.swapped(page, "/change"):
                keys.type(typed)
                keys.press("Enter")
        expect(page.locator('tr:has([name="input:costs:month"])').first).to_contain_text("yours")
        expect(page.locator("main")).to_contain_text("net operating income")
        page.goto(f"{self.live_server_url}/property/{parcel}/")
        page.wait_for_load_state()
        limit = "area: under 1350"
        with keys.at_most(len(limit) + 3):
            keys.press("c")
            page.wait_for_url("**/deals/comps/*/")
            page.wait_for_load_state()
            keys.press("/")
            keys.type(limit)
            keys.press("Enter")
            expect(page.locator(".ledger").get_by_label("living area")).to_have_value("under 1,350")

    @in_browser
    def test_from_the_record_to_a_price_that_works(self, page: Page) -> None:
        parcel = self.orm(lambda: Parcel.objects.get(number=NUMBER))
        asked = self.orm(lambda: ParcelFacts.objects.get(pk=parcel.pk).list_price)
        page.goto(f"{self.live_server_url}/property/{parcel.pk}/")
        page.click("text=New worksheet")
        page.wait_for_url("**/deals/worksheets/*/")
        self.assert_accessible(page)
        expect(page.locator('[name="input:price"]').first).to_have_value(f"{asked:,}")
        expect(page.locator("#exit-rental + .note")).to_contain_text("needs $")

        # What it needs is what makes it work: typed as people type it, at once.
        needed = page.inner_text("#exit-rental + .note").removeprefix("needs $").replace(",", "")
        self.set(page, "input:price", f"{int(needed) / 1000:g}k", f"{int(needed):,}")
        expect(page.locator("#exit-rental + .note")).to_have_text(f"works at ${int(needed):,}")
        expect(page.locator(".verdict h2")).to_contain_text("one exit works")
        expect(page.locator('tr:has([name="input:price"]) .note').first).to_have_text("yours")

        # Fast hands: what is typed in the next field while the first is on its way is not lost.
        vacancy, management = page.locator('[name="input:rental.vacancy"]'), page.locator('[name="input:rental.management"]')
        held = HeldRequests(page, "**/change*", 2)
        vacancy.fill("5")
        management.click()
        management.press_sequentially("8")
        held[0].continue_()
        expect(page.locator('tr:has([name="input:rental.vacancy"]) .note')).to_have_text("yours")
        expect(management).to_have_value("8")
        # Nor is what was sent before the answer to the first has come.
        management.press("Enter")
        page.fill('.account [name="input:utilities"]', "1,300")
        page.press('.account [name="input:utilities"]', "Enter")
        held[1].continue_()
        expect(page.locator('tr:has([name="input:rental.management"]) .note')).to_have_text("yours")
        expect(page.locator('tr:has([name="input:utilities"]) .note').first).to_have_text("yours")
        expect(vacancy).to_have_value("5")
        page.unroute_all()

        # What can't be is said, and what was typed stays.
        page.fill('[name="input:rental.vacancy"]', "500")
        page.press('[name="input:rental.vacancy"]', "Enter")
        expect(page.locator("#worksheet > .says.wrong")).to_contain_text("goes from 0 to 100")
        expect(page.locator('[name="input:rental.vacancy"]')).to_have_value("500")
        page.press('[name="input:rental.vacancy"]', "Escape")

        # Ctrl Z undoes, from anywhere but a field that is being typed in.
        page.locator("#exit-rental").click()
        page.keyboard.press("Control+z")
        expect(page.locator('tr:has([name="input:utilities"]) .note').first).to_have_text("assumed")

        # A third exit, and a figure opened to its arithmetic.
        page.click("text=+ Refinance and hold")
        page.wait_for_selector("#exit-refinance")
        page.click('section:has(> .exit-head #exit-rental) .results a:below(:text("cap rate")) >> nth=0')
        expect(page.locator("#explained h2")).to_be_visible()
        page.click("[data-closes-explained]")
        page.locator('[aria-label="Take away: Refinance and hold"]').click()
        expect(page.locator("#exit-refinance")).to_have_count(0)

        # Another pair of figures, another result.
        with self.swapped(page, "of=rental.return"):
            page.select_option("#wrong-of", "rental.return")
        expect(page.locator(".pairs caption")).to_contain_text("cash on cash")

        self._rents_and_repairs(page)
        self._keep_print_and_reopen(page, parcel, asked)

    def _rents_and_repairs(self, page: Page) -> None:
        before = self.main(page, "rental")
        self.set(page, "unit:1:rent", "900")
        self.assertNotEqual(self.main(page, "rental"), before)
        with self.swapped(page, "/change"):
            page.check('[name="rents"][value="market"]')
        expect(page.locator("#exit-rental ~ *, .exit .account").nth(0)).to_be_visible()
        expect(page.locator(".account", has_text="at market").first).to_be_visible()
        with self.swapped(page, "/change"):
            page.check('[name="system:roof:is-replaced"]')
        with self.swapped(page, "/change"):
            page.click("text=Add work")
        self.set(page, "repair:1:what", "Kitchen & bath")
        self.set(page, "repair:1:amount", "12,000")
        expect(page.locator(".sums", has_text="repairs").last).to_contain_text("$23,000")

    def _keep_print_and_reopen(self, page: Page, parcel: Parcel, asked: int) -> None:
        page.click("summary:has-text('Keep')")
        page.fill("#note", "as first seen")
        page.press("#note", "Enter")
        expect(page.locator(".says").first).to_contain_text("Kept as version 1")
        note = self.orm(lambda: WorksheetVersion.objects.get(worksheet__parcel=parcel).note)
        self.assertEqual(note, "as first seen")

        page.click("summary:has-text('Print')")
        with page.expect_download() as download:
            page.click("text=As PDF")
        text = " ".join(one.extract_text() for one in PdfReader(io.BytesIO(Path(download.value.path()).read_bytes())).pages)
        self.assertIn("413 Fulling Mill Rd", text)
        self.assertIn("version 1", text)
        self.assertIn(self.main(page, "rental"), text)

        # A plan is kept with it, and seen.
        page.set_input_files("#file", {"name": "plan.png", "mimeType": "image/png", "buffer": page.screenshot()})
        page.select_option("#file-kind", "plan")
        page.click(".keeps-file button")
        expect(page.locator(".files li")).to_contain_text("plan.png")
        self.assertEqual(self.orm(lambda: DealFile.objects.get(parcel=parcel).kind), "plan")
        self.assert_accessible(page)

        # The owner asks less: opened again, it says so, with the figures of then and now.
        self.orm(lambda: Listing.objects.filter(parcel=parcel, superseded_at=None).update(list_price=asked - 12_000))
        self.orm(lambda: ParcelFacts.objects.filter(pk=parcel.pk).update(list_price=asked - 12_000))
        page.goto(f"{self.live_server_url}/deals/")
        self.assert_accessible(page)
        page.click("text=413 Fulling Mill Rd")
        expect(page.locator(".changes")).to_contain_text(f"asking price ${asked:,} → ${asked - 12_000:,}")

        # Emptied, the field is the record's again: what is asked now.
        self.set(page, "input:price", "", f"{asked - 12_000:,}")
        expect(page.locator(".changes tbody tr").first).to_be_visible()
        page.click("text=Compare with now")
        expect(page.locator(".compared")).to_contain_text("version 1")
        self.assert_accessible(page)
        inputs = self.orm(lambda: Worksheet.objects.get(parcel=parcel).content["inputs"])
        self.assertNotIn("price", inputs)

    @in_browser
    def test_assumptions_are_set_and_followed(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/deals/assumptions")
        self.assert_accessible(page)
        page.fill('[name="rental.vacancy"]', "11")
        page.press('[name="rental.vacancy"]', "Enter")
        expect(page.locator(".says").first).to_contain_text("Set.")
        parcel = self.orm(lambda: Parcel.objects.get(number=OTHER))
        page.goto(f"{self.live_server_url}/deals/comps/{parcel.pk}/")
        page.click("text=Open worksheet")
        expect(page.locator('[name="input:rental.vacancy"]')).to_have_value("11")
