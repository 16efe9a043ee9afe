"""The faces of the results and the width of the ledger, with a face that another app adds."""

from __future__ import annotations

from contextlib import AbstractContextManager

from playwright.sync_api import Page, expect

from jaded_ledger.find.models import FindLayout
from jaded_ledger.plugins import hookimpl, manager
from jaded_ledger.plugins.entries import Face
from tests.support.browser import BrowserCase, in_browser

FACE = Face("tally", "Tally", "tests/tally_face.html", lambda answer: {"tally": answer.balance.matches}, 20)


class TallyPlugin:
    """An app with a face that stays in the page as it is."""

    @hookimpl
    def faces(self) -> list[Face]:
        return [FACE]


class Faces(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        plugin = TallyPlugin()
        manager.register(plugin)
        self.addCleanup(manager.unregister, plugin)
        self.addCleanup(lambda: FindLayout.objects.all().delete())

    def kept(self, page: Page, what: str) -> AbstractContextManager[object]:
        """Wait until something of the layout was kept; how much room there is then follows on its own."""
        return page.expect_response(lambda response: response.url.endswith("/find/layout") and what in (response.request.post_data or ""))

    def turn(self, page: Page, face: str) -> None:
        with self.kept(page, "face"):
            page.locator(".face:visible").get_by_role("button", name=face, exact=True).click()
        expect(page.locator(".face:visible [aria-current]")).to_have_text(face)
        expect(page.locator(".face:visible [aria-current]")).to_be_focused()

    @in_browser
    def test_a_face_keeps_its_state_and_is_told_the_search(self, page: Page) -> None:
        self.open(page, "class: single-family")
        self.turn(page, "Tally")
        first = self.matches(page)
        expect(page.locator("#opened-at")).to_have_text(str(first))
        expect(page.locator("#face-table")).to_be_hidden()
        page.fill("#note", "mine")
        page.evaluate("""() => {
          document.querySelector("#face-tally").addEventListener("find:search", (event) => {
            event.target.title += `${event.detail.matches} `;
          });
        }""")
        page.focus("#line-0")
        page.keyboard.press("r")
        expect(page.locator("#matches")).not_to_have_text(f"{first:,}")
        # The ledger was swapped, the face was not.
        others = self.matches(page)
        expect(page.locator("#face-tally")).to_have_attribute("title", f"{others} ")
        expect(page.locator("#note")).to_have_value("mine")
        expect(page.locator("#opened-at")).to_have_text(str(first))
        # The table was not drawn meanwhile; turned to, it is of the new search.
        self.turn(page, "Table")
        expect(page.locator("#face-tally")).to_be_hidden()
        expect(page.locator(".pages")).to_contain_text(f"{others:,}")
        page.locator("[data-choose=all]").click()
        expect(page.locator("#chosen")).to_contain_text(f"All {others:,} chosen")
        # A search made while another face was shown is told when the face is turned to.
        page.locator("#undo").click()
        expect(page.locator("#matches")).to_have_text(f"{first:,}")
        expect(page.locator(".pages")).to_contain_text(f"{first:,}")
        self.turn(page, "Tally")
        expect(page.locator("#face-tally")).to_have_attribute("title", f"{others} {first} ")
        expect(page.locator("#note")).to_have_value("mine")
        self.assert_accessible(page)

    @in_browser
    def test_the_face_and_the_width_are_kept_for_the_user(self, page: Page) -> None:
        self.open(page, "class: single-family")
        table_window = self.context.new_page()
        table_window.goto(page.url)
        self.turn(page, "Tally")
        page.focus("#splitter")
        with self.kept(page, "ledger_width"):
            page.keyboard.press("ArrowRight")
        page.reload()
        expect(page.locator("#face-tally")).to_be_visible()
        self.assertEqual(page.locator(".face").count(), 1)
        self.assertEqual(round(page.locator("#left").bounding_box()["width"]), 408)  # type: ignore[index]
        # A second window shows what it showed, whatever is kept.
        table_window.focus("#line-0")
        table_window.keyboard.press("r")
        expect(table_window.locator("#edit-0")).to_contain_text("not")
        expect(table_window.locator(".pages")).to_contain_text(table_window.inner_text("#matches"))
        with self.kept(page, "ledger_width"):
            page.press("#splitter", "End")
        self.assertEqual(page.get_attribute("#splitter", "aria-valuenow"), "720")
        # What a script set of an element's style is not copied as an attribute, which the content policy would refuse.
        page.focus("#line-0")
        page.keyboard.press("r")
        expect(page.locator("#edit-0")).to_contain_text("not")
        self.assertEqual(round(page.locator("#left").bounding_box()["width"]), 720)  # type: ignore[index]
        with self.kept(page, "ledger_width"):
            page.dblclick("#splitter")
        page.goto(f"{self.live_server_url}/?face=table")
        expect(page.locator("#face-table")).to_be_visible()
        self.assertEqual(round(page.locator("#left").bounding_box()["width"]), 392)  # type: ignore[index]

    @in_browser
    def test_a_search_that_cannot_be_asked_is_said_in_any_face(self, page: Page) -> None:
        self.open(page, "tag: no such tag")
        self.turn(page, "Tally")
        expect(page.locator("#opened-at")).to_have_text("no answer")
        self.turn(page, "Table")
        expect(page.locator("#face-table .blank")).to_contain_text("can’t be asked")
