"""The database is gone for a moment: every page says so and asks to try again, and the next request connects anew."""

from __future__ import annotations

from unittest import mock

from django.db import OperationalError, close_old_connections, connection
from django.test import Client
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.web.errors import RETRY_AFTER, is_database_gone
from jaded_ledger.web.middleware import RequestTooLongError
from tests.support.demo import DemoServerCase, switched_to

LOST = "SELECT pg_terminate_backend(pg_backend_pid())"


class Gone(DemoServerCase):
    def setUp(self) -> None:
        self.client = Client(raise_request_exception=False)
        self.client.force_login(User.objects.get(username="nora"), backend="django.contrib.auth.backends.ModelBackend")

    def lose(self, *_: object, **__: object) -> None:
        with connection.cursor() as cursor:
            cursor.execute(LOST)

    def test_lost_while_a_page_is_made(self) -> None:
        for name in ("jaded_ledger.find.views.page_context", "django.contrib.sessions.backends.base.SessionBase.get"):
            for headers in ({}, {"HX-Request": "true"}):
                with self.subTest(name, headers=headers):
                    with mock.patch(name, side_effect=self.lose):
                        answer = self.client.get("/", headers=headers)
                    self.assertContains(answer, "The database can’t be reached just now", status_code=503)
                    self.assertEqual(answer["Retry-After"], RETRY_AFTER)
                    self.assertEqual("<html" in answer.content.decode(), not headers)
                    # The server does the same after each request.
                    close_old_connections()
                    self.assertEqual(self.client.get("/").status_code, 200)

    def test_not_there_at_all(self) -> None:
        with switched_to("nowhere"):
            for path in ("/", reverse("watch:calendar", args=["x"]), reverse("accounts:sign-in")):
                self.assertContains(self.client.get(path), "Try again in a moment", status_code=503)
        self.assertEqual(self.client.get("/").status_code, 200)

    def test_what_broke_otherwise_is_our_fault(self) -> None:
        with mock.patch("jaded_ledger.find.views.page_context", side_effect=ZeroDivisionError):
            self.assertContains(self.client.get("/"), "Something broke on our side", status_code=500)
        try:
            with connection.cursor() as cursor:
                cursor.execute("SET statement_timeout = 1; SELECT pg_sleep(1)")
        except OperationalError as error:
            self.assertFalse(is_database_gone(error))
        self.assertFalse(is_database_gone(RequestTooLongError()))
        self.assertFalse(is_database_gone(None))
