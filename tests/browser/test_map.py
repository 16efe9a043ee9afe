"""The map of the matches, by pointer and by keyboard."""

from __future__ import annotations

import json
import re

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.case import BrowserCase, in_browser

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
        # Where most are.
        page.click("text=Where most are")
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
        page.keyboard.press("n")
        card = page.locator("#map-card")
        expect(card.locator("h3")).to_be_visible()
        one = card.locator("h3").inner_text()
        page.keyboard.press("n")
        expect(card.locator("h3")).not_to_have_text(one)
        page.keyboard.press("b")
        expect(card.locator("h3")).to_have_text(one)
        # In one breath, too: no step is lost, and the last card stands.
        for key in "nnnbbb":
            page.keyboard.press(key)
        expect(card.locator("h3")).to_have_text(one)
        self.assert_accessible(page)
        page.keyboard.press("Enter")
        expect(page.locator("h1")).to_contain_text(one)
        # Back, the map is there again, of the same search.
        page.go_back()
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")

    @in_browser
    def test_a_click_labels_layers_and_files(self, page: Page) -> None:
        self.open(page, SEARCH)
        self.turn_to_map(page)
        page.click("text=Where most are")
        page.locator(".most button").first.click()
        page.focus("#map")
        for _ in range(4):
            page.keyboard.press("+")
            page.wait_for_timeout(400)
        with page.expect_response("**/map/labels*") as answer:
            page.select_option("#map-label", "owner")
        self.assertTrue(answer.value.json()["labels"])
        page.focus("#map")
        page.keyboard.press("n")
        expect(page.locator("#map-card h3")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("#map-card")).to_be_hidden()
        page.click("button:has-text('Layers')")
        page.uncheck("[name=layer][value=water]")
        page.keyboard.press("Escape")
        page.click("text=Take along")
        with page.expect_download() as download:
            page.click("text=Picture (PNG)")
        with Image.open(download.value.path()) as picture:
            # The whole map with its foot; more is on it than paper.
            self.assertEqual(picture.height, page.locator("#map").bounding_box()["height"] + 34)
            self.assertGreater(len(picture.convert("RGB").getcolors(1_000_000)), 50)
        page.click("text=Take along")
        with page.expect_download() as download:
            page.click("text=Outlines (GeoJSON)")
        found = json.loads(download.value.path().read_text())
        self.assertEqual(len(found["features"]), self.matches(page))
