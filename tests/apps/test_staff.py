"""The staff pages: who gets in, teams and users, invitations, the worker's jobs."""

from __future__ import annotations

import re
from html import unescape
from urllib.parse import unquote

from django.db import connection
from django.test import Client
from procrastinate.contrib.django.models import ProcrastinateJob

from jaded_ledger.accounts.invitations import invitation
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.intake.uploads import TAKE_IN
from jaded_ledger.records import jobs
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text

BACKEND = "django.contrib.auth.backends.ModelBackend"
PAGES = ("/staff/", "/staff/accounts/team/", "/staff/accounts/user/", "/staff/accounts/user/add/", "/staff/procrastinate/procrastinatejob/")
OSKAR = {"username": "oskar", "first_name": "Oskar", "last_name": "Fell", "email": "", "role": "reader", "is_active": "on"}


class StaffPages(DemoTestCase):
    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(self.user, backend=BACKEND)

    def test_strangers_are_led_to_the_sign_in_of_all(self) -> None:
        for path in PAGES:
            with self.subTest(path):
                led = Client().get(path, follow=True).redirect_chain[-1][0]
                self.assertEqual(unquote(led), f"/sign-in/?next={path}")

    def test_who_is_not_staff_is_told_so(self) -> None:
        User.objects.filter(pk=self.user.pk).update(is_staff=False)
        for path in PAGES:
            with self.subTest(path):
                self.assertEqual(self.client.get(path, follow=True).status_code, 403)

    def test_every_page_opens(self) -> None:
        self.assertContains(self.client.get("/you/"), 'href="/staff/"')
        for path in (*PAGES, f"/staff/accounts/user/{self.user.pk}/change/", f"/staff/accounts/team/{self.scope.team.pk}/change/"):
            with self.subTest(path):
                self.assertEqual(self.client.get(path).status_code, 200)
        self.assertEqual(self.client.get("/staff/auth/group/").status_code, 404)

    def test_a_team_and_its_first_user(self) -> None:
        wrong = self.client.post("/staff/accounts/team/add/", {"name": "Other Side", "time_zone": "Nowhere/Town"})
        self.assertContains(wrong, "Nowhere/Town is not a time zone")
        self.client.post("/staff/accounts/team/add/", {"name": "Other Side", "time_zone": "America/Denver"})
        team = Team.objects.get(name="Other Side")
        self.assertContains(self.client.post("/staff/accounts/user/add/", OSKAR), "This field is required")
        said = self.client.post("/staff/accounts/user/add/", {**OSKAR, "team": team.pk}, follow=True)
        link = re.search(r"http://testserver(/welcome/[^\s<]+)", unescape(said.content.decode()))[1]  # type: ignore[index]
        oskar = User.objects.get(username="oskar")
        self.assertEqual((oskar.team, oskar.role, oskar.is_staff, oskar.has_usable_password()), (team, "reader", False, False))

        # Who was invited chooses a password, and is signed in.
        theirs = Client()
        form = theirs.get(link, follow=True)
        self.assertIn("Welcome, Oskar", page_text(form.content.decode()))
        here = form.redirect_chain[-1][0]
        self.assertContains(theirs.post(here, {"new_password1": "12345", "new_password2": "12345"}), "too short")
        chosen = {"new_password1": "a harbor of its own", "new_password2": "a harbor of its own"}
        self.assertEqual(theirs.post(here, chosen, follow=True).status_code, 200)
        self.assertContains(theirs.get("/you/"), "Reader at Other Side")
        self.assertContains(Client().get(link, follow=True), "This link no longer works")
        self.assertTrue(Client().login(username="oskar", password="a harbor of its own", request=form.wsgi_request))

    def test_a_link_is_somebody_s_own(self) -> None:
        other = self.other_team()
        key, token = invitation(other).strip("/").split("/")[1:]
        mine = invitation(self.user).strip("/").split("/")[1]
        self.assertNotEqual(mine, key)
        self.assertContains(Client().get(f"/welcome/{mine}/{token}/", follow=True), "This link no longer works")

    def test_who_left_is_made_inactive_and_nothing_is_deleted(self) -> None:
        other = self.other_team()
        data = {"username": other.username, "team": other.team.pk, "role": "agent"}
        self.client.post(f"/staff/accounts/user/{other.pk}/change/", data)
        other.refresh_from_db()
        self.assertFalse(other.is_active)
        said = self.client.post("/staff/accounts/user/", {"action": "invite", "_selected_action": [other.pk]}, follow=True)
        self.assertContains(said, f"{other.username} is not active and was not invited.")
        said = self.client.post("/staff/accounts/user/", {"action": "invite", "_selected_action": [self.user.pk]}, follow=True)
        self.assertContains(said, "Send nora this link")
        for path in (f"/staff/accounts/user/{other.pk}/delete/", f"/staff/accounts/team/{other.team.pk}/delete/"):
            self.assertEqual(self.client.post(path, {"post": "yes"}).status_code, 403)

    def test_nobody_shuts_themselves_out(self) -> None:
        change = f"/staff/accounts/user/{self.user.pk}/change/"
        data = {"username": "nora", "team": self.scope.team.pk, "role": "owner"}
        for kept in ({}, {"is_staff": "on"}, {"is_active": "on"}):
            self.assertContains(self.client.post(change, data | kept), "You can’t shut yourself out")
        self.assertEqual(self.client.post(change, data | {"is_staff": "on", "is_active": "on", "first_name": "Eleonora"}).status_code, 302)
        self.user.refresh_from_db()
        self.assertEqual((self.user.first_name, self.user.is_staff), ("Eleonora", True))

    def test_the_worker_s_jobs(self) -> None:
        jobs.defer(TAKE_IN, upload_id=9)
        job = ProcrastinateJob.objects.get(args={"upload_id": 9})
        with connection.cursor() as cursor:
            cursor.execute("UPDATE procrastinate_jobs SET status = 'failed' WHERE id = %s", [job.pk])
        listed = self.client.get("/staff/procrastinate/procrastinatejob/?status__exact=failed")
        self.assertContains(listed, TAKE_IN)
        self.assertContains(listed, "upload_id")
        self.assertContains(self.client.get(f"/staff/procrastinate/procrastinatejob/{job.pk}/change/"), "deferred")
        self.assertEqual(self.client.get("/staff/procrastinate/procrastinatejob/add/").status_code, 403)
        self.assertEqual(self.client.post(f"/staff/procrastinate/procrastinatejob/{job.pk}/change/", {"status": "todo"}).status_code, 403)
