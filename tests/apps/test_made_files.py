"""Files that users ask for: small ones at once, large ones by the worker, each once, whatever befalls it."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import timedelta
from itertools import chain
from unittest import mock

from django.db import OperationalError, connection
from django.test import Client
from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob
from pypdf import PdfReader

from jaded_ledger.accounts.models import User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.made_files import services
from jaded_ledger.made_files.kinds import FileKind, Making, MakingError
from jaded_ledger.made_files.models import MadeFile, MadeFilePart
from jaded_ledger.made_files.services import ask, content_of, run, under_way
from jaded_ledger.made_files.tasks import KEPT_FOR, forget
from jaded_ledger.mailings.mailings import begin
from jaded_ledger.mailings.models import MailPiece
from jaded_ledger.plugins import hooks
from jaded_ledger.records.clock import now
from jaded_ledger.records.jobs import queue_again
from tests.support.demo import DemoTestCase
from tests.support.tiers import at_all_hours

KINDS = {kind.key: kind for kind in chain.from_iterable(hooks.file_kinds())}


def pages(pdf: bytes) -> list[str]:
    return [page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages]


def anybody(scope: Scope, rows: int) -> None:
    """Let somebody have any file."""


TEN = FileKind("ten", lambda scope, arguments, report: Making(iter([b"x" * arguments["size"]] * 10)), anybody, at_once=10)


@at_all_hours
class Made(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        self.scope = Scope(self.user.team, self.user, self.scope.today)
        self.selection = keep(self.scope, SearchPage(parse("class: duplex, triplex")), [], is_all=True)

    def asked(self, rows: int, kind: FileKind = TEN, size: int = 3) -> MadeFile:
        with mock.patch.object(services, "kind_called", lambda key: kind):
            return ask(self.scope, kind.key, {"size": size}, name="ten.txt", content_type="text/plain", rows=rows)

    def made(self, file: MadeFile, kind: FileKind = TEN) -> MadeFile:
        with mock.patch.object(services, "kind_called", lambda key: kind):
            run(file.pk)
        file.refresh_from_db()
        return file

    def test_as_many_rows_as_are_made_at_once_and_one_more(self) -> None:
        small, large = self.asked(10), self.asked(11)
        self.assertEqual((small.state, large.state), ("ready", "waiting"))
        self.assertEqual(b"".join(content_of(small)), b"x" * 30)
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=services.MAKE, args__file_id=large.pk).count(), 1)
        self.assertEqual(self.made(large).state, "ready")
        self.assertEqual((b"".join(content_of(large)), large.size), (b"x" * 30, 30))

    def test_what_is_made_at_once_is_never_seen_waiting(self) -> None:
        """The worker looks out for files that wait without a job; one that a page is making is none of them."""
        seen = []

        def parts():
            # As another connection would: nothing of it is there before it is ready.
            seen.append(connection.in_atomic_block and len(connection.savepoint_ids))
            yield b"x"

        self.asked(1, FileKind("k", lambda *_: Making(parts()), anybody, at_once=1))
        self.assertEqual(seen, [len(connection.savepoint_ids) + 1])
        with self.assertRaises(ZeroDivisionError):
            self.asked(1, FileKind("k", lambda *_: Making(self.broken()), anybody, at_once=1))
        self.assertEqual(MadeFile.objects.count(), 1)

    def test_in_parts_of_a_size(self) -> None:
        file = self.asked(1, size=400_000)
        self.assertEqual([len(part) for part in content_of(file)], [1 << 20] * 3 + [4_000_000 - 3 * (1 << 20)])

    def test_from_the_page_to_the_file(self) -> None:
        """A large mailing: its page, how far it is, its bytes; made and noted once, when its file is."""
        begun = begin(self.scope, self.selection)
        make = reverse("mailings:make-mailing", args=[begun.pk])
        with mock.patch("jaded_ledger.made_files.services.kind_called", lambda key: replace(KINDS[key], at_once=0)):
            response = self.client.post(make, follow=True)
            file = MadeFile.objects.first()
            self.assertRedirects(response, reverse("made_files:file", args=[file.pk]))
            self.assertContains(response, "Waiting its turn")
            self.assertEqual(self.client.get(reverse("made_files:download", args=[file.pk])).status_code, 302)
            self.assertFalse(ContactExport.objects.exists() or MailPiece.objects.exists())
            run(file.pk)
            run(file.pk)
        self.assertEqual(ContactExport.objects.count(), 1)
        self.assertContains(self.client.get(reverse("made_files:progress", args=[file.pk])), "Ready since")
        self.assertContains(self.client.get(reverse("made_files:files")), f"{MailPiece.objects.count():,} labels")
        got = self.client.get(reverse("made_files:download", args=[file.pk]))
        content = got.getvalue()
        self.assertTrue(content.startswith(b"%PDF"))
        self.assertEqual(int(got["Content-Length"]), len(content))
        self.assertIn(file.name, got["Content-Disposition"])
        # Printed again, at once, it is the same; nothing is made anew.
        again = self.client.post(make)
        self.assertEqual(again["Content-Type"], "application/pdf")
        self.assertEqual(pages(again.getvalue()), pages(content))
        # It left once more.
        self.assertEqual(ContactExport.objects.count(), 2)

    def test_a_contact_file_is_the_same_by_the_worker(self) -> None:
        page = reverse("contacts:contacts", args=[self.selection.key])
        asked = {"columns": ["owner-name", "address", "telephone-1"], "per": "owner"}
        direct = self.client.post(page, asked).getvalue()
        with mock.patch("jaded_ledger.made_files.services.kind_called", lambda key: replace(KINDS[key], at_once=0)):
            self.client.post(page, asked)
            file = MadeFile.objects.first()
            run(file.pk)
        self.assertEqual(b"".join(content_of(file)), direct)
        self.assertGreater(direct.count(b"\r\n"), 10)

    def test_after_a_worker_was_killed_it_is_made_from_its_beginning(self) -> None:
        file = self.asked(11)
        MadeFile.objects.filter(pk=file.pk).update(state="making", attempts=1)
        MadeFilePart.objects.create(file=file, number=0, content=b"half")
        ProcrastinateJob.objects.filter(task_name=services.MAKE).delete()
        self.assertIn(file.pk, under_way())
        queue_again()
        self.assertEqual(ProcrastinateJob.objects.filter(task_name=services.MAKE, args__file_id=file.pk, status="todo").count(), 1)
        self.assertEqual((b"".join(content_of(self.made(file))), file.attempts), (b"x" * 30, 2))

    def test_one_that_no_worker_survives_is_given_up(self) -> None:
        file = self.asked(11)
        MadeFile.objects.filter(pk=file.pk).update(attempts=services.MOST_ATTEMPTS - 1)
        self.assertEqual(self.made(file).state, "ready")
        MadeFile.objects.filter(pk=file.pk).update(state="making", attempts=services.MOST_ATTEMPTS)
        self.assertEqual(self.made(file).state, "failed")
        self.assertIn("Ask for fewer rows", file.error)

    def test_what_goes_wrong_is_said_and_noted_nowhere(self) -> None:
        def refuses(*_: object) -> Making:
            raise MakingError("Nothing is left to print.")

        def breaks(*_: object) -> Making:
            raise ZeroDivisionError

        def loses(*_: object) -> Making:
            raise OperationalError

        note = mock.Mock()
        kind = FileKind("k", lambda *_: Making(self.broken(), note), anybody, at_once=0)
        for made, words in ((refuses, "Nothing is left to print."), (breaks, "on our side (ZeroDivisionError)")):
            file = self.asked(11)
            try:
                self.made(file, FileKind("k", made, anybody, at_once=0))
            except ZeroDivisionError:
                file.refresh_from_db()
            self.assertEqual(file.state, "failed")
            self.assertContains(self.client.get(reverse("made_files:file", args=[file.pk])), words)
        file = self.asked(11)
        with self.assertRaises(OperationalError):
            self.made(file, FileKind("k", loses, anybody, at_once=0))
        self.assertIn(file.pk, under_way())
        with self.assertRaises(ZeroDivisionError):
            self.made(file, kind)
        note.assert_not_called()
        self.assertEqual(list(content_of(file)), [])
        with self.assertRaises(MakingError):
            self.asked(10, FileKind("k", refuses, anybody, at_once=10))

    def broken(self):
        yield b"x" * 3_000_000
        raise ZeroDivisionError

    def test_thrown_away_while_it_is_made(self) -> None:
        file = self.asked(11)
        note = mock.Mock()

        def parts():
            yield b"x"
            response = self.client.post(reverse("made_files:throw-away", args=[file.pk]), follow=True)
            self.assertContains(response, "is thrown away")

        with mock.patch.object(services, "kind_called", lambda key: FileKind(key, lambda *_: Making(parts(), note), anybody, at_once=0)):
            run(file.pk)
        note.assert_not_called()
        self.assertFalse(MadeFile.objects.filter(pk=file.pk).exists())
        self.assertContains(self.client.get(reverse("made_files:files")), "You asked for no file")

    def test_nobody_else_sees_it(self) -> None:
        file = self.asked(10)
        other = User.objects.create(username="other", team=self.user.team, role=User.Role.OWNER)
        client = Client()
        client.force_login(other, backend="django.contrib.auth.backends.ModelBackend")
        for name in ("file", "progress", "download"):
            self.assertEqual(client.get(reverse(f"made_files:{name}", args=[file.pk])).status_code, 404)
        self.assertEqual(client.post(reverse("made_files:throw-away", args=[file.pk])).status_code, 404)

    def test_who_became_a_reader_meanwhile_gets_none(self) -> None:
        page = reverse("contacts:contacts", args=[self.selection.key])
        with mock.patch("jaded_ledger.made_files.services.kind_called", lambda key: replace(KINDS[key], at_once=0)):
            self.client.post(page, {"columns": ["owner-name"]})
            file = MadeFile.objects.first()
            User.objects.filter(pk=self.user.pk).update(role=User.Role.READER)
            run(file.pk)
        file.refresh_from_db()
        self.assertEqual(file.state, "failed")

    def test_old_ones_are_forgotten(self) -> None:
        day, other = self.asked(1), self.asked(1)
        MadeFile.objects.filter(pk=day.pk).update(asked_at=now() - KEPT_FOR - timedelta(seconds=1))
        MadeFile.objects.filter(pk=other.pk).update(asked_at=now() - KEPT_FOR + timedelta(minutes=1))
        forget(0)
        self.assertEqual(list(MadeFile.objects.values_list("pk", flat=True)), [other.pk])
