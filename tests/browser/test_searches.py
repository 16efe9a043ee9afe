"""A search under a name: kept, asked, opened days later, and what is new then; and the first search, step by step."""

from __future__ import annotations

import re

from django.core.management import call_command
from playwright.sync_api import Page, expect

from jaded_ledger.records.clock import now
from jaded_ledger.searches.models import Opening
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


class Kept(BrowserCase):
    @thorough
    @in_browser
    def test_saved_opened_later_and_what_is_new(self, page: Page) -> None:
        self.open(page, 'on-offer: any of "for-sale"')
        # It is to ask for how long the listing was there; the answer is no change of it.
        page.fill("#typed", "days-on-market: ask")
        page.press("#typed", "Enter")
        expect(page.locator(".asks-first")).to_be_visible()
        page.locator("[name=answer]").fill("0..")
        page.press("[name=answer]", "Enter")
        expect(page.locator(".line")).to_have_count(2)
        expect(page.locator(".asks-first")).to_have_count(0)
        page.click("text=Save this search")
        page.wait_for_url("**/searches/save?*")
        self.assert_accessible(page)
        page.fill("[name=name]", "For sale in town")
        page.press("[name=name]", "Enter")
        page.wait_for_url(re.compile(r"from=\d+"))
        expect(page.locator(".kept .name")).to_have_text("For sale in town")
        before = self.matches(page)

        # Two days pass, and the search was opened before them.
        def two_days() -> None:
            Opening.objects.update(at=now())
            call_command("demo_day", days=2, verbosity=0, stdout=open("/dev/null", "w"))  # noqa: SIM115

        self.orm(two_days)
        page.goto(f"{self.live_server_url}/")
        page.click(".opened >> text=For sale in town")
        expect(page.locator("[name=answer]")).to_have_value("0..")
        expect(page.locator(".asks-first .histogram")).to_be_visible()
        page.press("[name=answer]", "Enter")
        expect(page.locator(".asks-first")).to_have_count(0)
        expect(page.locator(".kept")).to_contain_text("since 24 Nov 2026")
        self.assertNotEqual(self.matches(page), before)
        self.assert_accessible(page)
        page.click(".kept >> text=new")
        expect(page.locator(".stale-rows tbody tr").first).to_be_visible()
        came = int(page.locator("[aria-current=true]").inner_text().replace(",", ""))
        self.assertEqual(page.locator(".stale-rows tbody tr").count(), min(came, 50))
        self.assert_accessible(page)
        # Changed, compared, saved, and back to how it was.
        page.click("text=Open in Find")
        page.press("[name=answer]", "Enter")
        page.fill("#typed", "beds: 3..")
        page.press("#typed", "Enter")
        expect(page.locator(".kept")).to_contain_text("changed since it was saved")
        page.click("text=Compare")
        expect(page.locator("h1")).to_have_text("Two searches")
        self.assert_accessible(page)
        page.go_back()
        page.click("text=Save changes")
        expect(page.locator(".kept")).not_to_contain_text("changed since")
        page.click(".kept .name")
        expect(page.locator(".versions tbody tr")).to_have_count(2)
        page.click("text=Back to it")
        expect(page.locator(".versions tbody tr")).to_have_count(3)
        page.fill("[name=list]", "On the market now")
        page.press("[name=list]", "Enter")
        expect(page.locator(".says")).to_contain_text("follows this search")
        page.click("text=Delete the search")
        page.locator("body").press("Control+z")
        expect(page.locator(".says")).to_contain_text("restored")
        self.assert_accessible(page)

    @in_browser
    def test_a_first_search_step_by_step(self, page: Page) -> None:
        page.goto(self.live_server_url)
        self.assert_accessible(page)
        page.click("[data-guide]")
        guide = page.locator("#guide")
        step = guide.locator("li:visible")
        expect(step).to_contain_text("Type duplex")
        expect(page.locator("#typed")).to_be_focused()
        page.keyboard.type("duplex")
        page.keyboard.press("Enter")
        expect(step).to_contain_text("equity over 60%")
        page.keyboard.type("equity over 60%")
        page.keyboard.press("Enter")
        expect(step).to_contain_text("Click on what a line asks")
        self.assertEqual(self.lines(page)[1], "equity % over 60 %")
        self.assert_accessible(page)
        guide.locator("text=Next").click()
        guide.locator("text=Next").click()
        expect(step).to_contain_text("Choose rows")
        # The page can be left and come back to.
        page.reload()
        expect(step).to_contain_text("Choose rows")
        page.locator(".rows tbody input").first.check()
        expect(step).to_contain_text("Keep the search")
        guide.locator("text=Done").click()
        expect(guide).to_be_hidden()
        page.goto(self.live_server_url)
        expect(guide).to_be_hidden()
        page.click("[data-guide]")
        guide.locator("text=Leave").click()
        expect(guide).to_be_hidden()
        page.locator("body").press("a")
        expect(page.locator(".rows tbody tr")).to_have_count(50)

    @in_browser
    def test_a_starter_asks_and_is_saved_as_ones_own(self, page: Page) -> None:
        page.goto(self.live_server_url)
        page.click("text=Absentee with high equity")
        expect(page.locator("[name=answer]")).to_have_value(re.compile(r"^\d+\.\.$"))
        expect(page.locator("[name=answer]")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator(".asks-first")).to_have_count(0)
        page.click("text=Save it as yours")
        expect(page.locator("[name=name]")).to_have_value("Absentee with high equity")
        page.press("[name=name]", "Enter")
        expect(page.locator(".kept .name")).to_have_text("Absentee with high equity")
