"""The whole story, by keyboard: sign in, build a search, strike a line, choose all, print labels, read them back."""

from __future__ import annotations

import io
import re
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import pypdf
from playwright.sync_api import Page, expect

from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.demo.people import PASSWORD, USER
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


def search_of(page: Page) -> str:
    return parse_qs(urlsplit(page.url).query).get("q", [""])[0]


class Story(BrowserCase):
    def add(self, page: Page, typed: str, label: str) -> None:
        """Type into the add box and take the suggestion of a label, with the arrow keys."""
        page.keyboard.press("/")
        expect(page.locator("#typed")).to_be_focused()
        page.keyboard.type(typed)
        option = page.locator(".sug", has_text=label).first
        expect(option).to_be_visible()
        expect(page.locator("#suggestions")).to_have_attribute("data-typed", typed)
        for _ in range(20):
            page.keyboard.press("ArrowDown")
            if option.get_attribute("aria-selected") == "true":
                break
        page.keyboard.press("Enter")

    @in_browser
    def test_from_sign_in_to_labels_by_keyboard_alone(self, page: Page) -> None:
        self.context.clear_cookies()
        page.goto(self.live_server_url)
        page.keyboard.type(USER)
        page.keyboard.press("Tab")
        page.keyboard.type(PASSWORD)
        page.keyboard.press("Enter")
        page.wait_for_selector("#book")
        # A value found by what it is called, a saying, and a trait whose editor opens.
        self.add(page, "two-flat", "duplex")
        expect(page.locator(".line")).to_have_count(1)
        page.locator("body").focus()
        page.keyboard.press("Escape")
        page.locator("#line-0").focus()
        self.add(page, "mailing address differs", "mailing address differs")
        expect(page.locator(".line")).to_have_count(2)
        page.locator("#line-1").focus()
        self.add(page, "sold", "last sale")
        page.wait_for_selector("#editor")
        page.keyboard.type("more than 5 years ago")
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(3)
        self.assertEqual(search_of(page), "class: duplex\nowner-occupied: no\nlast-sale: more than 5 years ago")
        three = self.matches(page)
        # A criterion typed whole.
        page.locator("#line-2").focus()
        page.keyboard.press("/")
        page.keyboard.type("beds: 5..")
        page.keyboard.press("Enter")
        expect(page.locator(".line")).to_have_count(4)
        four = self.matches(page)
        self.assertLess(four, three)
        # Strike it, move it up, take it away, and come back by the browser's history.
        page.locator("#line-3").focus()
        page.keyboard.press("s")
        expect(page.locator("#line-3")).to_have_class("line struck")
        self.assertEqual(self.matches(page), three)
        expect(page.locator("#line-3")).to_be_focused()
        page.keyboard.press("Alt+ArrowUp")
        expect(page.locator("#line-2")).to_have_class("line struck")
        page.locator("#line-2").focus()
        page.keyboard.press("Delete")
        expect(page.locator(".line")).to_have_count(3)
        for step, place, state in [
            (page.go_back, "#line-2", "line struck"), (page.go_back, "#line-3", "line struck"), (page.go_back, "#line-3", "line"),
            (page.go_forward, "#line-3", "line struck"),
        ]:  # fmt: skip
            self.settled(page)
            step()
            expect(page.locator(place)).to_have_class(state)
            expect(page.locator("#matches")).to_have_text(f"{four if state == 'line' else three:,}")
        # All matches to labels.
        page.locator("#line-0").focus()
        page.keyboard.press("a")
        expect(page.locator("#chosen")).to_contain_text(f"All {three:,} chosen")
        page.locator("button[value=mail]").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("#pieces")
        pieces = int(page.inner_text("#pieces").replace(",", ""))
        self.assertLess(pieces, three)
        expect(page.locator(".ledger .opening .bal")).to_have_text(f"{three:,}")
        drawn = page.locator(".paper text").first.text_content()
        with page.expect_download() as download:
            page.locator("#make button").focus()
            page.keyboard.press("Enter")
        reader = pypdf.PdfReader(io.BytesIO(Path(download.value.path()).read_bytes()))
        text = "\n".join(sheet.extract_text() for sheet in reader.pages)
        self.assertIn(drawn, text)
        self.assertEqual(len(reader.pages), -(-pieces // 30))
        self.assertEqual(len(re.findall(r" [A-Z]{2} \d{5}", text)), pieces)
        log = self.orm(lambda: ContactExport.objects.select_related("user").get())
        self.assertEqual((log.user.username, log.form, log.count), ("nora", "labels", pieces))
        self.assertIn("last-sale: more than 5 years ago", log.search)


class Labels(BrowserCase):
    @thorough
    @in_browser
    def test_addressing_sheet_and_start_change_the_drawing(self, page: Page) -> None:
        self.open(page, "class: triplex, residential-lot")
        page.click("[data-choose=all]")
        page.click("button[value=mail]")
        page.select_option("#to", "resident")
        page.select_option("#stock", "a4-21")
        page.fill("#start", "4")
        expect(page.locator(".paper text").first).to_have_text("CURRENT RESIDENT")
        expect(page.locator(".paper g")).to_have_count(21)
        self.assertEqual(page.locator(".paper g.free").count(), 3)
        self.assert_accessible(page)
        page.locator("text=Who is left out").click()
        page.wait_for_selector(".right .rows tbody")
        self.assert_accessible(page)

    @in_browser
    def test_a_wrong_start_is_told(self, page: Page) -> None:
        self.open(page, "class: triplex")
        page.click("[data-choose=all]")
        page.click("button[value=mail]")
        page.fill("#start", "99")
        expect(page.locator("#terms-wrong")).to_contain_text("from 1 to 80")
        page.fill("#start", "31")
        expect(page.locator("#terms-wrong")).to_contain_text("egin at 1 to 30")
        page.fill("#start", "30")
        expect(page.locator(".paper g.free")).to_have_count(29)


class Replies(BrowserCase):
    @thorough
    @in_browser
    def test_from_a_mailing_to_a_reply_in_two_keys(self, page: Page) -> None:
        self.open(page, "class: triplex")
        page.click("[data-choose=all]")
        page.click("button[value=mail]")
        page.wait_for_selector("#pieces")
        pieces = page.inner_text("#pieces")
        page.locator(".lets-go input").first.check()
        expect(page.locator("#ledger .struck")).to_have_count(1)
        self.assertNotEqual(page.inner_text("#pieces"), pieces)
        with page.expect_download():
            page.click("#make button")
        page.reload()
        expect(page.locator(".right")).to_contain_text("None of its pieces has become wrong")
        self.assert_accessible(page)
        code = page.locator(".right tbody th a").first.inner_text()
        page.goto(f"{self.live_server_url}/outreach/ring/")
        page.keyboard.type(code)
        expect(page.locator(".found-piece")).to_have_count(1)
        self.assert_accessible(page)
        for _ in range(2):
            with page.expect_navigation():
                page.keyboard.press("Enter")
        expect(page.locator(".about-piece")).to_contain_text("replied")
        page.click("[data-undo]")
        expect(page.locator(".about-piece")).not_to_contain_text("replied")
        for place in ("do-not-contact/", "settings/", "response/", ""):
            page.goto(f"{self.live_server_url}/outreach/{place}")
            self.assert_accessible(page)


class Export(BrowserCase):
    @in_browser
    def test_rows_chosen_on_two_pages_come_out_as_a_file(self, page: Page) -> None:
        self.open(page, "class: duplex")
        page.locator(".rows tbody input").nth(0).check()
        page.locator(".rows tbody input").nth(2).check()
        expect(page.locator("#chosen")).to_contain_text("2 chosen of 2 owners")
        page.get_by_label("Next page").click()
        expect(page.locator(".pages")).to_contain_text("51–100")
        page.locator(".rows tbody input").nth(5).check()
        expect(page.locator("#chosen")).to_contain_text("3 chosen")
        page.get_by_label("Previous page").click()
        expect(page.locator(".pages")).to_contain_text("1–50")
        expect(page.locator(".rows tr.sel")).to_have_count(2)
        page.click("button[value=contacts]")
        expect(page.locator(".stands-on")).to_contain_text("3 parcels")
        self.assert_accessible(page)
        page.check("#column-beds")
        left = self.figure(page, "#rows")
        with page.expect_download() as download:
            page.click("button >> text=Download")
        lines = Path(download.value.path()).read_text().splitlines()
        # One row for each of them, but for those who asked not to be contacted.
        self.assertEqual(len(lines) - 1, left)
        self.assertIn(left, (1, 2, 3))
        self.assertTrue(lines[0].startswith("county,parcel number,beds") or "beds" in lines[0])

    @in_browser
    def test_all_matches_but_one(self, page: Page) -> None:
        self.open(page, "class: triplex")
        total = self.matches(page)
        page.click("[data-choose=all]")
        page.locator(".rows tbody input").nth(0).uncheck()
        expect(page.locator("#chosen")).to_contain_text(f"{total - 1} chosen of")
        page.click("button[value=contacts]")
        expect(page.locator(".stands-on")).to_contain_text(f"{total - 1} parcels")
