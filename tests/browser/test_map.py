"""The map of the matches, by pointer and by keyboard."""

from __future__ import annotations

import io
import json
import re

from django.conf import settings
from django.test import override_settings
from PIL import Image
from playwright.sync_api import Page, expect

from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

SEARCH = "county: Tamarack\nclass: single-family, duplex\nowner-occupied: no"


class Map(BrowserCase):
    def turn_to_map(self, page: Page) -> None:
        page.locator(".face:visible").get_by_role("button", name="Map", exact=True).click()
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")

    def near(self, page: Page) -> int:
        return int(re.match(r"[\d,]+", page.inner_text("#map-says"))[0].replace(",", ""))

    @in_browser
    def test_from_all_matches_to_a_record(self, page: Page) -> None:
        self.open(page, SEARCH)
        self.turn_to_map(page)
        # All are shown at first, and what the ledger does is seen here, too.
        self.assertEqual(self.near(page), self.matches(page))
        self.assert_accessible(page)
        page.fill("#typed", "last-sale: more than 5 years ago")
        page.press("#typed", "Enter")
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#map-says")).to_have_text(f"{self.matches(page):,} of {self.matches(page):,} matches in this part of the map")
        # Areas ranked.
        page.click("text=Rank areas")
        first = page.locator(".most button").first
        expect(first).to_contain_text("Harbour Wards")
        self.assert_accessible(page)
        first.click()
        expect(page.locator("#map-says")).not_to_contain_text(f"{self.matches(page):,} of")
        # By keyboard from match to match, and to the record.
        page.focus("#map")
        for _ in range(4):
            page.keyboard.press("+")
            page.wait_for_timeout(400)
        page.keyboard.press(".")
        card = page.locator("#map-card")
        expect(card.locator("h3")).to_be_visible()
        one = card.locator("h3").inner_text()
        page.keyboard.press(".")
        expect(card.locator("h3")).not_to_have_text(one)
        page.keyboard.press(",")
        expect(card.locator("h3")).to_have_text(one)
        # In one breath, too: no step is lost, and the last card stands.
        for key in "...,,,":
            page.keyboard.press(key)
        expect(card.locator("h3")).to_have_text(one)
        self.assert_accessible(page)
        page.keyboard.press("Enter")
        expect(page.locator("h1")).to_contain_text(one)
        # Back, the map is there again, of the same search.
        page.go_back()
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")

    @thorough
    @in_browser
    def test_a_click_labels_layers_and_files(self, page: Page) -> None:
        self.open(page, SEARCH)
        self.turn_to_map(page)
        page.click("text=Rank areas")
        page.locator(".most button").first.click()
        page.focus("#map")
        for _ in range(4):
            page.keyboard.press("+")
            page.wait_for_timeout(400)
        with page.expect_response("**/map/labels*") as answer:
            page.select_option("#map-label", "owner")
        self.assertTrue(answer.value.json()["labels"])
        page.focus("#map")
        page.keyboard.press(".")
        expect(page.locator("#map-card h3")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("#map-card")).to_be_hidden()
        page.click("button:has-text('Layers')")
        page.uncheck("[name=layer][value=water]")
        page.keyboard.press("Escape")
        page.click("[popovertarget=map-files]")
        with page.expect_download() as download:
            page.click("text=Picture (PNG)")
        with Image.open(download.value.path()) as picture:
            # The whole map with its foot; more is on it than paper.
            self.assertEqual(picture.height, page.locator("#map").bounding_box()["height"] + 34)
            self.assertGreater(len(picture.convert("RGB").getcolors(1_000_000)), 50)
        matches = self.matches(page)
        page.click("[popovertarget=map-files]")
        page.locator("#map-files").get_by_role("button", name="Export").click()
        expect(page.locator(".stands-on")).to_contain_text(f"{matches:,} parcels")
        page.get_by_label("GeoJSON, with the outlines").check()
        with page.expect_download() as download:
            page.get_by_role("button", name="Download").click()
        found = json.loads(download.value.path().read_text())
        self.assertEqual(f"{len(found['features']):,}", page.locator("#rows").inner_text())

    @thorough
    @in_browser
    def test_choosing_on_the_map_and_in_the_table(self, page: Page) -> None:
        self.open(page, SEARCH)
        page.locator(".face:visible").get_by_role("button", name="Table and map").click()
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")
        self.assert_accessible(page)
        # A row that is clicked is shown on the map, and chosen there.
        row = page.locator(".rows tbody tr").nth(2)
        row.locator("td").last.click(position={"x": 1, "y": 1})
        card = page.locator("#map-card")
        expect(card.locator("h3")).to_have_text(row.locator(".id a").inner_text())
        expect(row).to_have_class(re.compile("looked-at"))
        card.get_by_role("button", name="Choose").click()
        expect(row.locator("input")).to_be_checked()
        expect(page.locator("#chosen")).to_contain_text("1 chosen")
        # And the other way round.
        row.locator("input").uncheck()
        expect(card.get_by_role("button", name="Choose")).to_have_attribute("aria-pressed", "false")
        # A box selects the matches in it; what is done with a selection stands at the map's foot, too.
        page.focus("#map")
        while "grid" in page.inner_text("#map-says"):
            page.keyboard.press("+")
            page.wait_for_timeout(400)
        page.get_by_role("button", name="Select in a box").click()
        area = page.locator("#map").bounding_box()
        for share in (0.02, 0.98):
            page.mouse.click(area["x"] + share * area["width"], area["y"] + share * area["height"])
        expect(page.locator("#map-says")).to_contain_text(re.compile(r"^[\d,]+ match(es)? selected"))
        count = page.inner_text("#map-says").split()[0]
        expect(page.locator("#map-selection b")).to_have_text(f"{count} selected")
        expect(page.locator("#chosen")).to_contain_text(f"{count} chosen")
        # An edit redraws both.
        page.fill("#typed", "beds: 3..")
        page.press("#typed", "Enter")
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#selection [data-choose=all]")).to_have_text(f"all {self.matches(page):,}")
        expect(page.locator("#map-says")).to_contain_text(f"of {self.matches(page):,} matches")

    @thorough
    @in_browser
    def test_marks_and_print(self, page: Page) -> None:
        self.open(page, SEARCH)
        self.turn_to_map(page)
        page.click("text=Rank areas")
        page.select_option("select[name=by]", "block")
        first = page.locator(".most button").first
        expect(first).to_contain_text("block of")
        first.click()
        page.click("button:has-text('Layers')")
        with page.expect_response("**/map/marks*") as answer:
            page.check("[name=mark][value=sold]")
        self.assertTrue(answer.value.ok)
        page.keyboard.press("Escape")
        # What is printed is the map with its legend and scale, and no tools.
        page.emulate_media(media="print")
        expect(page.locator(".map-legend")).to_be_visible()
        expect(page.locator(".map-legend")).to_contain_text("sold in 12 months")
        expect(page.locator("#map-scale")).to_contain_text(re.compile("ft|mi"))
        expect(page.locator(".map-tools")).to_be_hidden()
        self.assertGreater(len(page.pdf()), 20_000)
        page.emulate_media(media="screen")

    @in_browser
    def test_a_background_whose_server_allows_no_copies(self, page: Page) -> None:
        host = "https://tiles.invalid"
        drawn = io.BytesIO()
        Image.new("RGB", (256, 256), (200, 160, 40)).save(drawn, "PNG")
        page.route(f"{host}/**", lambda route: route.fulfill(body=drawn.getvalue(), content_type="image/png"))
        policy = {"DIRECTIVES": {**settings.CONTENT_SECURITY_POLICY["DIRECTIVES"], "img-src": ["'self'", "data:", host]}}
        with override_settings(MAP_BACKGROUND=f"{host}/{{z}}/{{x}}/{{y}}.png", MAP_CREDIT="Example Survey", CONTENT_SECURITY_POLICY=policy):
            self.open(page, SEARCH)
            with page.expect_response(f"{host}/**"):
                self.turn_to_map(page)
            expect(page.locator(".map-legend")).to_contain_text("Example Survey")
            page.wait_for_timeout(500)
            page.click("[popovertarget=map-files]")
            with page.expect_download() as download:
                page.click("text=Picture (PNG)")
            expect(page.locator("#map-says")).to_contain_text("without the background")
            with Image.open(download.value.path()) as picture:
                self.assertNotIn((200, 160, 40), {color for _, color in picture.convert("RGB").getcolors(1_000_000)})
        # That the page asks this host is what the setting is for.
        self.troubles = [trouble for trouble in self.troubles if host not in trouble]
