"""Who may come in, and what leaves with them."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path

from django.core.checks import run_checks
from django.core.management import call_command
from django.db.models import Q
from django.test import Client, override_settings
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.models import LongSearch, Selection
from jaded_ledger.find.search_page import SearchPage, search_page_of
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings.mailings import begin, plan_of
from jaded_ledger.mailings.models import Mailing
from jaded_ledger.records.models import ParcelFacts
from tests.support.addresses import addresses
from tests.support.demo import DemoTestCase

BY_THEIR_KEY = (
    reverse("watch:calendar", args=["x"]), reverse("watch:unsubscribe", args=["x"]), reverse("clients:page", args=["x"]),
    reverse("clients:answer", args=["x"]), reverse("clients:photograph", args=["x", 1]), reverse("clients:stop", args=["x"]),
)  # fmt: skip
"""What is opened without signing in."""


class Strangers(DemoTestCase):
    def test_every_address_asks_for_a_sign_in(self) -> None:
        walked = addresses()
        self.assertGreater(len(walked), 10)
        for path in walked:
            # The pages by which one comes in.
            if path in (reverse("accounts:sign-in"), reverse("accounts:welcome", args=["x", "x"])):
                continue
            if path in (reverse("accounts:sign-in-elsewhere"), reverse("accounts:come-back")):
                # Not set up here.
                self.assertEqual(self.client.get(path).status_code, 404)
                continue
            if path in BY_THEIR_KEY:
                # The address itself is the key, and this is none.
                self.assertEqual({self.client.get(path).status_code, self.client.post(path).status_code} - {405}, {404}, path)
                continue
            for method in (self.client.get, self.client.post):
                response = method(path)
                self.assertEqual(response.status_code, 302, path)
                self.assertRegex(response.url, f"^{reverse('accounts:sign-in')}|^{reverse('admin:login')}", path)

    def test_shut_out_after_five_wrong_passwords(self) -> None:
        sign_in = reverse("accounts:sign-in")
        for _ in range(5):
            response = self.client.post(sign_in, {"username": "nora", "password": "wrong"})
        self.assertEqual(response.status_code, 429)
        response = self.client.post(sign_in, {"username": "nora", "password": "lantern-street"})
        self.assertEqual(response.status_code, 429)
        self.assertContains(response, "fifteen minutes", status_code=429)
        # Somebody else's mistakes don't shut out the owner of the name.
        elsewhere = Client(REMOTE_ADDR="10.1.1.1")
        self.assertEqual(elsewhere.post(sign_in, {"username": "nora", "password": "lantern-street"}).status_code, 302)

    def test_headers(self) -> None:
        response = self.client.get(reverse("accounts:sign-in"))
        policy = response["Content-Security-Policy"]
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual((response["X-Frame-Options"], response["X-Content-Type-Options"]), ("DENY", "nosniff"))

    def test_templates_have_nothing_inline(self) -> None:
        root = Path(__file__).resolve().parents[2] / "jaded_ledger"
        for file in root.rglob("*.html"):
            self.assertNotRegex(file.read_text(), r"style=\"|\son\w+=\"|<script>|<style(?! nonce=)", file.name)

    @override_settings(
        DEBUG=False, SECURE_SSL_REDIRECT=True, SESSION_COOKIE_SECURE=True, CSRF_COOKIE_SECURE=True,
        SECURE_HSTS_SECONDS=31_536_000, SECURE_HSTS_INCLUDE_SUBDOMAINS=True, SECURE_HSTS_PRELOAD=True,
    )  # fmt: skip
    def test_the_deployment_check_is_clean(self) -> None:
        self.assertEqual([str(message) for message in run_checks(include_deployment_checks=True) if not message.is_silenced()], [])


class Teams(DemoTestCase):
    def kept(self) -> Selection:
        scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        return keep(scope, SearchPage(parse("class: triplex")), [], is_all=True)

    def test_a_team_does_not_see_anothers_selection_or_long_search(self) -> None:
        selection = self.kept()
        LongSearch.objects.create(team=self.scope.team, key="abc", text="beds: 3..")
        self.client.force_login(self.other_team(), backend="django.contrib.auth.backends.ModelBackend")
        for name in ("mailings:begin", "contacts:contacts"):
            self.assertEqual(self.client.get(reverse(name, args=[selection.key])).status_code, 404)
        self.assertEqual(self.client.post(reverse("contacts:contacts", args=[selection.key])).status_code, 404)
        self.assertEqual(self.client.get("/?s=abc").status_code, 404)
        ContactExport.objects.create(team=self.scope.team, user=self.user, made_at=selection.made_at, form="csv", search="secret", count=1)
        self.assertNotContains(self.client.get(reverse("contacts:sent")), "secret")

    def test_a_reader_takes_nothing_out(self) -> None:
        selection = self.kept()
        User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        labels, contacts = (reverse(name, args=[selection.key]) for name in ("mailings:begin", "contacts:contacts"))
        begun = begin(self.scope, selection)
        self.assertEqual(self.client.get(labels).status_code, 403)
        self.assertNotContains(self.client.get(reverse("mailings:mailing", args=[begun.pk])), 'id="make"')
        self.assertEqual(self.client.post(reverse("mailings:make-mailing", args=[begun.pk])).status_code, 403)
        self.assertEqual(self.client.post(contacts, {"columns": ["owner-name"]}).status_code, 403)
        self.assertFalse(ContactExport.objects.exists())

    def test_a_user_without_a_team_is_told(self) -> None:
        stray = User.objects.create_user("stray", password="x")
        self.client.force_login(stray, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get("/"), "not in a team yet", status_code=403)

    def test_the_file_is_streamed_guarded_and_logged(self) -> None:
        selection = self.kept()
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        response = self.client.post(
            reverse("contacts:contacts", args=[selection.key]), {"columns": ["parcel-number", "owner-name"], "bom": "on"}
        )
        self.assertTrue(response.streaming)
        text = b"".join(response.streaming_content).decode()
        self.assertTrue(text.startswith("\ufeffparcel number,owner\r\n"))
        log = ContactExport.objects.get()
        self.assertEqual((log.user, log.count, log.search), (self.user, text.count("\r\n") - 1, "class: triplex"))
        self.assertEqual(self.client.post(reverse("contacts:contacts", args=[selection.key]), {}).status_code, 400)

    def test_an_owner_who_asked_not_to_be_contacted_is_in_no_file(self) -> None:
        found = compile(parse("class: triplex"), self.scope).matches
        asked, others = found.filter(do_not_contact=True), found.filter(Q(do_not_contact=False) | Q(do_not_contact=None))
        self.assertGreater(asked.count(), 0)
        # Unknown is no yes.
        ParcelFacts.objects.filter(pk=others.first().pk).update(do_not_contact=None)
        address = reverse("contacts:contacts", args=[self.kept().key])
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(address)
        self.assertContains(page, f"− {asked.count()}")
        self.assertContains(page, Reason.DO_NOT_MAIL.words)
        response = self.client.post(address, {"columns": ["parcel-number"]})
        written = b"".join(response.streaming_content).decode().split("\r\n")[1:-1]
        self.assertEqual(sorted(written), sorted(others.values_list("parcel__number", flat=True)))
        log = ContactExport.objects.get()
        self.assertEqual((log.count, log.details["refused"]), (others.count(), {"do-not-mail": asked.count()}))
        self.assertFalse({*log.parcel_ids} & {*asked.values_list("pk", flat=True)})
        # From the command line no less, and on labels, whomever they are addressed to.
        with tempfile.NamedTemporaryFile("r") as file:
            told = io.StringIO()
            call_command("find", "class: triplex", csv=file.name, columns="parcel-number", stderr=told)
            self.assertEqual(sorted(file.read().split()[1:]), sorted(written))
            self.assertIn(f"{asked.count()} left out: {Reason.DO_NOT_MAIL.words}", told.getvalue())
        for to in Addressing:
            run = plan_of(Mailing(to=to, relaxed=[str(one) for one in Reason]), found, {}, self.scope)
            self.assertFalse({piece.parcel_id for piece in run.made.pieces} & {*asked.values_list("pk", flat=True)})
            self.assertEqual(run.made.reasons[Reason.DO_NOT_MAIL] + run.made.reasons[Reason.NO_ADDRESS] >= asked.count(), True)
        # Where all of them asked, there is no file.
        none = keep(self.scope, SearchPage(parse("do-not-contact: yes")), [], is_all=True)
        address = reverse("contacts:contacts", args=[none.key])
        self.assertNotContains(self.client.get(address), "Download</button>")
        self.assertContains(self.client.post(address, {"columns": ["parcel-number"]}, follow=True), "Nothing was written")
        self.assertEqual(ContactExport.objects.count(), 2)

    def test_places_of_find_have_one_address(self) -> None:
        from django.http import QueryDict

        search_page = SearchPage(parse("beds: 3..\nclass: duplex"), ("beds",), "-beds", 2)
        address = search_page.address(self.scope.team)
        self.assertEqual(search_page_of(QueryDict(address.partition("?")[2]), self.scope.team), search_page)
