"""The results as a workplace: columns by keyboard, totals, rows taken out by hand, charts that are brushed."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.find.models import FindLayout
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


class Results(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(lambda: FindLayout.objects.all().delete())

    def columns(self, page: Page) -> list[str]:
        return page.locator(".rows thead [data-column]").evaluate_all("headings => headings.map((one) => one.dataset.column)")

    def heading(self, page: Page, key: str):
        return page.locator(f".rows thead [data-column={key}] button")

    @thorough
    @in_browser
    def test_columns_by_keyboard(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/?q=class%3A%20duplex&columns=beds,baths,assessed-value")
        self.heading(page, "beds").focus()
        page.keyboard.press("Alt+ArrowRight")
        expect(self.heading(page, "beds")).to_be_focused()
        expect(page.locator(".rows thead [data-column]").first).to_have_attribute("data-column", "baths")
        self.assertEqual(self.columns(page), ["baths", "beds", "assessed-value"])
        # Sorted by this one, and by that one too.
        page.keyboard.press("Enter")
        expect(page.locator(".rows thead [data-column=beds]")).to_have_attribute("aria-sort", "descending")
        expect(self.heading(page, "beds")).to_be_focused()
        page.keyboard.press("ArrowRight")
        expect(self.heading(page, "assessed-value")).to_be_focused()
        page.keyboard.press("Shift+Enter")
        expect(page.locator(".rows thead [data-column=assessed-value]")).to_have_attribute("aria-sort", "descending")
        self.assertIn("sort=-beds%2C-assessed-value", page.url)
        # Wider, also after coming back.
        before = page.locator("[data-column=assessed-value]").bounding_box()["width"]
        self.heading(page, "assessed-value").focus()
        page.keyboard.press("Shift+Alt+ArrowRight")
        page.keyboard.press("Shift+Alt+ArrowRight")
        wider = page.locator("[data-column=assessed-value]").bounding_box()["width"]
        self.assertAlmostEqual(wider - before, 32, delta=2)
        self.wait_for(page, lambda: FindLayout.objects.filter(column_widths__has_key="assessed-value").exists())
        page.reload()
        self.assertAlmostEqual(page.locator("[data-column=assessed-value]").bounding_box()["width"], wider, delta=1)
        self.heading(page, "beds").focus()
        page.keyboard.press("Delete")
        expect(page.locator(".rows thead [data-column=beds]")).to_have_count(0)
        expect(self.heading(page, "assessed-value")).to_be_focused()
        page.go_back()
        expect(page.locator(".rows thead [data-column=beds]")).to_have_count(1)
        self.assert_accessible(page)

    def wait_for(self, page: Page, is_so) -> None:
        for _ in range(60):
            if self.orm(is_so):
                return
            page.wait_for_timeout(100)
        self.fail("it did not come about")

    @thorough
    @in_browser
    def test_columns_by_mouse_and_a_set_of_them(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/?columns=beds,baths,assessed-value")
        page.drag_and_drop("[data-column=assessed-value]", "[data-column=beds]")
        expect(page.locator(".rows thead [data-column]").first).to_have_attribute("data-column", "assessed-value")
        # The box of the columns belongs to the answer that is still to come.
        expect(page).to_have_url(re.compile("columns=assessed-value"))
        page.locator("body").press("h")
        page.fill("#set-name", "Figures first")
        page.click("#column-sets >> text=Save >> nth=-1")
        expect(page.locator("#column-sets .says")).to_contain_text("“Figures first” is saved: 3 columns")
        self.assert_accessible(page)
        self.open(page, "class: duplex")
        self.assertNotEqual(self.columns(page), ["assessed-value", "beds", "baths"])
        page.keyboard.press("h")
        page.click("#column-sets >> text=Figures first")
        expect(page.locator(".rows thead [data-column=baths]")).to_have_count(1)
        self.assertEqual(self.columns(page), ["assessed-value", "beds", "baths"])

    @in_browser
    def test_a_wider_window_shows_more(self, page: Page) -> None:
        self.open(page, "class: duplex")
        page.wait_for_timeout(500)
        few = len(self.columns(page))
        page.set_viewport_size({"width": 1920, "height": 900})
        expect(page.locator(".rows thead [data-column=class]")).to_have_count(1)
        self.assertGreater(len(self.columns(page)), few + 2)
        # Nothing is cut off: the table is no wider than what shows it.
        sheet = page.locator("#face-table .sheet").evaluate("one => [one.scrollWidth, one.clientWidth]")
        self.assertLessEqual(sheet[0], sheet[1] + 1)
        page.reload()
        expect(page.locator(".rows thead [data-column=class]")).to_have_count(1)

    @in_browser
    def test_rows_are_taken_out_and_put_back(self, page: Page) -> None:
        self.open(page, "class: triplex")
        before = self.matches(page)
        page.locator(".rows tbody input").nth(0).check()
        page.locator(".rows tbody input").nth(2).check()
        page.locator("body").press("x")
        expect(page.locator("#matches")).to_have_text(str(before - 2))
        self.assertRegex(self.lines(page)[1], r"^rows not “the 2 taken out by hand \(no. \d+\)”$")
        expect(page.locator("#chosen")).to_have_text("None chosen")
        page.click("text=which, by whom and when")
        panel = page.locator(".explained")
        expect(panel.locator("tbody tr")).to_have_count(2)
        self.assert_accessible(page)
        panel.locator("text=Put back").first.click()
        expect(page.locator("#matches")).to_have_text(str(before - 1))
        expect(panel).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.locator("#matches")).to_have_text(str(before - 2))
        page.click("text=which, by whom and when")
        panel.locator("text=Put all back").click()
        expect(page.locator("#matches")).to_have_text(str(before))

    @in_browser
    def test_totals_follow_the_selection(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/?q=class%3A%20triplex&columns=units,assessed-value")
        page.locator("body").press("y")
        foot = page.locator("#totals")
        expect(foot.locator("tr")).to_have_count(2)
        expect(foot).to_contain_text(re.compile(r"All\s+\d"))
        self.assert_accessible(page)
        page.locator(".rows tbody input").nth(0).check()
        page.locator(".rows tbody input").nth(1).check()
        expect(foot.locator("tr")).to_have_count(4)
        expect(foot).to_contain_text(re.compile(r"Chosen,\s+2"))
        units = page.locator(".rows tbody tr > :nth-child(3)").all_inner_texts()[:2]
        expect(foot.locator("tr").nth(3).locator("td").nth(1)).to_have_text(str(sum(map(int, units))))
        page.locator("body").press("y")
        expect(foot).to_have_count(0)

    @in_browser
    def test_a_brush_is_a_criterion(self, page: Page) -> None:
        self.open(page, "class: duplex")
        page.locator(".face:visible").get_by_role("button", name="Charts").click()
        expect(page.locator(".chart h3")).to_have_text("Values of class")
        page.fill("[name=x]", "assessed value")
        page.press("[name=x]", "Tab")
        expect(page.locator(".chart h3")).to_have_text("Distribution of assessed value")
        self.assert_accessible(page)
        bars = page.locator(".drawing .bar")
        counts = [int(re.search(r": ([\d,]+) \(", text).group(1).replace(",", "")) for text in bars.locator("title").all_text_contents()]
        first, last = bars.nth(2).locator(".over").bounding_box(), bars.nth(4).locator(".over").bounding_box()
        page.mouse.move(first["x"] + first["width"] / 2, first["y"] + 20)
        page.mouse.down()
        page.mouse.move(last["x"] + last["width"] / 2, last["y"] + 20)
        page.mouse.up()
        expect(page.locator(".line")).to_have_count(2)
        expect(page.locator("#matches")).to_have_text(f"{sum(counts[2:5]):,}")
        # The chart is of what is left; a bar by keyboard.
        expect(page.locator(".chart figcaption")).to_contain_text(f"of {sum(counts[2:5]):,} parcels")
        page.keyboard.press("Control+z")
        expect(page.locator(".line")).to_have_count(1)
        expect(page.locator(".chart figcaption")).to_contain_text(f"of {sum(counts):,} parcels")
        bars.nth(0).focus()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(page.locator("#matches")).to_have_text(f"{counts[1]:,}")
        # Two traits, and a rectangle over them.
        page.select_option("[name=chart]", "scatter")
        expect(page.locator(".chart h3")).to_have_text("Living area by assessed value")
        box = page.locator(".drawing").bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] * 0.2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] * 0.7)
        page.mouse.up()
        expect(page.locator(".line")).to_have_count(4)
        self.assertRegex(page.get_attribute("#search", "data-search"), r"assessed-value: \d+\.\.\d+\nliving-area: \d+\.\.\d+$")
        # Medians by area: a click on a bar.
        page.select_option("[name=chart]", "areas")
        expect(page.locator(".chart h3")).to_have_text("Median assessed value by neighborhood")
        page.locator(".drawing .bar").first.click()
        expect(page.locator(".line")).to_have_count(5)
        # The chart comes after the ledger; its link is that of the search with the neighborhood.
        expect(page.locator(".chart-acts a").first).to_have_attribute("href", re.compile("neighborhood%3A"))
        with page.expect_download() as download:
            page.click("text=SVG")
        self.assertEqual(download.value.suggested_filename, "median-assessed-value-by-neighborhood.svg")
        # The page that comes with its chart draws it.
        page.reload()
        expect(page.locator(".chart h3")).to_have_text("Median assessed value by neighborhood")
        # Back at the table it is as it was left.
        page.locator(".face:visible").get_by_role("button", name="Table", exact=True).click()
        expect(page.locator(".rows tbody tr").first).to_be_visible()
