"""Find over several counties: choosing them, what one of them never says, and one's own columns."""

from __future__ import annotations

import csv
import io
import re

from playwright.sync_api import Page, expect

from jaded_ledger.records.models import ParcelFacts
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

DAY = r"\d{1,2} \w{3} \d{4}"


class Counties(BrowserCase):
    def choose(self, page: Page, *names: str) -> None:
        page.click(".counties summary")
        for box in page.locator(".counties input").all():
            box.set_checked(box.get_attribute("value") in names)
        page.click(".counties button")
        reaches = r"\s+·\s+".join(rf"{name}\s+{DAY}" for name in names)
        expect(page.locator("#stands-on")).to_have_text(re.compile(rf"^\s*Data as of:\s+{reaches}\s*$"))

    @thorough
    @in_browser
    def test_several_at_once(self, page: Page) -> None:
        self.open(page)
        self.assertEqual(self.matches(page), 12_500)
        self.choose(page, "Odell Marsh", "Pike Hollow")
        self.assertEqual(self.matches(page), 5_300)
        # The head says how far the records reach of all that are chosen.
        expect(page.locator("#stands-on")).to_contain_text("31 Oct 2026")
        page.fill("#typed", "baths: 2")
        page.press("#typed", "Enter")
        # Where the roll doesn't say, it fell out for that alone: the line shows how many, and a click keeps them.
        unknown = self.orm(lambda: ParcelFacts.objects.filter(county__name__in=["Odell Marsh", "Pike Hollow"], baths=None).count())
        self.assertGreater(unknown, 0)
        expect(page.locator("#line-0 .none")).to_have_text(f"{unknown:,} not known")
        kept = self.matches(page)
        page.click("#line-0 .none")
        expect(page.locator("#line-0 .none")).to_have_count(0)
        self.assertEqual(self.matches(page), kept + unknown)
        self.choose(page, "Odell Marsh")
        self.assertEqual(self.lines(page), ["baths 2, or not known"])
        self.assert_accessible(page)
        page.go_back()
        expect(page.locator("#stands-on")).to_have_text(re.compile(rf"Odell Marsh\s+{DAY}\s+·\s+Pike Hollow\s+{DAY}"))

    @thorough
    @in_browser
    def test_a_countys_own_columns(self, page: Page) -> None:
        held = self.orm(lambda: ParcelFacts.objects.filter(county__name="Odell Marsh", further__has_key=self.place("tillable_ac")).count())
        self.open(page)
        page.click("#typed")
        page.keyboard.type("tillable")
        option = page.locator(".sug", has_text="Tillable Ac")
        expect(option).to_contain_text("Odell Marsh’s own column")
        expect(option.locator(".fill")).to_have_text(f"{100 * held // 12_500} % known")
        option.click()
        page.fill("#editor [name=low]", "5")
        page.click("#editor button[name=set]")
        page.wait_for_selector("#editor", state="detached")
        self.assertEqual(self.lines(page), ["Tillable Ac 5 or more"])
        expect(page.locator("#line-0 .none")).to_have_text(f"{12_500 - held:,} not known")
        # Few words are ticked; more than a few are found by typing.
        page.click("#typed")
        # What is offered for the letters before it gives way under the hand.
        with self.swapped(page, "typed=access"):
            page.keyboard.type("access")
        page.locator(".sug", has_text="Odell Marsh’s own column").filter(has_text="Access").first.click()
        page.check("#editor [value='public road']")
        page.click("#editor button[name=set]")
        page.wait_for_selector("#editor", state="detached")
        page.click("#typed")
        with self.swapped(page, "typed=land%20desc"):
            page.keyboard.type("land desc")
        page.locator(".sug", has_text="Land Desc").first.click()
        page.fill("#editor [name=words]", "tillable")
        page.click("#editor button[name=set]")
        page.wait_for_selector("#editor", state="detached")
        self.assertEqual(self.lines(page)[1:], ["Access public road", "Land Desc with “tillable”"])
        # Shown, sorted, and taken out like any other.
        page.click(".turn >> text=Show what is asked")
        page.click(".rows thead >> text=Tillable Ac")
        expect(page.locator(".rows th[aria-sort=descending]")).to_contain_text("Tillable Ac")
        place = page.locator(".rows thead [data-column$='tillable-ac']").evaluate("heading => heading.cellIndex + 1")
        acres = [float(text) for text in page.locator(f".rows tbody tr > :nth-child({place})").all_inner_texts()]
        self.assertGreater(len(acres), 1)
        self.assertEqual(acres, sorted(acres, reverse=True))
        page.keyboard.press("a")
        page.click("#selection button[value=contacts]")
        left = self.figure(page, "#rows")
        with page.expect_download() as file:
            page.click("button >> text=Download")
        with open(file.value.path(), encoding="utf-8-sig", newline="") as handle:
            rows = list(csv.DictReader(io.StringIO(handle.read())))
        self.assertEqual(len(rows), left)
        # All but those who asked not to be contacted.
        self.assertIn(len(acres) - left, range(len(acres)))
        self.assertTrue(all(float(row["Tillable Ac"]) >= 5 and "TILLABLE" in row["Land Desc"] for row in rows))

    @staticmethod
    def place(key: str) -> str:
        county = ParcelFacts.objects.filter(county__name="Odell Marsh").values_list("county", flat=True).first()
        return f"c{county}_{key}"
