"""Twenty users at work on the demo, in every app, each with three seconds or more of thought between acts.

Most narrow, page and draw charts; some read properties and comps, work at a worksheet, move the map, print labels for a few, export. Two
have asked for large files, which the worker makes meanwhile. What is measured is what a user waits for an answer, over loopback, with
nothing else running. The first row holds the 95th percentile against the 400 ms that it may take; the second how much longer the slowest
quick act took than such an act does, against the second that nobody may wait for somebody else; the third the memory of the web's
processes after an hour's requests against what it was after a quarter of them.
"""

from __future__ import annotations

import random
import re
import statistics
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from html import unescape
from http.client import HTTPConnection, RemoteDisconnected
from pathlib import Path
from urllib.parse import quote, urlencode

from django.conf import settings
from django.test import Client

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import Parcel, ParcelFacts
from jaded_ledger.searches import services
from jaded_ledger.searches.matching import reckon
from jaded_ledger.worksheets.services import begin
from tests.benchmarks.measure import Row
from tests.benchmarks.server import server

USERS, ACTS, THOUGHT, MAY_TAKE, MAY_WAIT = 20, 24, 3.0, 400.0, 1000.0
READING = {"property": 4, "comps": 4, "worksheet": 2, "worksheet change": 2, "mailing": 2, "export": 2, "map": 2}
"""How many times as long somebody looks at what such an act brings."""
QUICK = ("empty", "page", "narrow", "turn off")
WARM_UP = 5
"""Acts of each user before it counts: a server that was just started reads its templates, and counts what nobody asked before."""
HOUR = 7_200
"""Requests of twenty users in an hour, one every ten seconds."""
LINES = (
    "class: single-family", "class: duplex, triplex", "owner-occupied: no", "equity-pct: 40..", "last-sale: more than 5 years ago",
    "beds: 3..", "assessed-value: 80000..300000", "owner-kind: company", "tax-due: 500..", "years-owned: 10..",
)  # fmt: skip
_LINK = re.compile(r'href="(/property/\d+/[^"#]*)"')
BOX = "-86.92,43.58,-86.86,43.62"


class Visitor:
    """One user: a connection, a session, and a search that is edited act by act."""

    def __init__(self, port: int, user: User, searches: list[int], parcels: list[int], worksheet: int, seed: int) -> None:
        self.connection = HTTPConnection("127.0.0.1", port, timeout=60)
        client = Client()
        client.force_login(user, backend="django.contrib.auth.backends.ModelBackend")
        token = "a" * 32
        self.headers = {
            "Cookie": f"{settings.SESSION_COOKIE_NAME}={client.session.session_key}; {settings.CSRF_COOKIE_NAME}={token}",
            "X-CSRFToken": token,
        }
        self.random = random.Random(seed)
        self.links: list[str] = []
        self.lines: list[str] = []
        self.searches, self.parcels, self.worksheet = searches, parcels, worksheet
        self.waits: dict[str, list[float]] = defaultdict(list)

    def ask(self, what: str, path: str, body: dict[str, str] | None = None) -> str:
        """Send a request, note how long it took, and return where it leads to."""
        headers = dict(self.headers)
        if body is not None:
            headers |= {"Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true"}
        started = time.perf_counter()
        sent = ("POST" if body is not None else "GET", path, urlencode(body) if body is not None else None, headers)
        try:
            self.connection.request(*sent)
            response = self.connection.getresponse()
        except (BrokenPipeError, ConnectionResetError, RemoteDisconnected):
            # The server lets go of a connection on which nothing is asked for two seconds; a browser opens another.
            self.connection.close()
            self.connection.request(*sent)
            response = self.connection.getresponse()
        text = response.read().decode(errors="replace")
        self.waits[what].append(1000 * (time.perf_counter() - started))
        # A property is opened from the table, which knows its place among the rows.
        self.links = [unescape(link) for link in _LINK.findall(text)] or self.links
        assert response.status < 400, f"{what}: {response.status}"
        return response.getheader("Location") or ""

    def act(self) -> str:
        """Do one thing, as somebody does who narrows a search, looks at its rows and at what they lead to; return what it was."""
        acts = {
            "narrow": 8, "turn off": 3, "page": 5, "chart": 2, "saved search": 2, "empty": 1, "map": 2, "property": 3, "comps": 1,
            "worksheet": 1, "worksheet change": 1, "lists": 1, "mailing": 1, "export": 1, "records": 1,
        }  # fmt: skip
        what = self.random.choices(list(acts), list(acts.values()))[0]
        if (what == "narrow" and len(self.lines) >= 6) or (what == "turn off" and not self.lines):
            what = "page"
        state = {"q": "\n".join(self.lines), "face": "table", "room": "812"}
        parcel = self.random.choice(self.parcels)
        match what:
            case "narrow":
                line = self.random.choice([one for one in LINES if one not in self.lines])
                self.ask(what, "/find/change", state | {"do": f"add:{line}"})
                self.lines.append(line)
            case "turn off":
                self.ask(what, "/find/change", state | {"do": f"strike:{self.random.randrange(len(self.lines))}"})
            case "chart":
                self.ask(what, "/charts/chart", state | {"x": self.random.choice(["assessed-value", "class", "last-sale"])})
            case "saved search":
                where = self.ask("open saved", f"/searches/{self.random.choice(self.searches)}/open")
                self.ask(what, where)
            case "empty":
                self.lines = []
                self.ask(what, "/")
            case "map":
                self.ask(what, f"/map/in-view?{urlencode(state | {'box': BOX, 'zoom': '14'})}")
            case "property":
                self.ask(what, self.random.choice(self.links) if self.links else f"/property/{parcel}/")
            case "comps":
                self.ask(what, f"/deals/comps/{parcel}/")
            case "worksheet":
                self.ask(what, f"/deals/worksheets/{self.worksheet}/")
            case "worksheet change":
                change = {"input:price": str(self.random.randrange(90, 400) * 1000)}
                self.ask(what, f"/deals/worksheets/{self.worksheet}/change", change)
            case "lists":
                self.ask(what, self.random.choice(["/lists/", "/lists/activity", "/searches/", "/deals/"]))
            case "mailing" | "export":
                self.take_out(what, state)
            case "records":
                self.ask(what, self.random.choice(["/records/", "/outreach/", "/files/"]))
            case _:
                page = self.random.randrange(1, 4)
                self.ask(what, f"/?{urlencode(state | {'page': str(page)}, quote_via=quote)}")
        return what

    def take_out(self, what: str, state: dict[str, str]) -> None:
        """Choose a hundred, and mail them or export them."""
        then, ids = "mail" if what == "mailing" else "contacts", self.random.sample(self.parcels, 100)
        where = self.ask("choose", "/find/selection", state | {"then": then, "ids": ",".join(map(str, ids))})
        if then == "contacts":
            self.ask(what, where)
            self.ask(f"{what}, the file", where, {"columns": "owner-name"})
            return
        begun = self.ask("begin a mailing", where)
        self.ask(what, begun)
        self.ask(f"{what}, a change", f"{begun}change", {"to": "resident", "note": "{code}"})
        # Some of the hundred were mailed to by others a moment ago; this one goes to them, too.
        self.ask(f"{what}, a reason let go", f"{begun}change", {"relaxed": "mailed"})
        self.ask(f"{what}, the file", f"{begun}make", {})

    def work(self) -> None:
        """Act, and think in between; what was asked while the server was new does not count."""
        time.sleep(self.random.random() * THOUGHT)
        for number in range(WARM_UP + ACTS):
            if number == WARM_UP:
                self.waits.clear()
            what = self.act()
            time.sleep(self.random.uniform(0.5, 1.5) * THOUGHT * READING.get(what, 1))

    def hurry(self, requests: int) -> None:
        """Act without a thought until so many requests were answered."""
        before = sum(map(len, self.waits.values()))
        while sum(map(len, self.waits.values())) - before < requests:
            self.act()


def _at_once(work: Sequence[Callable[[], None]]) -> None:
    """Do several things at once, and wait for all. Raises what one of them raises."""
    with ThreadPoolExecutor(len(work)) as pool:
        for one in [pool.submit(each) for each in work]:
            one.result()


def _large_export(visitor: Visitor) -> None:
    """Ask for a file of all parcels, which the worker makes."""
    where = visitor.ask("choose all", "/find/selection", {"q": "", "then": "contacts", "all": "1"})
    leads_to = visitor.ask("a large file", where, {"columns": "owner-name", "reading_case": "on"})
    assert leads_to.startswith("/files/"), leads_to


def _large_mailing(visitor: Visitor) -> None:
    """Make a mailing to all owners, which the worker makes."""
    begun = visitor.ask("begin", visitor.ask("choose all", "/find/selection", {"q": "", "then": "mail", "all": "1"}))
    leads_to = visitor.ask("a large mailing", f"{begun}make", {})
    assert leads_to.startswith("/files/"), leads_to


def rows() -> Iterator[Row]:
    team = Team.objects.get()
    users = [User.objects.get_or_create(username=f"user{number}", defaults={"team": team})[0] for number in range(USERS)]
    scope = Scope(team, users[0], today(team.time_zone))
    services.searches_of(scope).filter(name__startswith="Load ").delete()
    kept = [services.save(scope, SearchPage(parse(line)), f"Load {line}", shared=True) for line in LINES]
    for saved in kept:
        # The page that saves one looks at it, too.
        reckon(saved, scope)
    parcels = list(ParcelFacts.objects.order_by("?").values_list("parcel_id", flat=True)[:400])
    worksheets = [begin(scope, Parcel.objects.get(pk=pk)) for pk in parcels[:USERS]]
    with server(worker=True) as (port, web):
        visitors = [
            Visitor(port, user, [saved.pk for saved in kept], parcels, worksheet.pk, seed)
            for seed, (user, worksheet) in enumerate(zip(users, worksheets, strict=True))
        ]
        others = [Visitor(port, user, [], parcels, 0, 90 + place) for place, user in enumerate(users[:2])]
        asking = threading.Timer(2 * WARM_UP * THOUGHT, _at_once, [[lambda: _large_export(others[0]), lambda: _large_mailing(others[1])]])
        asking.start()
        _at_once([visitor.work for visitor in visitors])
        asking.join()
        waits: dict[str, list[float]] = defaultdict(list)
        for visitor in visitors:
            for what, taken in visitor.waits.items():
                waits[what] += taken
        for what, taken in sorted(waits.items()):
            told = f"p50 {statistics.median(taken):,.0f} ms, p95 {_percentile(taken):,.0f}, {max(taken):,.0f} at most"
            print(f"  {what}: {len(taken)}, {told}")
        every = [one for taken in waits.values() for one in taken]
        print(f"  {len(every)} answers to {USERS} users, p50 {statistics.median(every):,.0f} ms")
        yield Row(f"answers to {USERS} users at once, p95 against {MAY_TAKE:.0f} ms", _percentile(every), MAY_TAKE, 1.0)
        quick = [one for what in QUICK for one in waits[what]]
        longest = max(quick) - statistics.median(quick)
        yield Row(f"how much longer one waits while others make large files, against {MAY_WAIT:.0f} ms", longest, MAY_WAIT, 1.0)
        _at_once([lambda one=one: one.hurry(HOUR // 4 // USERS) for one in visitors])  # type: ignore[misc]
        before = _megabytes(web)
        _at_once([lambda one=one: one.hurry(3 * HOUR // 4 // USERS) for one in visitors])  # type: ignore[misc]
        after = _megabytes(web)
    yield Row(f"MB of the web after {HOUR:,} requests against a quarter of them", after, before, 1.1)


def _megabytes(process: int) -> float:
    """Return the memory of a process and its children, what they share counted once."""
    pids = [process, *map(int, Path(f"/proc/{process}/task/{process}/children").read_text().split())]
    told = (Path(f"/proc/{pid}/smaps_rollup").read_text() for pid in pids)
    return sum(int(found) for text in told for found in re.findall(r"^Pss:\s+(\d+)", text, re.MULTILINE)) / 1024


def _percentile(taken: list[float]) -> float:
    return statistics.quantiles(taken, n=20)[18] if len(taken) > 1 else taken[0]
