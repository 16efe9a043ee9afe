"""The worker's rounds: one item that fails is shown to staff, and keeps nobody else waiting."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from unittest import mock

from django.db import OperationalError, connection
from django.urls import reverse

from jaded_ledger.accounts import outbox
from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients import mails
from jaded_ledger.clients.clients import give_search, keep_client
from jaded_ledger.clients.models import ClientSearch
from jaded_ledger.comps.tasks import read_sales
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.mailings import mail_orders
from jaded_ledger.records.models import County, RoundFault
from jaded_ledger.records.rounds import KEPT_FOR, go_round
from jaded_ledger.searches import matching
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import save
from jaded_ledger.watch import digests, telling
from jaded_ledger.watch.watching import watch
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text

TOLD = {
    "rhythm": "morning", "days": [], "subject": "New", "message": "", "is_reviewed": True, "copy_to_agent": False, "past_too": True,
    "edit_note": "",
}  # fmt: skip


class Round(DemoTestCase):
    def go(self, *failing: str, error: Exception | None = None) -> list[str]:
        """Go round the counties, of which some fail; return for which it succeeded."""

        def act(county: County) -> str:
            County.objects.filter(pk=county.pk).update(parcel_number_mask="seen")
            if county.name in failing:
                raise error or ZeroDivisionError("none left")
            return county.name

        with self.assertLogs("jaded_ledger.records.rounds", "ERROR") if failing and not error else self.assertNoLogs():
            return go_round("counties", County.objects.order_by("name"), act)

    def test_what_fails_is_kept_until_it_succeeds(self) -> None:
        every = list(County.objects.order_by("name").values_list("name", flat=True))
        self.assertEqual(self.go(every[1]), [every[0], *every[2:]])
        # What it wrote is undone with it, and with it alone.
        self.assertEqual(set(County.objects.exclude(parcel_number_mask="seen").values_list("name", flat=True)), {every[1]})
        self.go(every[0], every[1])
        self.assertEqual(dict(RoundFault.objects.values_list("about", "times")), {every[0]: 1, every[1]: 2})
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        for is_staff in (True, False):
            User.objects.filter(pk=self.user.pk).update(is_staff=is_staff)
            said = page_text(self.client.get(reverse("intake:records")).content)
            self.assertEqual("failed for 2 items" in said and "ZeroDivisionError: none left" in said, is_staff)
        self.assertEqual(self.go(), every)
        self.assertFalse(RoundFault.objects.exists())

    def test_a_fault_not_met_again_is_forgotten(self) -> None:
        self.go("Tamarack")
        for age, count in ((KEPT_FOR - timedelta(minutes=1), 1), (KEPT_FOR + timedelta(minutes=1), 0)):
            self.go("Tamarack")
            RoundFault.objects.update(item="records.county 0", last_at=telling.now() - age)
            self.go()
            self.assertEqual(RoundFault.objects.count(), count)
            RoundFault.objects.all().delete()

    def test_where_the_database_is_gone_it_is_broken_off(self) -> None:
        gone = OperationalError("server closed the connection unexpectedly")
        with mock.patch("jaded_ledger.records.rounds.is_database_gone", lambda error: error is gone), self.assertRaises(OperationalError):
            self.go("Pike Hollow", error=gone)
        self.assertFalse(RoundFault.objects.exists())


class EveryRound(DemoTestCase):
    """Each round with one item in it that always fails, between others."""

    def setUp(self) -> None:
        self.scope = Scope(self.user.team, self.user, self.scope.today)
        User.objects.filter(pk=self.user.pk).update(email="nora@example.com")
        self.user.refresh_from_db()
        self.scope = Scope(self.user.team, self.user, self.scope.today)
        names = ("Before", "Failing", "Behind")
        self.saved = {name: save(self.scope, SearchPage(parse("class: triplex")), name, shared=True) for name in names}

    def failing_for(self, name: str, act: Any) -> Any:
        """Return what does as ``act`` does, but fails in the database for the search of a name."""

        def done(one: Any, *more: Any) -> Any:
            if name in str(getattr(one, "search", one)):
                with connection.cursor() as cursor:
                    cursor.execute("SELECT 1 / 0")
            return act(one, *more)

        return done

    def test_watched_searches(self) -> None:
        for one in self.saved.values():
            watch(self.scope, one, "morning", by_mail=True)
        with mock.patch.object(telling, "reckon_if_askable", self.failing_for("Failing", telling.reckon_if_askable)):
            round = telling.run_due(every=True)
        self.assertEqual((round.asked, round.watches, round.failed), (3, 2, ("Failing",)))
        other = User.objects.create_user("oskar", team=self.scope.team, email="o@example.com", role=User.Role.AGENT)
        watch(Scope(other.team, other, self.scope.today), self.saved["Before"], "morning", by_mail=True)

        def write(user: User) -> object:
            if user == self.user:
                raise KeyError("a mail that can't be written")
            return digests.write_digest(user)

        with mock.patch.object(telling, "write_digest", side_effect=write) as written:
            telling.run_due(every=True)
        self.assertEqual(written.call_count, 2)
        self.assertEqual(RoundFault.objects.get(round="mails of watched searches").times, 1)

    def test_matches_of_saved_searches(self) -> None:
        SavedSearch.objects.update(reckoned="")
        reckon = self.failing_for("Failing", matching.reckon)
        with mock.patch.object(matching, "reckon", reckon):
            matching.reckon_all()
        self.assertEqual(list(SavedSearch.objects.filter(reckoned="").values_list("name", flat=True)), ["Failing"])

    def test_clients(self) -> None:
        for name, saved in self.saved.items():
            client = keep_client(self.scope, {"name": name, "email": f"{name}@example.com"})
            give_search(self.scope, client, saved, TOLD)
        ClientSearch.objects.update(asked_to=telling.now() - timedelta(days=3))
        with mock.patch.object(mails, "reckon_if_askable", self.failing_for("Failing", mails.reckon_if_askable)):
            self.assertEqual((found := mails.run_due()).asked, 3)
        self.assertEqual(found.written, 2)

    def test_sales_of_counties(self) -> None:
        seen = []

        def read(county: County, *_: object) -> None:
            seen.append(county.name)
            if county.name == "Pike Hollow":
                raise ZeroDivisionError

        with mock.patch("jaded_ledger.comps.tasks.county_sales", read):
            read_sales(timestamp=0)
        self.assertEqual(len(seen), County.objects.count())
        self.assertEqual(RoundFault.objects.get().round, "sales of counties")

    def test_every_round_goes_this_way(self) -> None:
        """A loop over rows in what the worker does by the clock would be another."""
        for done in (telling.run_due, matching.reckon_all, mails.run_due, outbox.send_waiting, mail_orders.catch_up_all):
            self.assertIn("go_round", done.__code__.co_names)
