"""From the rows into a property, through five of them, and back to the same place."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.properties.models import ContactView
from jaded_ledger.records.models import Contact
from tests.browser.case import BrowserCase, in_browser

SEARCH = "class: duplex\nowner-occupied: no\nliving-area: 1500.."


class Paging(BrowserCase):
    def in_view(self, page: Page, selector: str) -> bool:
        return page.locator(selector).evaluate(
            "row => { const box = row.getBoundingClientRect(), sheet = row.closest('.sheet').getBoundingClientRect();"
            " return box.top >= sheet.top && box.bottom <= sheet.bottom }"
        )

    def stands_at(self, page: Page, at: int) -> None:
        """Wait for a property's page, and for its keys."""
        expect(page.locator("#at")).to_contain_text(f"{at} of")
        page.wait_for_load_state()

    @in_browser
    def test_by_keyboard_through_five_and_back(self, page: Page) -> None:
        self.open(page, SEARCH)
        page.wait_for_load_state()
        rows = page.locator(".rows tbody tr")
        ids = rows.evaluate_all("rows => rows.map(row => row.dataset.parcel)")
        self.assertEqual(len(ids), 50)
        page.locator(f"#parcel-{ids[0]}").focus()
        for _ in range(24):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        self.stands_at(page, 25)
        for at in range(26, 31):
            page.keyboard.press(".")
            self.stands_at(page, at)
            self.assertIn(f"/property/{ids[at - 1]}/", page.url)
        page.keyboard.press(",")
        self.stands_at(page, 29)
        page.keyboard.press("b")
        here = f"#parcel-{ids[28]}"
        expect(page.locator(here)).to_be_focused()
        self.assertTrue(self.in_view(page, here))
        self.assertEqual(len(self.lines(page)), 3)

    @in_browser
    def test_by_mouse_and_the_browsers_own_way_back(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/?q=class%3A%20duplex&sort=-living-area&page=2")
        row = page.locator(".rows tbody tr").nth(40)
        here = f"#parcel-{row.get_attribute('data-parcel')}"
        row.locator("input").check()
        row.locator(".id a").click()
        expect(page.locator("#at")).to_contain_text("91 of")
        page.go_back()
        expect(page.locator(here)).to_be_focused()
        self.assertTrue(self.in_view(page, here))
        # What was chosen before is still chosen, and the row is where it was.
        expect(page.locator("tr", has=page.locator(here)).locator("input")).to_be_checked()
        expect(page.locator("#chosen")).to_contain_text("1 chosen")

    @in_browser
    def test_the_page(self, page: Page) -> None:
        # A parcel with as many kinds of rows as any: an estate with suits, loans and listings.
        contact = self.orm(lambda: Contact.objects.filter(owner__roll_entries__parcel__loans__isnull=False).first())
        parcel = self.orm(lambda: contact.owner.roll_entries.filter(superseded_at=None, parcel__loans__isnull=False).first().parcel_id)
        page.goto(f"{self.live_server_url}/property/{parcel}/")
        self.assert_accessible(page)
        lengths = page.locator(".drawing .length")
        self.assertGreaterEqual(lengths.count(), 3)
        self.assertRegex(lengths.first.text_content(), r"^[\d,]+\.\d ft$")
        self.assertGreater(page.locator(".drawing .neighbor").count(), 1)
        # The index follows the scroll, and leads.
        page.click(".index a[href='#taxes']")
        expect(page.locator(".index a[href='#taxes']")).to_have_attribute("aria-current", "true")
        page.locator(".folio-right").evaluate("right => { right.scrollTop = 0 }")
        expect(page.locator(".index a[href='#statement']")).to_have_attribute("aria-current", "true")
        # Numbers are shown on request, in place.
        self.assertNotIn(contact.value, page.content())
        page.click(".contacts button")
        expect(page.locator("#owner")).to_contain_text(contact.value)
        self.assertEqual(self.orm(lambda: ContactView.objects.filter(parcel=parcel).count()), 1)
        self.assert_accessible(page)
        # The statement can be read for one kind of document, and as of a day.
        page.select_option("#show", "loans and liens")
        expect(page).to_have_url(re.compile(rf"/property/{parcel}/\?show=loans\+and\+liens&as_of=#statement$"))
        page.fill("#as_of", "2026-02-01")
        expect(page.locator(".says.caution")).to_contain_text("As the files on record had it on 1 Feb 2026")
        self.assert_accessible(page)

    @in_browser
    def test_dark_and_on_a_telephone(self, page: Page) -> None:
        page.emulate_media(color_scheme="dark")
        self.open(page, SEARCH)
        page.locator(".rows .id a").first.click()
        expect(page.locator("#at")).to_contain_text("1 of")
        self.assert_accessible(page)
        page.set_viewport_size({"width": 390, "height": 844})
        self.assert_accessible(page)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
