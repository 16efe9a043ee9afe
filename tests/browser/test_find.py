"""Find by mouse: editors of each kind, unknowns, columns, text, empty results, awkward names, two windows."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.records.models import ParcelFacts, RecordedName, RollEntry
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


class Editors(BrowserCase):
    def open_new(self, page: Page, trait: str) -> None:
        """Open a trait's editor by browsing the sections."""
        page.click("#typed")
        page.locator("#suggestions .sug", has=page.locator("b", has_text=re.compile(f"^{re.escape(trait)}$"))).first.click()
        page.wait_for_selector("#editor")

    def set(self, page: Page) -> None:
        page.click("#editor button[name=set]")
        page.wait_for_selector("#editor", state="detached")

    @thorough
    @in_browser
    def test_each_kind_of_editor(self, page: Page) -> None:
        self.open(page)
        self.open_new(page, "assessed value")
        page.fill("#editor [name=low]", "100k")
        page.fill("#editor [name=high]", "$300,000")
        self.assert_accessible(page)
        self.set(page)
        self.open_new(page, "class")
        page.check("#editor [value=duplex]")
        page.check("#editor [value=single-family]")
        self.set(page)
        self.open_new(page, "owner occupied")
        page.check("#editor [value=no]")
        page.check("#keep-unknown")
        self.set(page)
        self.open_new(page, "municipality")
        page.check("#editor [value='City of Alder Bay']")
        self.set(page)
        self.open_new(page, "last sale")
        page.click("text=more than 10 years ago")
        page.wait_for_selector("#editor", state="detached")
        self.open_new(page, "parcel number")
        page.select_option("#editor [name=sense]", "not")
        page.fill("#editor [name=words]", "12-001-*")
        self.set(page)
        self.open_new(page, "street")
        page.fill("#editor [name=words]", "capst")
        page.locator("#options label", has_text="Capstan St").first.click()
        self.set(page)
        self.assertEqual(
            self.lines(page),
            [
                "assessed value $100,000 to $300,000", "class single-family, duplex", "owner occupied no, or not known",
                "municipality City of Alder Bay", "last sale more than 10 years ago", "parcel number not 12-001-*",
                "street Capstan St",
            ],
        )  # fmt: skip
        self.assertGreater(self.matches(page), 0)
        # Edit one in place, and one as text.
        page.click("#edit-0")
        page.fill("#editor [name=high]", "")
        self.set(page)
        page.click("#edit-1")
        page.click("#editor .raw summary")
        page.fill("#editor [name=raw]", "duplex; not triplex")
        page.click("text=Apply the text")
        page.wait_for_selector("#editor", state="detached")
        self.assertEqual(self.lines(page)[:2], ["assessed value $100,000 or more", "class duplex, but not triplex"])

    @thorough
    @in_browser
    def test_a_group_is_added_and_edited_in_place(self, page: Page) -> None:
        self.open(page)
        page.click("text=any of several")
        page.fill("#editor textarea", "beds: 4..\nbathz: 3")
        page.click("#editor button[name=set]")
        expect(page.locator("#editor [role=alert]")).to_contain_text('line 2: "bathz" is not a trait; did you mean baths?')
        self.assertEqual(page.input_value("#editor textarea"), "beds: 4..\nbathz: 3")
        self.assert_accessible(page)
        page.fill("#editor textarea", "beds: 4..\nbaths: 3..")
        self.set(page)
        first = self.matches(page)
        self.assertEqual(self.lines(page), ["any of beds 4 or more or baths 3 or more"])
        page.hover("#line-0")
        page.click("#line-0 [title=More]")
        page.click("text=Edit the group as text")
        page.fill("#editor textarea", "beds: 4..\nbaths: 3..\nclass: duplex")
        self.set(page)
        self.assertGreater(self.matches(page), first)
        # One alternative by itself.
        page.click("#edit-0-2")
        page.check("#editor [value=triplex]")
        self.set(page)
        self.assertEqual(self.lines(page), ["any of beds 4 or more or baths 3 or more or class duplex, triplex"])
        page.click("#edit-0-0")
        page.click("text=Remove it from the group")
        expect(page.locator(".line")).to_have_count(2)
        self.assertEqual(self.lines(page), ["any of baths 3 or more or class duplex, triplex", "beds 4 or more"])

    @in_browser
    def test_what_is_wrong_is_said_and_nothing_typed_is_lost(self, page: Page) -> None:
        self.open(page)
        self.open_new(page, "beds")
        page.fill("#editor [name=low]", "many")
        page.fill("#editor [name=high]", "9")
        page.click("#editor button[name=set]")
        expect(page.locator("#editor [role=alert]")).to_contain_text("is not a figure")
        self.assertEqual(page.input_value("#editor [name=low]"), "many")
        self.assertEqual(page.input_value("#editor [name=high]"), "9")
        page.locator("#editor [name=low]").press("Escape")
        expect(page.locator("#editor")).to_have_count(0)
        page.fill("#typed", "beds: many")
        page.press("#typed", "Enter")
        expect(page.locator("#add-wrong")).to_contain_text("is not a figure")
        self.assertEqual(page.input_value("#typed"), "beds: many")


class Ledger(BrowserCase):
    SEARCH = "\n".join(
        [
            "class: single-family, duplex",
            "owner-occupied: no",
            "last-sale: more than 5 years ago",
            "any of:",
            "  beds: 3..",
            "  baths: 2..",
            "~ zip: 53302",
        ]
    )

    @in_browser
    def test_a_line_tells_what_it_did(self, page: Page) -> None:
        self.open(page, self.SEARCH)
        before = self.matches(page)
        page.hover("#line-2")
        back = page.locator("#line-2 .give")
        expect(back).to_be_visible()
        given = int(back.inner_text().split()[-1].replace(",", ""))
        unknown = page.locator("#line-2 button.none")
        kept = int(unknown.inner_text().split()[0].replace(",", ""))
        self.assertGreater(kept, 0)
        page.click("#line-2 [title='Turn off']")
        expect(page.locator("#line-2")).to_have_class("line struck")
        self.assertEqual(self.matches(page), before + given)
        page.hover("#line-2")
        page.click("#line-2 [title='Turn on']")
        expect(page.locator("#line-2")).to_have_class("line")
        page.locator("#line-2 button.none").click()
        expect(page.locator("#line-2 .says-it")).to_contain_text("or not known")
        self.assertGreater(self.matches(page), before)
        expect(page.locator("#counted")).to_contain_text("owners")
        self.assert_accessible(page)

    @in_browser
    def test_text_both_ways(self, page: Page) -> None:
        self.open(page, self.SEARCH)
        page.click("text=Text")
        self.assertEqual(page.input_value("#text"), self.SEARCH)
        page.fill("#text", "beds: 3..\nbedz: 4")
        page.click("text=Read it")
        expect(page.locator("#text-wrong")).to_contain_text('line 2: "bedz" is not a trait; did you mean beds?')
        self.assertEqual(page.input_value("#text"), "beds: 3..\nbedz: 4")
        self.assert_accessible(page)
        page.fill("#text", "~ beds: 3..\nbaths: 2..")
        page.click("text=Read it")
        expect(page.locator(".line")).to_have_count(2)
        self.assertEqual(self.lines(page), ["beds 3 or more", "baths 2 or more"])

    @in_browser
    def test_an_address_that_can_not_be_read_comes_back_as_text(self, page: Page) -> None:
        self.open(page, "beds: <script>alert(1)</script>")
        self.assertEqual(page.input_value("#text"), "beds: <script>alert(1)</script>")
        expect(page.locator("#text-wrong")).to_contain_text("is not a figure")

    @in_browser
    def test_an_empty_result_says_which_line_emptied_it(self, page: Page) -> None:
        self.open(page, "class: duplex\nbeds: 99..\nbaths: 1..")
        expect(page.locator(".blank")).to_contain_text("Nothing is left after beds 99 or more")
        self.assertEqual(self.matches(page), 0)
        self.assert_accessible(page)
        page.click(".blank button >> text=Turn it off")
        expect(page.locator("#line-1")).to_have_class("line struck")
        self.assertGreater(self.matches(page), 0)

    @in_browser
    def test_a_place_that_is_not_on_record_keeps_the_lines(self, page: Page) -> None:
        self.open(page, "class: duplex\ncity: Aldr Bay")
        expect(page.locator(".left [role=alert]")).to_contain_text("did you mean Alder Bay?")
        self.assertEqual(len(self.lines(page)), 2)

    @in_browser
    def test_columns_sorting_and_a_long_search(self, page: Page) -> None:
        self.open(page, "class: duplex\nyear-built: 1900..1920")
        page.click("text=Show what is asked")
        expect(page.locator(".rows thead")).to_contain_text("Year built")
        page.click(".rows thead >> text=Year built")
        expect(page).to_have_url(re.compile("sort=-year-built"))
        expect(page.locator(".rows th[aria-sort=descending]")).to_have_count(1)
        years = page.locator("tbody td.n").evaluate_all("cells => cells.map(cell => cell.textContent)")
        shown = [int(text) for text in years if text.isdigit() and len(text) == 4]
        self.assertEqual(shown, sorted(shown, reverse=True))
        page.click("details.columns summary")
        page.uncheck("#column-owner-name")
        page.check("#column-lot-acres")
        page.click("text=Show these")
        expect(page.locator(".rows thead")).to_contain_text("Lot, acres")
        expect(page.locator(".rows thead")).not_to_contain_text("Owner")
        long = "\n".join(f'owner-name: not "name number {n} that is nobody\'s at all"' for n in range(40))
        page.click("text=Text")
        page.fill("#text", long)
        page.click("text=Read it")
        expect(page.locator(".line")).to_have_count(40)
        self.assertLess(len(page.url), 400)
        page.reload()
        expect(page.locator(".line")).to_have_count(40)

    @in_browser
    def test_awkward_names_are_only_text(self, page: Page) -> None:
        awkward = '<script>alert("x")</script> & O\'DELL "BUD" ' + "VERYLONG" * 30

        def rename() -> None:
            name = RecordedName.objects.create(**RecordedName.search_forms(awkward), mailing_name=awkward.upper(), kind="individual")
            parcel = ParcelFacts.objects.filter(property_class=2).first().parcel
            ParcelFacts.objects.filter(parcel=parcel).update(owner_name=name)
            RollEntry.objects.filter(parcel=parcel, superseded_at=None).update(owner_name=name)

        self.orm(rename)
        self.open(page)
        page.click("#typed")
        page.keyboard.type("bud")
        option = page.locator(".sug", has_text="script").first
        option.click()
        expect(page.locator("#matches")).to_have_text("1")
        expect(page.locator(".rows tbody")).to_contain_text('<script>alert("x")</script>')
        page.click("[data-choose=all]")
        page.click("button[value=mail]")
        expect(page.locator("#pieces")).to_have_text("0")
        expect(page.locator("#ledger")).to_contain_text("too long for what it is printed on")

    @in_browser
    def test_two_windows_do_not_disturb_each_other(self, page: Page) -> None:
        other = self.new_page(self.context)
        self.open(page, "class: duplex")
        self.open(other, "class: triplex")
        page.locator(".rows tbody input").nth(0).check()
        expect(page.locator("#chosen")).to_contain_text("1 chosen")
        expect(other.locator("#chosen")).to_contain_text("None chosen")
        other.hover("#line-0")
        other.click("#line-0 [title='Remove']")
        expect(other.locator(".line")).to_have_count(0)
        self.assertEqual(self.lines(page), ["class duplex"])

    @in_browser
    def test_shortcuts_can_be_switched_off(self, page: Page) -> None:
        self.open(page)
        page.keyboard.press("?")
        expect(page.locator("#keys")).to_be_visible()
        self.assert_accessible(page)
        page.keyboard.press("Escape")
        page.goto(f"{self.live_server_url}/you/")
        page.uncheck("#single_key_shortcuts")
        page.click("text=Save")
        self.assert_accessible(page)
        page.goto(self.live_server_url)
        page.keyboard.press("/")
        expect(page.locator("#typed")).not_to_be_focused()


class Looks(BrowserCase):
    @thorough
    @in_browser
    def test_main_pages_are_accessible_light_and_dark(self, page: Page) -> None:
        # In the dark all is the same but the colors.
        for scheme, rules in (("light", None), ("dark", ["color-contrast"])):
            page.emulate_media(color_scheme=scheme)
            for path in ("/?q=class%3A%20duplex", "/outreach/", "/you/"):
                page.goto(self.live_server_url + path)
                self.assert_accessible(page, rules)
            page.goto(self.live_server_url)
            page.keyboard.press("/")
            page.wait_for_selector("#suggestions .sug")
            self.assert_accessible(page, rules)

    @in_browser
    def test_a_phone(self, page: Page) -> None:
        page.set_viewport_size({"width": 390, "height": 800})
        self.open(page, "class: duplex\nowner-occupied: no")
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        self.assert_accessible(page)
