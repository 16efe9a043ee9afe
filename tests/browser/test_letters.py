"""A letter is written, sent and repeated: by the preview, in a mailing, and through the days that follow."""

from __future__ import annotations

import io
from datetime import timedelta
from pathlib import Path

import pypdf
from playwright.sync_api import Page, expect

from jaded_ledger.mailings.mail_orders import catch_up_all
from jaded_ledger.mailings.models import LetterTemplate, Mailing, MailReport
from jaded_ledger.records.models import World
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


class Letters(BrowserCase):
    def day_passes(self) -> None:
        """Let a day pass, and the worker ask the mail house for news, as it does every few minutes."""
        world = World.objects.get()
        World.objects.filter(pk=world.pk).update(today=world.today + timedelta(1))
        catch_up_all()

    @in_browser
    def test_a_letter_is_written_beside_what_it_says(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/outreach/letters/")
        self.assert_accessible(page)
        page.click("button:has-text('New letter')")
        expect(page.locator("#sample svg")).to_have_count(1)
        self.assert_accessible(page)
        page.fill("#name", "To the street")
        page.fill("#text", "Dear {salutation|neighbor},\n\nyou have owned ")
        page.locator("#text").press("Control+End")
        page.click("[data-field=address]")
        expect(page.locator("#text")).to_have_value("Dear {salutation|neighbor},\n\nyou have owned {address}")
        expect(page.locator("#sample .merged")).to_have_count(2)
        # What is half written says so, and what was written stays.
        page.locator("#text").press("Control+End")
        page.keyboard.type(" for {years")
        expect(page.locator("#sample [role=alert]")).to_contain_text("stands alone")
        page.keyboard.type("-owned|some time}")
        expect(page.locator("#sample .merged")).to_have_count(3)
        page.click("button:has-text('Keep')")
        expect(page.locator("h1")).to_have_text("To the street")
        text = self.orm(lambda: LetterTemplate.objects.get(name="To the street").text)
        self.assertEqual(text, "Dear {salutation|neighbor},\n\nyou have owned {address} for {years-owned|some time}")
        first = page.text_content("#sample svg")
        page.click("#sample [rel=next]")
        expect(page.locator("#sample")).to_contain_text("letter 2 of")
        self.assertNotEqual(page.text_content("#sample svg"), first)

    @thorough
    @in_browser
    def test_a_series_through_a_month_with_a_return_and_a_reply(self, page: Page) -> None:
        self.open(page, "class: residential\nowner-occupied: no\nequity-pct: 60..")
        page.click("[data-choose=all]")
        page.click("button[value=mail]")
        page.wait_for_selector("#pieces")
        page.select_option("#form", "letters")
        page.wait_for_selector("#letter")
        with self.swapped(page, "/change"):
            page.select_option("[name=letter-estate]", label="To an executor")
        with self.swapped(page, "/change"):
            page.select_option("#against", label="To owners of several")
        expect(page.locator(".whom")).to_contain_text(" and ")
        self.assert_accessible(page)
        with page.expect_download() as download:
            page.click("#make button")
        page.reload()
        mailing = self.orm(lambda: Mailing.objects.latest("pk"))
        reader = pypdf.PdfReader(io.BytesIO(Path(download.value.path()).read_bytes()))
        self.assertEqual(len(reader.pages), mailing.pieces_made)
        self.assertIn(f"{mailing.code}-1", reader.pages[0].extract_text())
        page.click("button:has-text('To the mail house')")
        expect(page.locator("[role=status]").first).to_contain_text("it charges $")
        page.fill("[name=every_days]", "30")
        page.fill("[name=rounds]", "2")
        page.click("button:has-text('Repeat')")
        expect(page.locator(".left")).to_contain_text("No. 1 of the series")
        self.assert_accessible(page)
        for _ in range(12):
            self.orm(self.day_passes)
        # Somebody calls with the letter in the hand.
        code = f"{mailing.code}-2"
        page.goto(f"{self.live_server_url}/outreach/ring/?typed={code}")
        expect(page.locator(".found-piece svg")).to_contain_text("Dear")
        self.assert_accessible(page)
        page.click("button[value=reply]")
        expect(page.locator(".about-piece")).to_contain_text("replied")
        for _ in range(18):
            self.orm(self.day_passes)
        returned = self.orm(lambda: set(MailReport.objects.filter(kind="returned").values_list("piece__number", flat=True)))
        self.assertTrue(returned)
        page.goto(f"{self.live_server_url}/outreach/mailings/{mailing.pk}/")
        expect(page.locator(".left")).to_contain_text("came back")
        page.goto(f"{self.live_server_url}/outreach/")
        expect(page.locator("tr.due")).to_contain_text(mailing.name)
        self.assert_accessible(page)
        page.click("button:has-text('Prepare no. 2')")
        expect(page.locator("h1")).to_contain_text("no. 2")
        expect(page.locator("#ledger")).to_contain_text("replied, sold or was listed since the series began")
        left = self.figure(page, "#pieces")
        self.assertLessEqual(left, mailing.pieces_made - len(returned - {2}) - 1)
        self.assertGreater(left, 0)
        page.goto(f"{self.live_server_url}/outreach/response/")
        expect(page.locator("main")).to_contain_text("By letter")
        expect(page.locator("main")).to_contain_text("Absentee with high equity")
        self.assert_accessible(page)
