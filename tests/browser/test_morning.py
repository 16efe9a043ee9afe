"""The morning: from what is new in a search to the search, and a calendar's address made and renewed."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.demo.people import USER
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.clock import today
from jaded_ledger.searches import services
from tests.browser.case import BrowserCase, in_browser


class Morning(BrowserCase):
    def save_search(self) -> None:
        user = User.objects.get(username=USER)
        services.save(Scope(user.team, user, today()), SearchPage(parse("class: triplex")), "Three doors")

    @in_browser
    def test_a_search_opened_and_a_calendar_renewed(self, page: Page) -> None:
        self.orm(self.save_search)
        page.goto(self.live_server_url)
        page.click("nav >> text=Morning")
        expect(page.locator("main")).to_contain_text("not opened yet")
        self.assert_accessible(page)
        page.click("button:has-text('Make an address')")
        address = page.input_value("#address")
        self.assertIn("/morning/calendar/", address)
        self.assert_accessible(page)
        answer = self.context.browser.new_context().request.get(address)
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "text/calendar; charset=utf-8"))
        page.click("button:has-text('Another address')")
        self.assertNotEqual(page.input_value("#address"), address)
        page.click("text=Three doors")
        expect(page.locator("h1")).to_have_text("Three doors")
