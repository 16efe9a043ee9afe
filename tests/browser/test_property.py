"""From the rows into a property, through five of them, and back to the same place."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.core.phone_numbers import national
from jaded_ledger.properties.models import ContactView
from jaded_ledger.records.models import Contact
from tests.support.browser import BrowserCase, in_browser
from tests.support.keys import Keys
from tests.support.tiers import thorough

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

    @thorough
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
    def test_everything_that_is_done_to_a_property_by_key(self, page: Page) -> None:
        """From the rows into a property, tagged, noted, put on a list, undone, on to the next, and back; each act counts its keys."""
        self.open(page, SEARCH)
        page.wait_for_load_state()
        keys = Keys(page)
        page.keyboard.press("Escape")
        keys.press("o")
        self.stands_at(page, 1)
        here = page.url
        for act, typed, said in (
            ("t", "Corner", "Tagged “Corner”."),
            ("n", "Knock", "Note added."),
            ("k", "Doors", "Added to the new list “Doors”."),
        ):
            with keys.at_most(len(typed) + 2):
                keys.press(act)
                keys.type(typed)
                keys.press("Enter")
                expect(page.locator("main .says")).to_contain_text(said)
            self.stands_at(page, 1)
            self.assertEqual(page.url, here)
        for act, shown in (("z", "Undone"), (".", ""), (",", "")):
            with keys.at_most(1):
                keys.press(act)
                self.stands_at(page, 2 if act == "." else 1)
                if shown:
                    expect(page.locator("main .says")).to_contain_text(shown)
        # The list used last stands in its field: two keys put the next one on it.
        with keys.at_most(2):
            keys.press("k")
            keys.press("Enter")
            expect(page.locator("main .says")).to_contain_text("“Doors”")
        self.stands_at(page, 1)
        expect(page.locator(".figures")).to_contain_text("Corner")
        self.assert_accessible(page)
        # To its comps and back by one key each way; the worksheet the same.
        for act, leads_to in (("c", "/deals/comps/"), ("w", "/deals/worksheets/")):
            with keys.at_most(2):
                keys.press(act)
                page.wait_for_url(f"**{leads_to}**")
                page.wait_for_load_state()
                keys.press("b")
                page.wait_for_url("**/property/**")
                page.wait_for_load_state()

    @in_browser
    def test_all_are_selected_once_the_box_is_left(self, page: Page) -> None:
        """While the box has the focus every key types; after Esc, or a click outside it, keys are the page's."""
        self.open(page, SEARCH)
        box = page.locator("#typed")
        for leave in (
            lambda: page.keyboard.press("Escape"),
            lambda: page.locator(".face .turn, .face .sheet").first.click(position={"x": 4, "y": 4}),
        ):
            page.keyboard.press("/")
            page.keyboard.type("a")
            expect(box).to_have_value("a")
            expect(page.locator("#chosen")).to_contain_text("None")
            box.fill("")
            leave()
            expect(box).not_to_be_focused()
            page.keyboard.press("a")
            expect(page.locator("#chosen")).to_contain_text("All ")
            page.keyboard.press("u")

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

    @thorough
    @in_browser
    def test_the_page(self, page: Page) -> None:
        # A parcel with as many kinds of rows as any: an estate with suits, loans and listings.
        contact = self.orm(lambda: Contact.objects.filter(owner__roll_entries__parcel__loans__isnull=False).first())
        parcel = self.orm(lambda: contact.owner.roll_entries.filter(superseded_at=None, parcel__loans__isnull=False).first().parcel_id)
        page.goto(f"{self.live_server_url}/property/{parcel}/")
        expect(page.locator("#more")).not_to_have_attribute("aria-busy", "true")
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
        shown = national(contact.value) if contact.kind == "telephone" else contact.value
        for written in (shown, contact.value):
            self.assertNotIn(written, page.content())
        page.click(".contacts button")
        expect(page.locator("#owner")).to_contain_text(shown)
        self.assertEqual(self.orm(lambda: ContactView.objects.filter(parcel=parcel).count()), 1)
        self.assert_accessible(page)
        # The statement can be read for one kind of document, and as of a day.
        page.select_option("#show", "loans and liens")
        expect(page).to_have_url(re.compile(rf"/property/{parcel}/\?show=loans\+and\+liens&as_of=#statement$"))
        page.fill("#as_of", "2026-02-01")
        expect(page.locator(".says.caution")).to_contain_text("As the files on record had it on 1 Feb 2026")
        self.assert_accessible(page)

    @thorough
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
