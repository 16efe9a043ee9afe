"""A database of the version before this one, with its data, brought to this one as ``bin/manage`` does it."""

from __future__ import annotations

import json
import re

from django.core.management import call_command
from django.db import connection
from django.test import Client, SimpleTestCase, TransactionTestCase
from django.urls import reverse

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import format
from jaded_ledger.find.answer import Answer
from jaded_ledger.mailings.models import MailPiece
from jaded_ledger.records.backup import restore
from jaded_ledger.records.clock import today
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import current_version, page_of
from tests.support.demo import empty_database, switched_to
from tests.support.tiers import thorough
from tests.version_before import BACKUP, HOLDS, NAMES, SEARCHES, names, rows

PAGES = ("/", "/lists/", "/searches/", "/deals/", "/outreach/", "/morning/", "/clients/", "/records/", "/you/audit/")


def kinds() -> dict[int, tuple[str, str]]:
    """Return by its id the app and model of each kind of row that Django has noted."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT id, app_label, model FROM django_content_type")
        return {pk: (app, model) for pk, app, model in cursor.fetchall()}


UNDO_BEFORE = re.compile(r"/(put-back|undelete)$")
"""Addresses that undid a deletion, each app its own: no bookmark holds one, and what a message offered is gone with its session."""


class Names(SimpleTestCase):
    def test_what_bookmarks_queues_and_rows_name_is_there(self) -> None:
        now = names()
        for kind, before in json.loads(NAMES.read_text()).items():
            with self.subTest(kind):
                self.assertGreater(len(before), 3)
                self.assertLessEqual({name for name in before if not UNDO_BEFORE.search(name)}, set(now[kind]))


@thorough
class Upgrade(TransactionTestCase):
    def test_nothing_is_lost_and_all_pages_open(self) -> None:
        held = json.loads(HOLDS.read_text())
        self.assertGreater(held["records_parcel"], 500)
        with empty_database() as name, switched_to(name):
            restore(BACKUP, may_replace=False)
            kinds_before = kinds()
            call_command("migrate", verbosity=0)
            # A permission hangs on the kind of row that it is for.
            self.assertEqual({pk: model for pk, (_, model) in kinds_before.items()}, {pk: kinds()[pk][1] for pk in kinds_before})
            self.assertFalse({app for app, _ in kinds().values()} & {"deals", "outreach"})
            call_command("createcachetable", verbosity=0)
            now = rows()
            lost = {table: count for table, count in held.items() if now.get(table, 0) < count and table != "django_migrations"}
            self.assertEqual(lost, {})
            nora = User.objects.get(username="nora")
            mine = Scope(nora.team, nora, today())
            for name, text in SEARCHES.items():
                page = page_of(current_version(SavedSearch.objects.get(name=name)), mine)
                self.assertEqual(format(page.search), text)
                self.assertGreater(Answer(page, mine).balance.matches, 0, name)
            browser = Client()
            browser.force_login(nora, backend="django.contrib.auth.backends.ModelBackend")
            mailing = MailPiece.objects.first().mailing
            for path in (*PAGES, reverse("mailings:mailing", args=[mailing.pk])):
                with self.subTest(path):
                    self.assertEqual(browser.get(path, follow=True).status_code, 200)
            # What the version before derived holds, or is derived anew: either way the facts can be rebuilt.
            call_command("derive", "--all", verbosity=0)
            self.assertEqual(rows()["records_parcelfacts"], held["records_parcelfacts"])

    def _fixture_teardown(self) -> None:
        """Leave the tests' own database: nothing was written to it."""
