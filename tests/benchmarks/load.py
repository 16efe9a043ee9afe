"""Twenty users at work on the demo, each with a second of thought between acts: narrowing, paging, charts, saved searches.

What is measured is what a user waits for an answer, over loopback, with nothing else running. The row holds the 95th percentile
against the 400 ms that it may take.
"""

from __future__ import annotations

import random
import statistics
import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from http.client import HTTPConnection
from urllib.parse import quote, urlencode

from django.conf import settings
from django.test import Client

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.clock import today
from jaded_ledger.searches import services
from jaded_ledger.searches.matching import reckon
from tests.benchmarks.measure import Row
from tests.benchmarks.server import server

USERS, ACTS, THOUGHT, MAY_TAKE = 20, 24, 1.0, 400.0
WARM_UP = 5
"""Acts of each user before it counts: a server that was just started reads its templates, and counts what nobody asked before."""
LINES = (
    "class: single-family", "class: duplex, triplex", "owner-occupied: no", "equity-pct: 40..", "last-sale: more than 5 years ago",
    "beds: 3..", "assessed-value: 80000..300000", "owner-kind: company", "tax-due: 500..", "years-owned: 10..",
)  # fmt: skip


class Visitor:
    """One user: a connection, a session, and a search that is edited act by act."""

    def __init__(self, port: int, user: User, searches: list[int], seed: int) -> None:
        self.connection = HTTPConnection("127.0.0.1", port, timeout=60)
        client = Client()
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        token = "a" * 32
        self.headers = {
            "Cookie": f"{settings.SESSION_COOKIE_NAME}={client.session.session_key}; {settings.CSRF_COOKIE_NAME}={token}",
            "X-CSRFToken": token,
        }
        self.random = random.Random(seed)
        self.lines: list[str] = []
        self.searches = searches
        self.waits: dict[str, list[float]] = defaultdict(list)
        self.failed: list[str] = []

    def ask(self, what: str, path: str, body: dict[str, str] | None = None) -> str:
        """Send a request, note how long it took, and return where it leads to."""
        headers = dict(self.headers)
        if body is not None:
            headers |= {"Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true"}
        started = time.perf_counter()
        self.connection.request("POST" if body is not None else "GET", path, urlencode(body) if body is not None else None, headers)
        response = self.connection.getresponse()
        response.read()
        self.waits[what].append(1000 * (time.perf_counter() - started))
        if response.status >= 400:
            self.failed.append(f"{what}: {response.status}")
        return response.getheader("Location") or ""

    def act(self) -> None:
        """Do one thing, as somebody does who narrows a search, looks at its rows and charts, and opens those that were kept."""
        state = {"q": "\n".join(self.lines), "face": "table", "room": "812"}
        match self.random.choices(("narrow", "strike", "page", "chart", "open", "begin"), (8, 3, 5, 2, 2, 1))[0]:
            case "narrow" if len(self.lines) < 6:
                line = self.random.choice([one for one in LINES if one not in self.lines])
                self.ask("narrow", "/find/change", state | {"do": f"add:{line}"})
                self.lines.append(line)
            case "strike" if self.lines:
                self.ask("turn off", "/find/change", state | {"do": f"strike:{self.random.randrange(len(self.lines))}"})
            case "chart":
                self.ask("chart", "/charts/chart", state | {"x": self.random.choice(["assessed-value", "class", "last-sale"])})
            case "open":
                where = self.ask("open saved", f"/searches/{self.random.choice(self.searches)}/open")
                self.ask("saved search", where)
            case "begin":
                self.lines = []
                self.ask("empty", "/")
            case _:
                page = self.random.randrange(1, 4)
                self.ask("page", f"/?{urlencode(state | {'page': str(page)}, quote_via=quote)}")

    def work(self) -> None:
        time.sleep(self.random.random() * THOUGHT)
        for number in range(WARM_UP + ACTS):
            if number == WARM_UP:
                self.waits.clear()
            self.act()
            time.sleep(self.random.uniform(0.5, 1.5) * THOUGHT)


def rows() -> Iterator[Row]:
    team = Team.objects.get()
    users = [User.objects.get_or_create(username=f"user{number}", defaults={"team": team})[0] for number in range(USERS)]
    scope = Scope(team, users[0], today(team.time_zone))
    services.searches_of(scope).filter(name__startswith="Load ").delete()
    kept = [services.save(scope, SearchPage(parse(line)), f"Load {line}", shared=True) for line in LINES]
    for saved in kept:
        # The page that saves one looks at it, too.
        reckon(saved, scope)
    with server() as port:
        visitors = [Visitor(port, user, [saved.pk for saved in kept], seed) for seed, user in enumerate(users)]
        threads = [threading.Thread(target=visitor.work) for visitor in visitors]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    waits: dict[str, list[float]] = defaultdict(list)
    for visitor in visitors:
        for what, taken in visitor.waits.items():
            waits[what] += taken
    failed = [text for visitor in visitors for text in visitor.failed]
    assert not failed, failed[:5]
    for what, taken in sorted(waits.items()):
        print(f"  {what}: {len(taken)}, p50 {statistics.median(taken):,.0f} ms, p95 {_percentile(taken):,.0f} ms")
    every = [one for taken in waits.values() for one in taken]
    print(f"  {len(every)} answers to {USERS} users, p50 {statistics.median(every):,.0f} ms")
    yield Row(f"answers to {USERS} users at once, p95 against {MAY_TAKE:.0f} ms", _percentile(every), MAY_TAKE, 1.0)


def _percentile(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[18] if len(taken) > 1 else taken[0]
