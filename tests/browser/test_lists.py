"""Three searches to three lists, their overlap, the triple opened, stale rows dropped, a tag, and all of it undone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


class Stacking(BrowserCase):
    def keep(self, page: Page, search: str, name: str) -> int:
        """Put all matches of a search on a new list; return how many there were."""
        self.open(page, search)
        count = self.matches(page)
        page.keyboard.press("a")
        page.click("#selection [value=keep]")
        page.fill("#name", name)
        page.click("button >> text=Add to list")
        expect(page.locator(".says")).to_contain_text(f"{count:,} of {count:,} added to “{name}”")
        return count

    @thorough
    @in_browser
    def test_from_three_searches_to_a_stack_and_back(self, page: Page) -> None:
        county = "county: Tamarack\n"
        searches = {"Elsewhere": "owner-occupied: no", "Two-flats": "class: duplex", "Long held": "years-owned: 15.."}
        counts = {name: self.keep(page, county + text, name) for name, text in searches.items()}
        self.assert_accessible(page)
        page.click(".spine >> text=Lists")
        expect(page.locator("tbody tr", has_text="Elsewhere")).to_contain_text(f"{counts['Elsewhere']:,}")
        self.assert_accessible(page)
        page.click(".views >> text=Overlap")
        page.click("summary >> text=Choose lists")
        for box in page.locator(".how .box .form-check").all():
            box.locator("input").set_checked(box.inner_text().strip() in searches)
        page.select_option("#order", "lists")
        page.click("text=Show")
        expect(page.locator("h1")).to_have_text("Overlap of 3 lists")
        self.assert_accessible(page)
        # The deepest column is the triple: as many as a search of all three criteria finds.
        deepest = page.locator(".drawn .column").first
        shown = int((deepest.locator("text").text_content() or "").replace(",", ""))
        deepest.click()
        page.wait_for_selector("#book")
        self.assertEqual(self.matches(page), shown)
        self.assertEqual(self.lines(page), ["on list, not stale all of “Elsewhere”, “Long held”, “Two-flats”"])
        self.open(page, county + "\n".join(searches.values()))
        self.assertEqual(self.matches(page), shown)
        # A tag on the triple, which then is asked for.
        page.keyboard.press("a")
        page.click("#selection [value=keep]")
        page.fill("#tag", "Triple")
        page.click("text=Add tag")
        expect(page.locator(".says")).to_contain_text(f"{shown:,} of {shown:,} tagged")
        self.open(page, 'tag: "triple"')
        self.assertEqual(self.matches(page), shown)
        # Stale rows of one of the demo's lists go in one act, and come back.
        page.click(".spine >> text=Lists")
        row = page.locator("tbody tr", has_text="Absentee, Harbour")
        before = row.inner_text()
        row.locator("th a").click()
        self.assert_accessible(page)
        page.get_by_role("button", name=re.compile(r"^Drop the \d+ stale$")).click()
        expect(page.locator(".says")).to_contain_text("stale rows dropped")
        expect(page.locator("button", has_text="stale")).to_have_count(0)
        page.click("text=All lists")
        expect(row.locator("td").nth(3)).to_have_text("0")
        page.click(".views >> text=Activity")
        self.assert_accessible(page)
        page.locator("tbody tr", has_text="dropped stale rows").locator("button").click()
        expect(page.locator(".says").first).to_contain_text("Undone: dropped stale rows")
        page.click(".views >> text=All lists")
        self.assertEqual(row.inner_text(), before)
        page.click(".views >> text=Activity")
        page.locator("tbody tr", has_text=re.compile("tagged.*Triple", re.S)).locator("button").click()
        self.open(page, 'tag: "triple"')
        self.assertEqual(self.matches(page), 0)

    @in_browser
    def test_a_list_from_a_pasted_column(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/lists/new")
        page.fill("#id_name", "From the city")
        page.fill("#pasted", "12-001-019\n328 Capstain Street")
        page.click("text=Make the list")
        expect(page.locator("[role=alert]")).to_contain_text("nearest: 328 CAPSTAN ST")
        self.assert_accessible(page)
        page.fill("#pasted", "12-001-019\n328 Capstan Street")
        page.click("text=Make the list")
        expect(page.locator("h1")).to_have_text("From the city")
        page.click("text=Open in Find")
        self.assertEqual(self.matches(page), 2)

    @thorough
    @in_browser
    def test_urgency_opened_weighed_anew_and_combined(self, page: Page) -> None:
        self.open(page, "county: Tamarack\nlists-held: 2..")
        page.goto(f"{page.url}&columns=urgency,on-list&sort=-urgency")
        # The most urgent opens to its account, which adds up.
        score = page.locator("[data-parcel]").first.locator("td.n a")
        self.assertEqual(score.inner_text(), "100")
        expect(page.locator("[data-parcel]").first.locator(".mark")).not_to_have_count(0)
        score.click()
        account = page.locator(".explained tbody tr")
        expect(account.last.locator("th")).to_contain_text("In all")
        points = [int(text) for text in account.locator("td.n").all_inner_texts()]
        self.assertEqual(sum(points[:-1]), points[-1])
        self.assert_accessible(page)
        # A sign that is worth nothing any more takes its points along, for everybody of the team.
        auction = next(points[place] for place, row in enumerate(account.all()) if "Tax auction" in row.inner_text())
        page.click(".spine >> text=Lists")
        page.click(".views >> text=Urgency")
        self.assert_accessible(page)
        page.fill("#id_tax-auction", "lots")
        page.click("text=Keep these points")
        expect(page.locator("[role=alert]")).to_contain_text("points of tax auction")
        page.fill("#id_tax-auction", "0")
        page.click("text=Keep these points")
        expect(page.locator(".says")).to_contain_text("Kept.")
        self.open(page, 'parcel-number: "12-009-022"')
        page.goto(f"{page.url}&columns=urgency")
        expect(page.locator("[data-parcel] td.n a")).to_have_text(str(min(100, points[-1] - auction)))
        # Two lists put together, without those that are stale.
        page.click(".spine >> text=Lists")
        page.click(".views >> text=Combine")
        for name in ("Absentee, Harbour", "Vacant per city"):
            page.check(f"text={name}")
        page.click("text=Put these together")
        self.assert_accessible(page)
        row = page.locator("tr", has_text="on any of them")
        count = row.locator("td").first.inner_text()
        row.locator("input").check()
        page.fill("#name", "Either of them")
        page.click("text=Make the list")
        expect(page.locator(".says")).to_contain_text(f"made of {count} parcels on any of them")
        page.click("text=Open in Find")
        self.assertEqual(self.matches(page), int(count.replace(",", "")))

    @in_browser
    def test_stages_are_named_by_the_team(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/lists/stages")
        self.assert_accessible(page)
        page.fill("#name", "door knocked")
        page.click("text=Add it")
        page.click("[aria-label='Earlier: door knocked']")
        names = page.locator("tbody input[name=name]")
        expect(names.nth(5)).to_have_value("door knocked")
        page.click("[aria-label='Remove to look at']")
        expect(page.locator("[role=alert]")).to_contain_text("give them another stage first")
        self.open(page, "county: Tamarack\nclass: triplex")
        count = self.matches(page)
        page.keyboard.press("a")
        page.click("#selection [value=keep]")
        page.select_option("#stage", "door knocked")
        page.click("button >> text=Set stage")
        expect(page.locator(".says")).to_contain_text(f"of {count:,} are now at “door knocked”")
        self.open(page, 'stage: "door knocked"')
        self.assertEqual(self.matches(page), count)

    @in_browser
    def test_every_page_fits_a_phone(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/lists/new")
        page.fill("#id_name", "<b>" + "Longname" * 9)
        page.fill("#pasted", f"12-034-012\n{'x' * 300}")
        page.click("text=Make the list")
        page.set_viewport_size({"width": 390, "height": 844})
        self.assert_fits(page)
        page.click("text=make the list of those found")
        expect(page.locator("h1")).to_contain_text("<b>Longname")
        self.assert_fits(page)
        for name in ("", "overlap", "combine", "urgency", "stages", "activity", "new"):
            page.goto(f"{self.live_server_url}/lists/{name}")
            self.assert_fits(page)

    def assert_fits(self, page: Page) -> None:
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390, page.url)
