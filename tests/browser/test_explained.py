"""A search across all sections, and figures that open to how they came about, from the table and from a property's page."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.models import Parcel
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough

# One criterion of each section of the catalogue.
EIGHT = """county: Tamarack, Pike Hollow
neighborhood: "Harbour Wards", "Mill Side", "Weavers Hill"
units: 1..4
owner-occupied: no
equity-pct: 50..
last-sale: more than 5 years ago, or unknown
open-signals: 1..
ever-listed: no
area-yield: 8.."""


class Explained(BrowserCase):
    def parcel(self, number: str) -> int:
        return self.orm(lambda: Parcel.objects.get(number=number).pk)

    @thorough
    @in_browser
    def test_eight_criteria_of_eight_sections(self, page: Page) -> None:
        self.open(page, EIGHT.splitlines()[0])
        for line in EIGHT.splitlines()[1:]:
            before = page.locator(".line").count()
            page.fill("[name=typed]", line)
            page.press("[name=typed]", "Enter")
            expect(page.locator(".line")).to_have_count(before + 1)
        self.assertEqual(len(self.lines(page)), 8)
        found = self.orm(lambda: compile(parse(EIGHT), self.scope_of_tests()).matches.count())
        self.assertEqual(self.matches(page), found)
        self.assertGreater(found, 20)
        page.locator("button", has_text="Show what is asked").click()
        expect(page.locator(".rows thead")).to_contain_text("Equity %")
        self.assert_accessible(page)

    def scope_of_tests(self):
        from jaded_ledger.accounts.scope import scope_of_command

        return scope_of_command()

    @in_browser
    def test_from_the_table_by_mouse_and_by_keyboard(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/?q=parcel-number%3A%20tamarack/12-018-020&columns=equity,loan-balance")
        page.locator(".rows tbody tr td a.opens").first.click()
        panel = page.locator(".explained")
        expect(panel.locator("h2")).to_have_text("Equity")
        expect(panel).to_contain_text("Estimated value − open loan balances")
        expect(panel).to_contain_text("Involuntary liens")
        self.assertEqual(panel.locator(".total").inner_text(), page.locator(".rows tbody tr td a.opens").first.inner_text())
        self.assert_accessible(page)
        page.keyboard.press("Escape")
        expect(panel).to_have_count(0)
        expect(page.locator(".rows tbody tr td a.opens").first).to_be_focused()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(panel.locator("h2")).to_have_text("Loan balance")
        expect(panel).to_contain_text(re.compile(r"replaced by a refinance"))
        page.locator("[data-closes-explained]").click()
        expect(panel).to_have_count(0)

    @in_browser
    def test_from_the_page_to_the_recorded_row(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/property/{self.parcel('12-018-020')}/")
        page.locator(".figures a.opens", has_text="mechanics-lien").click()
        panel = page.locator(".explained")
        expect(panel).to_contain_text("Mechanic’s lien")
        link = panel.locator(".rows-of a").first
        self.assertRegex(link.inner_text(), r"liens\.csv:\d+")
        anchor = link.get_attribute("href").partition("#")[2]
        link.click()
        expect(page.locator(f"#{anchor}")).to_be_in_viewport()
        expect(page.locator(f"#{anchor}")).to_contain_text("27,682")

    @in_browser
    def test_what_is_not_known_says_why(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/property/{self.parcel('010229021')}/")
        page.locator(".figures tr", has_text="years owned").locator("a.opens").click()
        expect(page.locator(".explained")).to_contain_text("so since when it is owned is not known")
        self.assert_accessible(page)

    @in_browser
    def test_the_statement_adds_up(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/property/{self.parcel('12-018-020')}/")
        debits, credits = (
            sum(int(text.replace(",", "")) for text in page.locator(f".lines td.{side}").all_inner_texts() if text) for side in ("dr", "cr")
        )
        owed = int(page.locator(".closing .total").first.inner_text().split()[-1].replace(",", ""))
        # Each figure is rounded to the dollar by itself.
        self.assertLess(abs(debits - credits - owed), 15)
        expect(page.locator(".history-chart .value").first).to_be_visible()
        equity = page.locator(".figures tr", has_text="equity").first.locator("td").inner_text()
        self.assertEqual(page.locator(".closing b").inner_text(), equity)
        self.assert_accessible(page)

    @in_browser
    def test_without_scripts_a_figure_is_a_page_of_its_own(self, page: Page) -> None:
        page.goto(f"{self.live_server_url}/property/{self.parcel('12-018-020')}/explained/ltv")
        expect(page.locator("main")).to_contain_text("Loan balance ÷ estimated value")
        self.assert_accessible(page)
