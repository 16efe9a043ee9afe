"""Every way to ask, by keyboard alone and by mouse: editors, brushes, groups, questions, phrases, fast hands, undo."""

from __future__ import annotations

import re
import time

from playwright.sync_api import Page, expect

from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from tests.support.browser import BrowserCase, HeldRequests, in_browser
from tests.support.tiers import thorough

SEARCH = "county: Tamarack\nclass: single-family, duplex\nowner-occupied: no\nbeds: 2..\nlast-sale: more than 5 years ago"


class AskingCase(BrowserCase):
    def text(self, page: Page) -> str:
        """Return the search's text form as the page holds it."""
        return page.get_attribute("#search", "data-search") or ""

    def assert_text(self, page: Page, text: str) -> None:
        expect(page.locator("#search")).to_have_attribute("data-search", text)

    def count(self, text: str) -> int:
        return self.orm(lambda: balance(compile(parse(text), scope_of_command())).matches)

    def assert_counted(self, page: Page) -> None:
        """The figure at the foot is that of the search which the page shows."""
        self.assertEqual(self.matches(page), self.count(self.text(page)))


class Editors(AskingCase):
    @in_browser
    def test_by_keyboard_alone(self, page: Page) -> None:
        keys = page.keyboard
        self.open(page, "county: Tamarack")
        keys.press("/")
        page.wait_for_selector("#suggestions .sections")
        # Sections by the arrows, then a trait of the section.
        keys.press("ArrowRight")
        keys.press("ArrowRight")
        expect(page.locator("#suggestions .sug[aria-selected=true]")).to_contain_text("property")
        keys.type("assessed v")
        expect(page.locator("#suggestions")).to_have_attribute("data-typed", "assessed v")
        keys.press("ArrowDown")
        page.wait_for_selector("#pictured .histogram")
        keys.press("Enter")
        page.wait_for_selector("#editor .histogram")
        expect(page.locator("#editor [name=low]")).to_be_focused()
        # The brush: to the histogram, its lower end two bars up, its upper end one down.
        page.locator("#editor .brushes").focus()
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowLeft"):
            keys.press(key)
        low, high = page.input_value("#editor [name=low]"), page.input_value("#editor [name=high]")
        brushed = f"county: Tamarack\nassessed-value: {low}..{high}"
        expect(page.locator("#leaves")).to_contain_text(f"leaves {self.count(brushed):,}")
        page.locator("#editor [name=set]").focus()
        keys.press("Enter")
        self.assert_text(page, brushed)
        self.assert_counted(page)
        # A name, several lines at once.
        expect(page.locator("#typed")).to_be_focused()
        keys.type("owner-name: x")
        keys.press("Control+a")
        keys.type("owner")
        # The answer for all that was typed: until it is here, one for less of it may still replace the options.
        expect(page.locator("#suggestions")).to_have_attribute("data-typed", "owner")
        keys.press("ArrowDown")
        while page.inner_text("#suggestions .sug[aria-selected=true] b") != "owner":
            keys.press("ArrowDown")
        keys.press("Enter")
        page.wait_for_selector("#editor textarea")
        keys.type("ostrom")
        keys.press("Shift+Enter")
        keys.type("heikkinen")
        keys.press("Shift+Enter")
        keys.type("zzyzx")
        expect(page.locator("#options .missing")).to_contain_text("Nothing here for 1 of them: zzyzx")
        keys.press("Enter")
        self.assert_text(page, f'county: Tamarack\nassessed-value: {low}..{high}\nowner-name: "ostrom", "heikkinen", "zzyzx"')
        # Lines: refuse, copy, join, undo, redo.
        page.focus("#line-1")
        keys.press("r")
        expect(page.locator("#line-1 .sentence")).to_contain_text("not with “ostrom”")
        keys.press("c")
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#line-2")).to_be_focused()
        keys.press("Delete")
        expect(page.locator(".line")).to_have_count(2)
        page.focus("#line-1")
        keys.press("g")
        expect(page.locator("#line-0 .sentence")).to_contain_text("any of")
        self.assert_counted(page)
        page.focus("#line-0")
        keys.press("Control+z")
        expect(page.locator(".line")).to_have_count(2)
        keys.press("Control+z")
        expect(page.locator(".line")).to_have_count(3)
        keys.press("Control+Shift+z")
        expect(page.locator(".line")).to_have_count(2)
        self.assert_counted(page)

    @thorough
    @in_browser
    def test_a_brush_and_a_calendar_by_mouse(self, page: Page) -> None:
        self.open(page, "county: Tamarack\nassessed-value: 100000..\nlast-sale: since 2000-01-01")
        page.click("#edit-0")
        bars = page.locator("#editor .bar")
        first, last = (bars.nth(place).locator(".over").bounding_box() for place in (2, 5))
        page.mouse.move(first["x"] + 3, first["y"] + 20)
        page.mouse.down()
        page.mouse.move(last["x"] + 3, last["y"] + 20, steps=5)
        page.mouse.up()
        low, high = page.input_value("#editor [name=low]"), page.input_value("#editor [name=high]")
        self.assertEqual((low, high), (bars.nth(2).get_attribute("data-low"), bars.nth(5).get_attribute("data-high")))
        expect(page.locator("#editor .bar.in")).to_have_count(4)
        self.assert_accessible(page)
        page.click("#editor [name=set]")
        self.assert_text(page, f"county: Tamarack\nassessed-value: {low}..{high}\nlast-sale: since 2000-01-01")
        self.assert_counted(page)
        page.click("#edit-1")
        page.fill("#editor [name=first]", "2010-03-01")
        page.fill("#editor [name=last]", "2012-02-29")
        page.locator("#editor [name=last]").dispatch_event("change")
        self.assertEqual(page.input_value("#editor [name=words]"), "between 2010-03-01 and 2012-02-29")
        self.assert_accessible(page)
        page.click("#editor [name=set]")
        expect(page.locator("#line-1 .sentence")).to_contain_text("between 1 Mar 2010 and 29 Feb 2012")
        self.assert_counted(page)

    @thorough
    @in_browser
    def test_any_at_all_gives_way_to_a_value(self, page: Page) -> None:
        self.open(page, "county: Tamarack\nlist-price: any")
        self.assert_counted(page)
        page.click("#edit-0")
        expect(page.locator("#editor [name=there]")).to_have_value("any")
        self.assert_accessible(page)
        page.keyboard.type("150k")
        expect(page.locator("#editor [name=there]")).to_have_value("")
        page.keyboard.press("Enter")
        self.assert_text(page, "county: Tamarack\nlist-price: 150000..")
        page.click("#edit-0")
        page.select_option("#editor [name=there]", "none")
        expect(page.locator("#leaves")).to_contain_text(f"leaves {self.count('county: Tamarack' + chr(10) + 'list-price: none'):,}")
        page.click("#editor [name=set]")
        self.assert_text(page, "county: Tamarack\nlist-price: none")
        self.assert_counted(page)

    @thorough
    @in_browser
    def test_values_are_narrowed_by_typing_and_every_editor_is_accessible(self, page: Page) -> None:
        self.open(
            page,
            'county: Tamarack\nclass: duplex\nsubdivision: "a"\nremarks: any of "as is"\nsignals: any of "probate"\n'
            "parcel-number: 12-*\nzip: 53361\nowner-occupied: no",
        )
        page.click("#edit-0")
        page.fill("#editor [data-narrows]", "triple")
        expect(page.locator("#options .form-check:visible")).to_have_count(2)
        page.press("#editor [data-narrows]", "Enter")
        page.click("#editor [name=set]")
        expect(page.locator("#line-0 .sentence")).to_have_text(re.compile(r"class\s+duplex, triplex"))
        for number in range(7):
            page.click(f"#edit-{number}")
            page.wait_for_selector("#editor .title")
            self.assert_accessible(page)
            page.keyboard.press("Escape")
            expect(page.locator("#editor")).to_have_count(0)

    @thorough
    @in_browser
    def test_what_is_asked_each_time(self, page: Page) -> None:
        self.open(page, "county: Tamarack\nbeds: ask\nclass: ask")
        expect(page.locator("#asks")).to_contain_text("This search asks")
        expect(page.locator("#asks input").first).to_be_focused()
        self.assert_accessible(page)
        page.keyboard.type("many")
        page.keyboard.press("Enter")
        expect(page.locator("#add-wrong")).to_contain_text("is not a figure")
        page.fill("#asks input >> nth=0", "3..")
        page.fill("#asks input >> nth=1", "duplex")
        page.click("#asks button")
        self.assert_text(page, "county: Tamarack\nbeds: ask 3..\nclass: ask duplex")
        expect(page.locator("#asks")).to_have_count(0)
        self.assert_counted(page)
        page.hover("#line-0")
        page.click("#line-0 [title=More]")
        self.assert_accessible(page)
        page.click("text=No longer ask each time")
        self.assert_text(page, "county: Tamarack\nbeds: 3..\nclass: ask duplex")

    @thorough
    @in_browser
    def test_a_pasted_column(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.focus("#typed")
        page.evaluate(
            """() => {
                const held = new DataTransfer();
                held.setData("text/plain", "12-001-019\\n328 Capstan St\\n99-999-999");
                const pasted = new ClipboardEvent("paste", { clipboardData: held, bubbles: true, cancelable: true });
                document.querySelector("#typed").dispatchEvent(pasted);
            }"""
        )
        expect(page.locator("#editor")).to_contain_text("99-999-999")
        self.assert_accessible(page)
        page.click("#editor [name=set]")
        expect(page.locator(".line")).to_have_count(1)
        self.assertEqual(self.matches(page), 2)


class Groups(AskingCase):
    @in_browser
    def test_lines_are_dragged(self, page: Page) -> None:
        self.open(page, SEARCH)
        page.hover("#line-3")
        page.drag_and_drop("#line-3 .grip", "#line-0", target_position={"x": 60, "y": 3})
        expect(page.locator("#line-0 .sentence")).to_contain_text("last sale")
        page.hover("#line-2")
        page.drag_and_drop("#line-2 .grip", "#line-3", target_position={"x": 60, "y": 24})
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#line-2 .sentence")).to_contain_text("any of")
        self.assert_counted(page)
        page.click("#undo")
        expect(page.locator(".line")).to_have_count(4)
        page.go_back()
        expect(page.locator(".line")).to_have_count(3)
        self.assert_counted(page)


class FastHands(AskingCase):
    @in_browser
    def test_what_is_typed_before_the_scripts_are_there_is_asked_for(self, page: Page) -> None:
        held = HeldRequests(page, "**/htmx-2*", 1)
        page.goto(self.live_server_url, wait_until="commit")
        page.locator("#typed").focus()
        page.keyboard.type("two-flat")
        expect(page.locator(".sug")).to_have_count(0)
        held[0].continue_()
        expect(page.locator(".sug", has_text="duplex").first).to_be_visible()

    @in_browser
    def test_a_late_answer_overwrites_nothing_and_nothing_is_lost(self, page: Page) -> None:
        self.open(page, SEARCH)
        # The answers of the first two acts are kept back until long after the third's.
        held = HeldRequests(page, "**/find/change*", 2)
        for line, key in enumerate(("s", "Delete")):
            page.focus(f"#line-{line}")
            with page.expect_request("**/find/change*"):
                page.keyboard.press(key)
        page.focus("#line-3")
        page.keyboard.press("r")
        wanted = "county: Tamarack\n~ class: single-family, duplex\nbeds: 2..\nlast-sale: not more than 5 years ago"
        self.assert_text(page, wanted)
        held[0].abort()
        held[1].abort()
        page.wait_for_timeout(300)
        self.assert_text(page, wanted)
        self.assert_counted(page)

    @in_browser
    def test_the_line_to_which_the_hand_has_moved_on_keeps_the_focus(self, page: Page) -> None:
        self.open(page, SEARCH)
        held = HeldRequests(page, "**/find/change*", 2)
        page.focus("#line-1")
        with page.expect_request("**/find/change*"):
            page.keyboard.press("Delete")
        page.focus("#line-3")
        held[0].continue_()
        # Its number is another now, it is the same line.
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#line-2")).to_be_focused()
        expect(page.locator("#line-2 .sentence")).to_contain_text("last sale")
        # Whose hand stays where it acted finds the box, as ever.
        page.focus("#line-0")
        with page.expect_request("**/find/change*"):
            page.keyboard.press("Delete")
        held[1].continue_()
        expect(page.locator(".line")).to_have_count(2)
        expect(page.locator("#typed")).to_be_focused()

    @in_browser
    def test_an_act_waits_for_an_editor_that_was_sent(self, page: Page) -> None:
        self.open(page, SEARCH)
        page.route("**/find/edit", lambda route: (time.sleep(0.4), route.continue_()))
        page.click("#edit-2")
        page.fill("#editor [name=low]", "3")
        page.click("#editor [name=set]")
        page.focus("#line-0")
        page.keyboard.press("s")
        self.assert_text(
            page, "county: Tamarack\n~ class: single-family, duplex\nowner-occupied: no\nbeds: 3..\nlast-sale: more than 5 years ago"
        )

    @in_browser
    def test_a_refused_act_takes_nothing_else_with_it(self, page: Page) -> None:
        self.open(page, SEARCH)
        held = HeldRequests(page, "**/find/change*", 1)
        page.focus("#line-0")
        with page.expect_request("**/find/change*"):
            page.keyboard.press("s")
        page.fill("#typed", "beds: many")
        page.press("#typed", "Enter")
        expect(page.locator("#line-0")).to_have_class("line struck")
        held[0].abort()

    @in_browser
    def test_suggestions_that_come_late_are_not_taken(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.route("**/find/suggestions*typed=d*", lambda route: (time.sleep(0.3), route.continue_()))
        page.click("#typed")
        page.keyboard.type("d")
        page.wait_for_timeout(150)
        page.keyboard.type("uplex")
        page.wait_for_selector("#suggestions .sug >> text=duplex")
        page.wait_for_timeout(500)
        expect(page.locator("#suggestions")).to_have_attribute("data-typed", "duplex")
        page.keyboard.press("Enter")
        self.assert_text(page, "county: Tamarack\nclass: duplex")

    @in_browser
    def test_two_windows_undo_their_own(self, page: Page) -> None:
        other = self.new_page(self.context)
        for window, search in ((page, "class: duplex"), (other, "class: triplex")):
            self.open(window, search)
            window.focus("#line-0")
            window.keyboard.press("s")
            self.assert_text(window, f"~ {search}")
        page.click("#undo")
        self.assert_text(page, "class: duplex")
        self.assert_text(other, "~ class: triplex")
        other.click("#undo")
        self.assert_text(other, "class: triplex")
        expect(other.locator("#redo")).to_be_enabled()


class Phrases(AskingCase):
    Q = 'county: Tamarack\nremarks: any of "as is", "needs work*", "motivated"'

    @in_browser
    def test_a_false_hit_is_refused(self, page: Page) -> None:
        self.open(page, self.Q)
        before = self.matches(page)
        page.locator(".hit-cell a", has_text="plain to see").first.click()
        page.click(".hits summary >> nth=0")
        self.assert_accessible(page)
        page.click('.hits button >> text="“as is plain”"')
        self.assert_text(page, f'{self.Q}; none of "as is plain"')
        self.assertLess(self.matches(page), before)
        self.assert_counted(page)
        expect(page.locator(".hit-cell", has_text="plain to see")).to_have_count(0)
        page.click("text=Phrases hit")
        expect(page).to_have_url(re.compile("sort=phrases-hit"))
        expect(page.locator("th[aria-sort=descending]")).to_contain_text("Phrases hit")

    @thorough
    @in_browser
    def test_the_phrase_book(self, page: Page) -> None:
        self.open(page)
        page.click("text=Phrase book")
        page.click("text=As is >> nth=0")
        self.assert_accessible(page)
        page.click("text=New group")
        page.fill("#name", "Dock & water")
        page.fill("#phrases", "private dock\nwater view*")
        page.click("text=Keep")
        expect(page.locator(".groups [aria-current]")).to_contain_text("Dock & water")
        self.assert_accessible(page)
        left = page.inner_text(".group .double").replace(",", "")
        page.click("text=Find these")
        self.assert_text(page, 'remarks: any of "private dock", "water view*"')
        self.assertEqual(self.matches(page), int(left))
        # And from an editor.
        page.click("#edit-0")
        page.click(".from-book summary")
        page.click(".from-book >> text=Power of sale")
        expect(page.locator("#editor [name=words]")).to_have_value(re.compile("water view\\*\npower of sale\nunder power of sale", re.S))
        page.click("#editor [name=set]")
        expect(page.locator("#line-0 .sentence")).to_contain_text("but not “no power of sale”")
        self.assert_counted(page)
