"""Areas drawn on the map, rings that are typed, and the way from a closed listing to its neighbors, by pointer and by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.records.models import Listing
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

SEARCH = "county: Tamarack\nclass: single-family, duplex\nowner-occupied: no"


class Areas(BrowserCase):
    def open_map(self, page: Page, search: str = SEARCH) -> None:
        self.open(page, search)
        page.locator(".face:visible").get_by_role("button", name="Map", exact=True).click()
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")

    def near(self, page: Page) -> int:
        return int(re.match(r"[\d,]+", page.inner_text("#map-says"))[0].replace(",", ""))

    def begin(self, page: Page, how: str) -> None:
        page.click("[popovertarget=map-areas]")
        page.click(f"[data-draws={how}]")

    def corners(self, page: Page, *places: tuple[float, float]) -> None:
        """Click at places of the map, given as shares of its width and height."""
        box = page.locator("#map").bounding_box()
        for x, y in places:
            page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
            # Two clicks in one place within a quarter of a second are a double click.
            page.wait_for_timeout(300)

    def lies_in(self, page: Page) -> int:
        expect(page.locator("#draft-says")).to_contain_text("lie in it")
        return int(re.search(r"([\d,]+) of the matches", page.inner_text("#draft-says"))[1].replace(",", ""))

    @thorough
    @in_browser
    def test_draw_one_and_exclude_another(self, page: Page) -> None:
        self.open_map(page)
        every = self.matches(page)
        self.begin(page, "polygon")
        self.corners(page, (0.5, 0.4), (0.97, 0.4), (0.97, 0.9), (0.5, 0.9))
        box = page.locator("#map").bounding_box()
        page.mouse.dblclick(box["x"] + 0.48 * box["width"], box["y"] + 0.65 * box["height"])
        inside = self.lies_in(page)
        self.assertTrue(0 < inside < every)
        self.assert_accessible(page)
        page.fill("#map-draft [name=name]", "Harbor <b>side</b>")
        page.press("#map-draft [name=name]", "Enter")
        expect(page.locator(".line").last).to_contain_text("Harbor <b>side</b>")
        # The ledger's balance, the map's count and the table agree.
        self.assertEqual(self.matches(page), inside)
        expect(page.locator("#map-says")).to_contain_text(f"{inside:,} of {inside:,} matches")
        expect(page.locator("#map-asked")).to_have_text("Drawn: Harbor <b>side</b>, in.")
        self.begin(page, "rectangle")
        self.corners(page, (0.6, 0.5), (0.8, 0.75))
        out = self.lies_in(page)
        self.assertTrue(0 < out < inside)
        page.click("#map-draft button[value=exclude]")
        expect(page.locator(".line")).to_have_count(3)
        expect(page.locator("#map-says")).to_contain_text(f"{inside - out:,} of {inside - out:,} matches")
        self.assertEqual(self.matches(page), inside - out)
        expect(page.locator("#map-asked")).to_have_text("Drawn: Harbor <b>side</b>, in; Area 1, out.")
        # Beside the table, which counts as many.
        page.locator(".face:visible").get_by_role("button", name="Table and map").click()
        expect(page.locator("#selection .pages, #chosen").first).to_be_visible()
        expect(page.locator("#selection [data-choose=all]")).to_have_text(f"all {inside - out:,}")
        # Undone, it is as before; the area stays the team's.
        page.click("#undo")
        expect(page.locator("#map-says")).to_contain_text(f"of {inside:,} matches")
        page.click("[popovertarget=map-areas]")
        row = page.locator(".areas li", has_text="Area 1")
        expect(row.locator("[aria-pressed=true]")).to_have_count(0)
        row.get_by_role("button", name="out").click()
        expect(page.locator("#map-says")).to_contain_text(f"of {inside - out:,} matches")
        names = self.orm(lambda: list(DrawnArea.objects.filter(deleted_at=None).values_list("name", flat=True)))
        self.assertLessEqual({"Area 1", "Harbor <b>side</b>"}, set(names))

    @thorough
    @in_browser
    def test_by_keyboard(self, page: Page) -> None:
        self.open_map(page)
        page.focus("#map")
        page.keyboard.press("d")
        expect(page.locator("#map-says")).to_contain_text("Space sets a corner")
        for key in ("ArrowRight", "ArrowDown", "ArrowLeft"):
            page.keyboard.press(" ")
            for _ in range(2):
                page.keyboard.press(key)
                page.wait_for_timeout(350)
        page.keyboard.press(" ")
        page.keyboard.press("Enter")
        self.lies_in(page)
        expect(page.locator("#map-draft [name=name]")).to_be_focused()
        page.keyboard.type("By keys")
        page.keyboard.press("Enter")
        expect(page.locator(".line").last).to_contain_text("By keys")
        expect(page.locator("#map-says")).to_contain_text("matches in this part of the map")
        # Escape leaves nothing.
        page.focus("#map")
        page.keyboard.press("d")
        page.keyboard.press(" ")
        page.keyboard.press("Escape")
        expect(page.locator("#map")).not_to_have_attribute("data-drawing", re.compile("."))
        expect(page.locator("#map-draft")).to_be_hidden()

    @thorough
    @in_browser
    def test_a_circle_as_a_distance_and_an_area_on_record(self, page: Page) -> None:
        self.open_map(page)
        self.begin(page, "circle")
        self.corners(page, (0.75, 0.6))
        box = page.locator("#map").bounding_box()
        page.mouse.move(box["x"] + 0.85 * box["width"], box["y"] + 0.6 * box["height"], steps=4)
        expect(page.locator("#map-says")).to_contain_text(re.compile(r"Radius [\d.]+ mi \([\d.]+ km\)"))
        self.corners(page, (0.85, 0.6))
        inside = self.lies_in(page)
        page.click("[data-makes-ring]")
        expect(page.locator(".line").last).to_contain_text("from point")
        # The circle has 256 corners, and the ring none.
        self.assertAlmostEqual(self.matches(page), inside, delta=2)
        self.begin(page, "record")
        self.corners(page, (0.8, 0.6))
        found = page.locator("#map-found button")
        expect(found.last).to_contain_text("Between barriers")
        self.assert_accessible(page)
        found.last.click()
        self.lies_in(page)
        expect(page.locator("#map-draft [name=name]")).to_have_value("Between barriers")
        page.keyboard.press("Escape")
        expect(page.locator("#map-draft")).to_be_hidden()

    @thorough
    @in_browser
    def test_a_ring_by_typing(self, page: Page) -> None:
        self.open(page, "county: Tamarack")
        page.locator(".face:visible").get_by_role("button", name="Table", exact=True).click()
        page.fill("#typed", "within 0.5 miles of zip 53301")
        expect(page.locator("#suggestions")).to_contain_text("up to 0.5 mi from ZIP 53301")
        page.press("#typed", "Enter")
        expect(page.locator(".line").first).to_contain_text("distance up to 0.5 mi from ZIP 53301")
        before = self.matches(page)
        self.assertGreater(before, 0)
        # Its editor has fields for it, and the column tells the distance, the nearest first.
        page.locator("#line-0 .sentence button").first.click()
        page.fill("#editor [name=high]", "0.25")
        page.click("#editor >> text=Apply >> nth=0")
        expect(page.locator(".line").first).to_contain_text("0.25 mi")
        self.assertLess(self.matches(page), before)
        page.click("text=Show what is asked")
        page.locator("th", has_text="distance").get_by_role("button").first.click()
        expect(page.locator("th[aria-sort=ascending]", has_text="distance")).to_be_visible()
        # A center that is not there is said where it was typed.
        page.fill("#typed", "within: 1 mi of parcel 99-999-999")
        page.press("#typed", "Enter")
        expect(page.locator("#add-wrong")).to_contain_text("no parcel on record")

    @thorough
    @in_browser
    def test_around_a_sale(self, page: Page) -> None:
        def sold() -> tuple[int, int]:
            rows = Listing.objects.filter(
                superseded_at=None, standard_status="Closed", close_price__isnull=False, parcel__facts__county__name="Tamarack",
                parcel__facts__subdivision__isnull=False, parcel__facts__competition__len__gt=0,
            ).exclude(property_type__contains="Lease")  # fmt: skip
            return rows.order_by("-close_date", "pk").values_list("pk", "parcel")[0]

        _, parcel = self.orm(sold)
        page.goto(f"{self.live_server_url}/property/{parcel}/#around")
        page.wait_for_selector("#around-distance")
        self.assert_accessible(page)
        with self.swapped(page, "/map/nearby/"):
            page.select_option("#around-distance", "0.5 mi")
        expect(page.locator("#around-distance")).to_have_value("0.5 mi")
        page.click("text=Find the owners around this sale")
        expect(page.locator("h1")).to_contain_text("Around ")
        self.assert_accessible(page)
        with self.swapped(page, "/map/around/"):
            page.check("[name=area][value=circle]")
        expect(page.locator("[name=area][value=circle]")).to_be_checked()
        page.check("[name=lives_there][value=no]")
        page.click("text=Start the search")
        expect(page.locator(".sale-note")).to_contain_text("Around a sale:")
        expect(page.locator("#map-asked")).to_contain_text("Around ")
        found = self.matches(page)
        self.assertGreater(found, 0)
        # On to the list of its owners, which knows the sale.
        page.locator(".face:visible").get_by_role("button", name="Table", exact=True).click()
        page.click("[data-choose=all]")
        page.locator(".face:visible").get_by_role("button", name="Add to list…").click()
        page.fill("[name=name]", "Neighbors")
        page.locator("[name=name]").press("Enter")
        page.goto(f"{self.live_server_url}/lists/")
        page.click("text=Neighbors")
        expect(page.locator(".sale-note")).to_contain_text("Around a sale:")
        self.assertTrue(self.orm(lambda: DrawnArea.objects.filter(name__startswith="Around ").exists()))
