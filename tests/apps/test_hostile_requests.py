"""What nobody should send: every address takes it without breaking, and says what is wrong where something is."""

from __future__ import annotations

import os
import random
import re
import time
from copy import copy
from itertools import cycle
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse
from django.test import Client, RequestFactory, override_settings, tag
from django.urls import resolve, reverse

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.records.models import Listing, Parcel, SourceFile
from jaded_ledger.web.middleware import LimitTime, only_reads
from tests.support.addresses import patterns
from tests.support.demo import DemoTestCase
from tests.support.tiers import DEEP, IS_DEEP

REQUESTS = int(os.environ.get("JADED_LEDGER_REQUESTS", "300" if IS_DEEP else "80"))
"""``bin/fuzz`` sends many more."""
SECONDS_EACH = 5 if "JADED_LEDGER_REQUESTS" in os.environ else 10
"""No request may hang; how quick they are is bin/bench's to tell. With other tests beside, one may wait for its turn."""
SEED = int(os.environ.get("JADED_LEDGER_SEED", "20261127"))
NAMES = (
    "add all back amount.beds amount.within any area as as_of as_text at baths before bom box by center change column columns "
    "counting county day decision delimiter dialing distance do edit encoding end extent fills:0 first fix_as fix_what geometry grade "
    "grade_now group half_life header_line high ids is_complete key kind label last latitude line lines list lives_there "
    "living-area longitude low mark match member members name next note number of on order other page password pasted phrases "
    "past_too per piece preset purpose q quantity radius raw reach reason refused s section seen sense set sheet show shows "
    "since size-step sort source source_on spelling "
    "stage stale start state strike tab tag text then there tick times:price to trait type typed unit unknown username view "
    "weight why within word:deed:0 words zoom"
).split()
ACTS = (
    "add answer as-shipped back:1-2026-01-01 columns copy counties delete discard down draw drop-stale end exclude:in-area:x "
    "give-up grade-subject grade:1-2026-01-01 include:beds:3 include:in-area:x include:on-offer:for-sale instead:0 join keep "
    "keep-columns keep-stale list merge move:0:end out:1-2026-01-01 part:0 put-in refuse:0 remove:0 rename renew restore "
    "save show:beds split stage strike:0 tag take take-out take:3 take:beds text turn:0 undo unknowns:0 unlist untag up"
).split()
SEARCHES = (
    "class: duplex", 'remarks: any of "as is", "motivated"', "any of:\n  beds: 3..\n  owner-name: \"o\"", "beds: ask", "~ beds: 1..2",
    "county: Tamarack\nlast-sale: before 5 years ago",
    'in-area: any; not "Oakum corner"', "within: 0.5 mi of zip 53301", 'within: 1 km of point "44.5, -87.3"',
)  # fmt: skip
PAGES = ("http://testserver/?q=beds%3A+3", "http://[", "http://x:99999999/", "%00", "", "//", "http://[::1", "\u202e")
"""What htmx may say that the page is on which something was pressed."""
NASTY = (
    "\x00", "1" * 5000, "-1", "0", "1e309", "NaN", "٣", "’" * 300, "😀" * 120, "<script>alert(1)</script>", "'; DROP TABLE x; --", "%",
    "\\", '"', '""', "a.b. " * 40, "a." * 400, "(" * 400, "*" * 50, "..", "9..1", "0001-01-01", "9999-12-31", "2026-02-30",
    "in the last 99999999999 days", "more than 9999 years ago", "\u202e", "\ufeff", "\r\n\r\n", "a\nb\nc", "x" * 20_000,
    "\n".join("y" * 290 for _ in range(20)), "remarks: any of " + ", ".join(f'"w{n}*"' for n in range(60)),
    "parcel-number: " + "9|" * 500 + "9", 'owner-name: "&"', "any of:", "county: Nowhere", "[" * 3000, "{}", "../../etc/passwd",
    "beds:", ": 3", "\ud7ff", "\U0010ffff", "١٢٣", "²", "１２",
)  # fmt: skip


class EveryAddress(DemoTestCase):
    """Requests at random, always the same ones, over every address."""

    def setUp(self) -> None:
        self.random = random.Random(SEED)
        self.pages, self.names = cycle(PAGES), cycle(("😀" * 120 + ".csv", "x." + "y" * 250, "a" * 252 + ".zip"))
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.cookies = copy(self.client.cookies)
        scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        selection = keep(scope, SearchPage(parse("class: triplex")), [], is_all=True)
        self.keys = {
            "pk": [
                DrawnArea.objects.first().pk,
                Listing.objects.filter(standard_status="Closed").first().pk,
                Parcel.objects.first().pk,
                ParcelList.objects.first().pk,
                SourceFile.objects.first().pk,
                10**30,
                0,
            ],
            "parcel": [Parcel.objects.first().pk, 10**17],
            "key": [selection.key, "x", "equity", "../x", "😀", "%00", "1" * 300],
            "object_id": [self.user.pk, self.scope.team.pk, 10**30, "x_5F", "😀", "%00"],
            "content_type_id": [1, 10**17],
            "app_label": ["accounts", "procrastinate"],
            "url": ["x", "%00/"],
            "version": [0, 10**30],
            "zoom": [0, 14, 99, 10**30],
            "column": [0, 4_232, 10**30],
            "row": [0, 5_988, 10**30],
            "uidb64": ["MQ", "x", "😀", "%00", "_" * 300],
            "token": ["set-password", "x-y", "%00", "1" * 300],
        }

    def address(self, pattern: str) -> str:
        return re.sub(r"<(?:\w+:)?(\w+)>", lambda match: str(self.random.choice(self.keys[match[1]])), pattern)

    def value(self, name: str) -> object:
        chance = self.random.random()
        if name in ("q", "text") and chance < 0.6:
            return self.random.choice(SEARCHES)
        if name in ("do", "before") and chance < 0.8:
            return self.random.choice(ACTS)
        if name == "trait" and chance < 0.7:
            return self.random.choice(("remarks", "beds", "last-sale", "owner-name", "on-list", "class", "urgency", "parcel-number"))
        return self.random.choice(NASTY)

    def sent(self) -> dict[str, object]:
        sent = {name: self.value(name) for name in self.random.sample(NAMES, self.random.randint(1, 5))}
        if self.random.random() < 0.5:
            sent["q"] = self.random.choice(SEARCHES)
        if self.random.random() < 0.5:
            sent["do"] = self.random.choice(ACTS)
        return sent

    def send(self, path: str, sent: dict[str, object], *, is_post: bool) -> HttpResponse:
        """Send a request; what it changes is rolled back, and whoever it signs out is in again for the next."""
        self.client.cookies = copy(self.cookies)
        headers = {"HX-Request": "true", "HX-Current-URL": next(self.pages)} if self.random.random() < 0.5 else {}
        with transaction.atomic():
            response = (self.client.post if is_post else self.client.get)(path, sent, headers=headers)
            if response.streaming:
                b"".join(response.streaming_content)
            transaction.set_rollback(True)
        return response

    @tag(DEEP)
    def test_nothing_breaks(self) -> None:
        every, broken = patterns(), []
        for number in range(REQUESTS):
            path, sent = self.address(every[number % len(every)]), self.sent()
            is_post = self.random.random() < 0.5
            if is_post and self.random.random() < 0.2:
                sent["file"] = SimpleUploadedFile(next(self.names), self.random.choice(NASTY).encode(errors="replace"))
            began = time.monotonic()
            status = self.send(path, sent, is_post=is_post).status_code
            seconds = time.monotonic() - began
            # 503 says that it took too long and was stopped, which is for people to read and a fault here.
            if status >= 500 or seconds > SECONDS_EACH:
                told = {name: str(value)[:60] for name, value in sent.items()}
                broken.append((number, status, round(seconds, 1), is_post, path[:80], told))
        self.assertEqual(broken, [])


class PageThatIsNone(DemoTestCase):
    def test_an_address_that_can_not_be_read_is_none(self) -> None:
        client = Client()
        explained = reverse("properties:explained", args=[Parcel.objects.first().pk, "equity"])
        for address in ("http://[", "http://x:99999999/", "http%3A//%5B"):
            headers = {"HX-Request": "true", "HX-Current-URL": address}
            # Signed out, a part of a page leads to where one signs in; signed in, a figure is opened over no search.
            self.assertIn("HX-Redirect", Client().get(explained, headers=headers))
            client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
            self.assertEqual(client.get(explained, headers=headers).status_code, 200)


class Nul(DemoTestCase):
    def test_what_no_page_can_take_is_refused_wherever_it_stands(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        file = SimpleUploadedFile("a.csv", b"a")
        file._name = "a\x00.csv"
        for path, sent, is_post in (
            ("/", {"q": "beds: 3\x00"}, False), ("/", {"q\x00": "beds: 3"}, False), ("/property/1/explained/x%00y", {}, False),
            ("/outreach/from/a%00b/", {}, False), (reverse("lists:new"), {"name": "a\x00b", "type": "reason"}, True),
            (reverse("find:pasted"), {"pasted": "1\x002"}, True), (reverse("lists:activity"), {"page": "\x00"}, False),
        ):  # fmt: skip
            with self.subTest(path, sent=sent):
                send = self.client.post if is_post else self.client.get
                self.assertContains(send(path, sent), "NUL character", status_code=400)
                # Where a part of a page was asked for, its place gets the text alone.
                part = send(path, sent, headers={"HX-Request": "true"})
                self.assertEqual((part.status_code, part["Content-Type"]), (400, "text/plain; charset=utf-8"))
        self.assertEqual(self.client.get("/", {"q": "beds: 3"}).status_code, 200)


@override_settings(STATEMENT_SECONDS={"read": 0.2, "act": 0.4})
class Statements(DemoTestCase):
    """Pages that would take longer than anybody waits."""

    def answer(self, seconds: float, *, method: str = "GET", only_reads_: bool = False, is_part: bool = False) -> HttpResponse:
        def view(request: HttpRequest) -> HttpResponse:
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute("SELECT pg_sleep(%s)", [seconds])
            return HttpResponse("done")

        marked = only_reads(view) if only_reads_ else view
        request = RequestFactory().generic(method, "/", headers={"HX-Request": "true"} if is_part else {})
        request.user, request._messages = self.user, []

        def respond(request: HttpRequest) -> HttpResponse:
            middleware.process_view(request, marked, (), {})
            try:
                return marked(request)
            except OperationalError as error:
                said = middleware.process_exception(request, error)
                if said is None:
                    raise
                return said

        middleware = LimitTime(respond)
        return middleware(request)

    def left(self) -> str:
        with connection.cursor() as cursor:
            cursor.execute("SHOW statement_timeout")
            return str(cursor.fetchone()[0])

    def test_a_page_is_ended_and_says_what_to_narrow(self) -> None:
        answer = self.answer(0.3)
        self.assertContains(answer, "longer than 0.2 seconds and was stopped; nothing was changed. Choose fewer counties", status_code=503)
        self.assertEqual(self.left(), "0")
        self.assertTrue(self.answer(0.3, is_part=True).content.decode().startswith("This took longer"))

    @override_settings(REQUEST_SECONDS={"read": 0.3, "act": 9})
    def test_many_short_statements_end_as_one_long_one(self) -> None:
        taken = []

        def many(*_: object) -> None:
            for _ in range(60):
                with transaction.atomic(), connection.cursor() as cursor:
                    cursor.execute("SELECT pg_sleep(0.02)")
                    taken.append(1)

        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        with mock.patch("jaded_ledger.find.views.page_context", side_effect=many):
            self.assertContains(self.client.get("/"), "longer than 0.3 seconds and was stopped", status_code=503)
        self.assertLess(len(taken), 17)
        self.assertEqual(self.left(), "0")

    def test_an_act_may_take_longer_a_search_that_is_posted_may_not(self) -> None:
        self.assertContains(self.answer(0.3, method="POST"), "done")
        self.assertContains(self.answer(0.5, method="POST"), "for fewer rows at once", status_code=503)
        self.assertContains(self.answer(0.3, method="POST", only_reads_=True), "Choose fewer counties", status_code=503)
        self.assertTrue(all(getattr(resolve(reverse(f"find:{name}")).func, "only_reads", False) for name in ("change", "edit", "preview")))

    def test_what_failed_otherwise_is_not_said_to_be_slow(self) -> None:
        middleware = LimitTime(mock.Mock())
        self.assertIsNone(middleware.process_exception(RequestFactory().get("/"), OperationalError("the connection is closed")))
        self.assertIsNone(middleware.process_exception(RequestFactory().get("/"), ValueError("ours")))

    def test_the_whole_way(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

        def slow(*_: object) -> None:
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute("SELECT pg_sleep(1)")

        with mock.patch("jaded_ledger.find.views.page_context", side_effect=slow):
            self.assertContains(self.client.get("/"), "That takes too long", status_code=503)
        self.assertEqual(self.client.get("/").status_code, 200)
