"""A real browser on a live server with a copy of the demo.

Playwright's calls run on a thread of their own, since they may not share one with the ORM; ``self.orm(...)`` runs a
database call beside it. A test fails if any page asked another host for something or reported an error.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any, TypeVar
from urllib.parse import quote, urlsplit

from axe_playwright_python.sync_playwright import Axe
from django.conf import settings
from django.db import connection
from django.test import Client
from playwright.sync_api import Browser, BrowserContext, Page, Route, expect, sync_playwright

from jaded_ledger.accounts.models import User
from jaded_ledger.demo.people import USER
from tests.support.demo import DemoServerCase

T = TypeVar("T")
CHROMIUM = "/usr/bin/chromium-headless-shell"
"""Debian's package of the engine without a window."""

# Tests run side by side, and a page of many lines takes its time then.
expect.set_options(timeout=30_000)


_SHAPE = """() => {
  const shapeOf = (element) => [
    element.tagName, element.getAttribute("class"), element.getAttribute("role"), element.getAttribute("type"),
    element.textContent.trim() !== "", element.getAttributeNames().filter((name) => /^(aria-|title|alt|for)/.test(name)),
  ].join("|");
  const shown = [...document.querySelectorAll("body *")].filter((element) => element.checkVisibility());
  const theme = matchMedia("(prefers-color-scheme: dark)").matches;
  return [theme, innerWidth, ...new Set(shown.map(shapeOf))].sort().join("\\n");
}"""
"""What axe-core's rules look at: which elements are shown, how they are styled, named and described, in which theme."""
_seen: set[tuple[str, str]] = set()


def in_browser(test: Callable[..., None]) -> Callable[..., None]:
    """Run a test on the browser's thread, with a signed-in page that has opened nothing yet."""

    @functools.wraps(test)
    def on_thread(self: BrowserCase) -> None:
        self.browser_thread.submit(self._with_page, test).result()

    return on_thread


class HeldRequests:
    """Requests that a test keeps back, the first ``count`` that fit; those after them pass."""

    def __init__(self, page: Page, pattern: str, count: int) -> None:
        self.page, self.routes, self.count = page, list[Route](), count
        page.route(pattern, self._hold)

    def _hold(self, route: Route) -> None:
        if len(self.routes) < self.count:
            self.routes.append(route)
        else:
            route.continue_()

    def __getitem__(self, number: int) -> Route:
        """Return one of them. A page tells of a request before it can be held, so this waits for it."""
        for _ in range(500):
            if len(self.routes) > number:
                return self.routes[number]
            self.page.wait_for_timeout(10)
        raise AssertionError(f"Only {len(self.routes)} requests came.")


@functools.cache
def _chromium() -> tuple[ThreadPoolExecutor, Browser]:
    """Return the one browser of this process, and the thread that it is driven from. It ends with the process."""
    thread = ThreadPoolExecutor(1)

    def start() -> Browser:
        return (
            sync_playwright()
            .start()
            .chromium.launch(
                executable_path=CHROMIUM,
                args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync", "--no-first-run"],
            )
        )

    return thread, thread.submit(start).result()


class BrowserCase(DemoServerCase):
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.browser_thread, cls.browser = _chromium()
        cls.orm_thread = ThreadPoolExecutor(1)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.orm_thread.submit(lambda: connection.close()).result()
        cls.orm_thread.shutdown()
        super().tearDownClass()

    def orm(self, ask: Callable[[], T]) -> T:
        """Return what a database call gives. One within another would wait for itself, so waiting ends."""
        return self.orm_thread.submit(ask).result(timeout=120)

    def new_page(self, context: BrowserContext) -> Page:
        page = context.new_page()
        # An answer that came is not yet in the page; what was put there is noted for ``swapped``.
        page.add_init_script("""
          window.swapped = [];
          addEventListener("htmx:afterSettle", (event) => window.swapped.push(event.detail.xhr.responseURL));
        """)
        page.on("pageerror", lambda error: self.troubles.append(f"script: {error}"))
        page.on("console", lambda message: self._note(message.type, message.text))
        page.on("request", lambda request: self._check_host(request.url))
        return page

    def _note(self, kind: str, text: str) -> None:
        # htmx reports a request that a newer one replaced as an error; it is none. Nor is a page that says what was wrong.
        is_one = not text.startswith(("htmx:afterRequest", "htmx:sendAbort")) and "with a status of 400" not in text
        if kind == "error" and is_one:
            self.troubles.append(f"console: {text}")

    def _check_host(self, url: str) -> None:
        parts = urlsplit(url)
        if parts.scheme not in ("data", "blob") and parts.netloc != urlsplit(self.live_server_url).netloc:
            self.troubles.append(f"asked another host: {url}")
        if "csrfmiddlewaretoken" in parts.query:
            self.troubles.append(f"a token stands in an address: {parts.path}")

    def _with_page(self, test: Callable[..., None]) -> None:
        self.troubles: list[str] = []
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        self.context.set_default_timeout(30_000)
        try:
            page = self.new_page(self.context)
            self.context.add_cookies([{"name": settings.SESSION_COOKIE_NAME, "value": self.orm(self.session), "url": self.live_server_url}])
            test(self, page)
            self.assertEqual(self.troubles, [])
        finally:
            self.context.close()

    @contextmanager
    def swapped(self, page: Page, address: str) -> Iterator[None]:
        """Wait until the answer to what is done within, from an address that has ``address`` in it, stands in the page."""
        before = page.evaluate("window.swapped.length")
        yield
        for _ in range(3_000):
            if page.evaluate("([before, part]) => window.swapped.slice(before).some((url) => url.includes(part))", [before, address]):
                return
            page.wait_for_timeout(10)
        raise AssertionError(f"Nothing of {address} was put into the page.")

    def settled(self, page: Page) -> None:
        """Wait until no answer is awaited or being put on the page. A page that is quiet for half a second may never come: it may poll."""
        expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling, .htmx-added")).to_have_count(0)

    def session(self) -> str:
        """Return the key of a session in which the demo's user is signed in. By hand it is done in the story."""
        client = Client()
        client.force_login(User.objects.get(username=USER), backend="django.contrib.auth.backends.ModelBackend")
        return client.session.session_key or ""

    def open(self, page: Page, search: str = "") -> None:
        page.goto(f"{self.live_server_url}/?q={quote(search)}" if search else self.live_server_url)

    def matches(self, page: Page) -> int:
        return self.figure(page, "#matches")

    def figure(self, page: Page, selector: str) -> int:
        """Return a count as a page shows it."""
        return int("".join(filter(str.isdigit, page.inner_text(selector))))

    def lines(self, page: Page) -> list[str]:
        """Return the ledger's sentences."""
        return [" ".join(text.split()) for text in page.locator(".line .sentence").all_inner_texts()]

    def assert_accessible(self, page: Page, rules: list[str] | None = None) -> None:
        """WCAG 2.2 A and AA, or some rules of it alone, by axe-core; once for each shape of a page in each theme."""
        what: Any = {"type": "rule", "values": rules} if rules else ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
        shape = (str(what), page.evaluate(_SHAPE))
        if shape in _seen:
            return
        # Only what is wrong is wanted: of what passes, axe need not tell each place.
        found: Any = Axe().run(page, options={"runOnly": what, "resultTypes": ["violations"], "preload": False})
        broken = {rule["id"]: [node["target"] for node in rule["nodes"][:4]] for rule in found.response["violations"]}
        self.assertEqual(broken, {}, page.url)
        _seen.add(shape)
