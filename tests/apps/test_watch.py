"""The morning, and the calendar that a calendar program reads."""

from __future__ import annotations

from datetime import date, timedelta

from django.core.signing import Signer
from django.urls import reverse
from icalendar import Calendar

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.listings_ahead import listings_ahead
from jaded_ledger.lists.models import Membership
from jaded_ledger.plugins.entries import Due
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Listing, ParcelFacts
from jaded_ledger.watch import feeds
from jaded_ledger.watch.calendar_file import calendar_file
from jaded_ledger.watch.models import CalendarFeed
from tests.support.clock import machine_at
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours

HOSTILE = ("a,b;c\\d", "BEGIN:VEVENT\r\nSUMMARY:x", "é" * 200, "<script>alert(1)</script>", "שלום", "=cmd|x")


@at_all_hours
class MorningCase(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.scope = Scope(self.user.team, self.user, self.scope.today)
        # The demo's lists have dates of their own.
        Membership.objects.all().delete()

    def page(self) -> str:
        return page_text(self.client.get(reverse("watch:morning")).content)


class Morning(MorningCase):
    def test_what_is_due_within_fourteen_days(self) -> None:
        soon = ParcelFacts.objects.filter(auction__isnull=False).order_by("auction").last()
        which = lists.make_list(self.scope, "To watch")
        lists.add(self.scope, which, [soon.pk])
        for days, is_there in ((14, True), (15, False), (0, True), (-1, False)):
            ParcelFacts.objects.filter(pk=soon.pk).update(auction=self.scope.today + timedelta(days))
            with self.subTest(days):
                self.assertEqual("auction of" in self.page(), is_there)

    def test_listings_that_run_out(self) -> None:
        listing = Listing.objects.filter(superseded_at=None, standard_status="Active", parcel__isnull=False).first()
        Listing.objects.filter(parcel=listing.parcel_id).exclude(pk=listing.pk).update(expiration_date=None)
        which = lists.make_list(self.scope, "Mine")
        until = self.scope.today + timedelta(14)

        def told() -> list[Due]:
            return list(listings_ahead(self.scope, until))

        for day, is_there in (
            (until, True),
            (until + timedelta(1), False),
            (self.scope.today, True),
            (self.scope.today - timedelta(1), False),
        ):
            Listing.objects.filter(pk=listing.pk).update(expiration_date=day)
            lists.add(self.scope, which, [listing.parcel_id])
            with self.subTest(day):
                self.assertEqual([(one.on, one.parcel_id) for one in told()], [(day, listing.parcel_id)] if is_there else [])
        Listing.objects.filter(pk=listing.pk).update(expiration_date=until)
        self.assertIn("runs out, on “Mine”", told()[0].what)
        for status in ("Expired", "Closed", "Withdrawn", "Delete"):
            Listing.objects.filter(pk=listing.pk).update(standard_status=status, close_date=self.scope.today)
            self.assertEqual(told(), [], status)


class CalendarFile(MorningCase):
    """As RFC 5545 has it, and as the ``icalendar`` package reads it."""

    def test_hostile_words_and_long_ones(self) -> None:
        entries = [Due(date(2026, 12, 1 + place), "auction", words, place) for place, words in enumerate(HOSTILE)]
        content = calendar_file(entries, "Ours, “all”; of it", now(), "ledger.example", lambda pk: f"https://ledger.example/property/{pk}/")
        # Lines end with CRLF, and have no more than 75 octets: 3.1.
        self.assertTrue(all(len(line) <= 75 for line in content.split(b"\r\n")))
        self.assertNotIn(b"\n", content.replace(b"\r\n", b""))
        read = Calendar.from_ical(content)
        self.assertEqual((str(read["VERSION"]), str(read["NAME"])), ("2.0", "Ours, “all”; of it"))
        events = read.walk("VEVENT")
        self.assertEqual([str(one["SUMMARY"]) for one in events], [" ".join(words.split()) for words in HOSTILE])
        for place, event in enumerate(events):
            # A day's event ends on the day after: 3.6.1.
            self.assertEqual((event["DTSTART"].dt, event["DTEND"].dt), (date(2026, 12, 1 + place), date(2026, 12, 2 + place)))
            self.assertEqual(event["DTSTART"].params["VALUE"], "DATE")
            self.assertEqual(str(event["URL"]), f"https://ledger.example/property/{place}/")
        self.assertEqual(len({str(one["UID"]) for one in events}), len(events))
        again = calendar_file(entries, "x", now() + timedelta(9), "ledger.example", lambda pk: "")
        self.assertEqual([str(one["UID"]) for one in Calendar.from_ical(again).walk("VEVENT")], [str(one["UID"]) for one in events])
        self.assertEqual(Calendar.from_ical(calendar_file([], "x", now(), "h", lambda pk: "")).walk("VEVENT"), [])


class Feed(MorningCase):
    def address(self) -> str:
        self.client.post(reverse("watch:renew-calendar"), {"do": "renew"})
        return reverse("watch:calendar", args=[feeds.key_of(feeds.feed_of(self.user))])

    def test_read_without_signing_in_until_it_is_renewed_or_ended(self) -> None:
        facts = ParcelFacts.objects.filter(auction__isnull=False).first()
        ParcelFacts.objects.filter(pk=facts.pk).update(auction=self.scope.today + timedelta(3))
        lists.add(self.scope, lists.make_list(self.scope, "Watched"), [facts.pk])
        first = self.address()
        stranger = self.client_class()
        answer = stranger.get(first)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "text/calendar; charset=utf-8"))
        (event,) = Calendar.from_ical(answer.content).walk("VEVENT")
        self.assertEqual(event["DTSTART"].dt, self.scope.today + timedelta(3))
        # What it is about is left to those who sign in, unless its user has it shown.
        self.assertEqual((str(event["SUMMARY"]), answer["Cache-Control"]), ("Auction", "private, no-store"))
        for text in (facts.street_line, "Watched"):
            self.assertNotIn(text, answer.content.decode())
        self.client.post(reverse("watch:renew-calendar"), {"do": "show", "shows": "all"})
        (event,) = Calendar.from_ical(stranger.get(first).content).walk("VEVENT")
        self.assertEqual(str(event["SUMMARY"]), f"auction of {facts.street_line}, on “Watched”")
        self.client.post(reverse("watch:renew-calendar"), {"do": "show", "shows": "x"})
        self.assertEqual(CalendarFeed.objects.get().shows, "all")
        self.assertIn(f"/property/{facts.pk}/", str(event["URL"]))
        self.assertIn("last read", self.page())
        second = self.address()
        self.assertNotEqual(first, second)
        self.assertEqual([stranger.get(one).status_code for one in (first, second)], [404, 200])
        self.client.post(reverse("watch:renew-calendar"), {"do": "end"})
        self.assertEqual(stranger.get(second).status_code, 404)
        self.assertIn("Make an address", self.page())
        third = self.address()
        self.assertEqual([stranger.get(one).status_code for one in (first, second, third)], [404, 404, 200])

    def test_it_ends_when_nothing_reads_it(self) -> None:
        address, stranger, at_once = self.address(), self.client_class(), now()
        for name in ("made_at", "read_at"):
            with self.subTest(name), machine_at(at_once, goes_on=False):
                CalendarFeed.objects.update(**{"made_at": at_once - timedelta(days=99), "read_at": None, name: at_once - feeds.UNUSED})
                self.assertEqual(stranger.get(address).status_code, 200)
                CalendarFeed.objects.update(**{"read_at": None, name: at_once - feeds.UNUSED - timedelta(seconds=1)})
                self.assertEqual(stranger.get(address).status_code, 404)
                self.assertIn("no program had read it for 60 days", self.page())
                address = self.address()

    def test_made_up_addresses_and_users_who_are_gone(self) -> None:
        address = self.address()
        stranger, feed = self.client_class(), CalendarFeed.objects.get()
        key = feeds.key_of(feed)
        other = Signer(salt="another").sign(f"{feed.user_id}.{feed.serial}").replace(":", "-")
        for wrong in (
            key[:-1],
            key + "A",
            key.replace(str(feed.user_id), str(feed.user_id + 1), 1),
            other,
            "x",
            "--",
            f"{feed.user_id}.{feed.serial}",
        ):
            with self.subTest(wrong):
                self.assertEqual(stranger.get(reverse("watch:calendar", args=[wrong])).status_code, 404)
        self.assertEqual(stranger.post(address).status_code, 405)
        User.objects.filter(pk=self.user.pk).update(is_active=False)
        self.assertEqual(stranger.get(address).status_code, 404)
        User.objects.filter(pk=self.user.pk).update(is_active=True, team=None)
        self.assertEqual(stranger.get(address).status_code, 404)

    def test_another_teams_dates_are_not_in_it(self) -> None:
        facts = ParcelFacts.objects.filter(auction__isnull=False).first()
        ParcelFacts.objects.filter(pk=facts.pk).update(auction=self.scope.today + timedelta(3))
        other = Scope(Team.objects.create(name="Other"), None, self.scope.today)
        lists.add(other, lists.make_list(other, "Theirs"), [facts.pk])
        self.assertEqual(Calendar.from_ical(self.client_class().get(self.address()).content).walk("VEVENT"), [])
