"""The morning: a search is watched, two days pass, what is new is read by keyboard; a client is written to and answers."""

from __future__ import annotations

from urllib.parse import urlsplit

from django.core.management import call_command
from django.test import override_settings
from playwright.sync_api import Page, expect

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients.models import ClientAnswer
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.demo.people import USER
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.models import Membership
from jaded_ledger.records.clock import today
from jaded_ledger.searches import services
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.simulators.models import KeptMail
from jaded_ledger.watch.models import Mark, Watch
from jaded_ledger.watch.telling import run_due
from tests.support.browser import BrowserCase, in_browser
from tests.support.tiers import thorough


@override_settings(EMAIL_BACKEND="jaded_ledger.simulators.mailbox.Mailbox")
class Morning(BrowserCase):
    def save_search(self, text: str = 'on-offer: any of "for-sale"', name: str = "For sale") -> None:
        user = User.objects.get(username=USER)
        user.email = "nora@lantern.example"
        user.save()
        services.save(Scope(user.team, user, today()), SearchPage(parse(text)), name)

    def let_two_days_pass(self) -> None:
        for _ in range(2):
            call_command("demo_day", verbosity=0, stdout=open("/dev/null", "w"))  # noqa: SIM115
            run_due(every=True)

    def pressed(self, page: Page, key: str) -> None:
        with self.swapped(page, "/morning/act"):
            page.keyboard.press(key)

    @thorough
    @in_browser
    def test_a_search_is_watched_and_read_by_keyboard(self, page: Page) -> None:
        self.orm(self.save_search)
        page.goto(f"{self.live_server_url}/searches/{self.orm(lambda: SavedSearch.objects.get(name='For sale').pk)}")
        page.check("text=also by e-mail")
        self.assert_accessible(page)
        with page.expect_navigation():
            page.click("button:has-text('Watch')")
        expect(page.locator("main")).to_contain_text("You watch “For sale”")
        self.orm(self.let_two_days_pass)
        page.click("nav >> text=Morning")
        expect(page.locator(".why-table").first).to_contain_text("did not hold")
        expect(page.locator(".why-table .source").first).to_contain_text("Listed, agency")
        self.assert_accessible(page)
        first = page.inner_text("#row-title")
        self.pressed(page, " ")
        expect(page.locator("#row-title")).not_to_have_text(first)
        expect(page.locator(".tally")).to_contain_text("1 read · 0 kept · 0 passed")
        # A tag and a note leave the row; Enter does what was typed.
        second = page.inner_text("#row-title")
        for key, typed in (("t", "Corner"), ("n", "Ask the agent")):
            page.keyboard.press(key)
            page.keyboard.type(typed)
            self.pressed(page, "Enter")
        expect(page.locator("#row-title")).to_have_text(second)
        expect(page.locator(".row-why")).to_contain_text("noted: Ask the agent")
        # No list is chosen yet: the key leads to the lists, and Enter keeps on the one that is typed.
        page.keyboard.press("k")
        expect(page.locator("[name=list]")).to_be_focused()
        page.keyboard.type("on Estates, s")
        self.pressed(page, "Enter")
        expect(page.locator(".morning-row")).to_contain_text("Kept on “Estates, spring letters”")
        page.keyboard.press("p")
        page.keyboard.type("too dear")
        self.pressed(page, "Enter")
        expect(page.locator(".tally")).to_contain_text("3 read · 1 kept · 1 passed")
        self.pressed(page, "z")
        expect(page.locator(".tally")).to_contain_text("2 read · 1 kept · 0 passed")
        # The list that was chosen stays chosen; Enter at once passes without a reason.
        self.pressed(page, "k")
        page.keyboard.press("p")
        self.pressed(page, "Enter")
        kept = self.orm(
            lambda: Membership.objects.filter(parcel__in=Mark.objects.filter(act="kept").values("parcel"), removed=None).count()
        )
        self.assertGreaterEqual(kept, 2)
        expect(page.locator("#stands-on")).to_contain_text("left · 1 search")
        with page.expect_navigation():
            page.click("text=Done with these")
        expect(page.locator("main")).to_contain_text("All is read")
        self.assert_accessible(page)
        page.click("text=Yesterday")
        page.click("text=Last week")
        expect(page.locator("#row-title")).to_be_visible()
        row = page.inner_text("#row-title")
        with page.expect_navigation():
            page.keyboard.press(" ")
        expect(page.locator("#row-title")).not_to_have_text(row)
        with page.expect_navigation():
            page.keyboard.press("o")
        self.assertIn("/property/", page.url)
        page.goto(f"{self.live_server_url}/mailbox/")
        page.locator("main a", has_text="For sale").first.click()
        expect(page.locator("pre")).to_contain_text("did not hold, now holds")
        self.assert_accessible(page)

    @thorough
    @in_browser
    def test_a_client_is_written_to_and_answers(self, page: Page) -> None:
        self.orm(lambda: self.save_search('on-offer: any of "for-sale"\nbeds: 3', "Three bedrooms"))
        page.goto(f"{self.live_server_url}/morning/")
        page.click("text=Clients")
        self.assert_accessible(page)
        page.click("text=New client")
        page.fill("[name=name]", "Imre Solvang")
        page.fill("[name=email]", "imre@solvang.example")
        page.fill("[name=where]", "by the lake")
        self.assert_accessible(page)
        page.click("button:has-text('Keep')")
        page.select_option("#saved", label="Three bedrooms")
        page.click("button:has-text('Give')")
        page.click("button:has-text('Write now')")
        page.click("text=ready for review")
        page.uncheck("[name=parcel] >> nth=0")
        self.assert_accessible(page)
        page.click("button:has-text('Send')")
        expect(page.locator("main")).to_contain_text("Sent to imre@solvang.example")
        self.assert_accessible(page)
        address = urlsplit(page.input_value("#address")).path
        self.assertIn(address, self.orm(lambda: bytes(KeptMail.objects.get().message).decode().replace("=\n", "")))
        theirs = self.new_page(self.context.browser.new_context())
        theirs.goto(self.live_server_url + address)
        expect(theirs.locator("h1")).to_have_text("For Imre Solvang")
        self.assert_accessible(theirs)
        card = theirs.locator("article").first
        card.locator("[name=reason]").select_option("too dear")
        card.locator("button:has-text('No')").click()
        expect(theirs.locator("article").first).to_contain_text("You: no, too dear")
        self.assertTrue(self.orm(lambda: ClientAnswer.objects.get().by_client))
        page.reload()
        expect(page.locator("main")).to_contain_text("no: too dear")
        page.click("button:has-text('Revoke it')")
        self.assertEqual(theirs.goto(self.live_server_url + address).status, 404)
        self.troubles.clear()
        theirs.context.close()

    @in_browser
    def test_a_calendar_renewed(self, page: Page) -> None:
        self.open(page)
        page.click("nav >> text=Morning")
        self.assert_accessible(page)
        page.click("text=In your own calendar")
        page.click("button:has-text('Make an address')")
        address = page.input_value("#address")
        self.assertIn("/morning/calendar/", address)
        answer = self.context.browser.new_context().request.get(address)
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "text/calendar; charset=utf-8"))
        page.click("button:has-text('Another address')")
        self.assertNotEqual(page.input_value("#address"), address)
        self.assertEqual(self.orm(Watch.objects.count), 0)
