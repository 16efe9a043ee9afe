"""Every row that can be deleted is undeleted in one way, and only by those who may."""

from __future__ import annotations

from django.apps import apps
from django.core.exceptions import PermissionDenied
from django.test import Client

from jaded_ledger.accounts.deletion import Deletable, delete, deletions, undelete, undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients import models as clients
from jaded_ledger.comps.models import KeptComps
from jaded_ledger.contacts.models import FileColumns
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.corrections import save_correction
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings.letters import write
from jaded_ledger.mailings.mail_settings import set_printer
from jaded_ledger.mailings.mailings import begin as begin_mailing
from jaded_ledger.maps.areas import keep_area, outline_of_circle
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Parcel
from jaded_ledger.searches import services
from jaded_ledger.worksheets.models import DealFile
from jaded_ledger.worksheets.services import begin
from tests.support.demo import DemoTestCase


class Deletions(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user)
        self.team = self.user.team
        self.mine = Scope(self.team, self.user, self.scope.today)
        parcel = Parcel.objects.order_by("pk").first()
        self.rows: list[Deletable] = [
            services.save(self.mine, SearchPage(parse("beds: 3")), "Three", shared=True),
            clients.Client.objects.create(team=self.team, name="Imre", made_at=now()),
            KeptComps.objects.create(
                team=self.team, parcel=parcel, kept_at=now(), of_set="as-is", content={"subject": {"address": "1 Quay St"}}
            ),
            keep_area(self.mine, "Quay", outline_of_circle(0, 0, 50)),
            begin(self.mine, parcel),
            DealFile.objects.create(
                team=self.team, parcel=parcel, kind="bid", name="bid.pdf", content_type="application/pdf", size=1, content=b"x",
                preview=b"", kept_at=now(),
            ),
            FileColumns.objects.create(team=self.team, name="House", columns=["beds"]),
            begin_mailing(self.mine, keep(self.mine, SearchPage(parse("beds: 3")), [], is_all=True)),
            write(self.mine, "Hello", "letters", "Hi {owner}"),
            save_correction(self.mine, "fixer", "condition: poor"),
            set_printer(self.mine, "Upstairs", "1", "1"),
        ]  # fmt: skip

    def member(self, name: str, role: str, team: Team) -> Scope:
        return Scope(team, User.objects.create(username=name, team=team, role=role), self.scope.today)

    def is_deleted(self, row: Deletable) -> bool:
        row.refresh_from_db(fields=["deleted_at"])
        return row.deleted_at is not None

    def test_all_models_are_walked(self) -> None:
        models = {model for model in apps.get_models() if issubclass(model, Deletable)}
        self.assertEqual({one.model for one in deletions().values()}, models)
        self.assertEqual({type(row) for row in self.rows}, models)

    def test_deleted_and_undone_by_one_address(self) -> None:
        for row in self.rows:
            with self.subTest(type(row).__name__):
                delete(self.mine, row)
                deleted_at = type(row)._default_manager.get(pk=row.pk).deleted_at
                delete(self.mine, row)
                self.assertEqual(type(row)._default_manager.get(pk=row.pk).deleted_at, deleted_at, "deleted twice is deleted once")
                self.assertEqual(self.client.get(undo_address(row)).status_code, 405)
                for _ in range(2):
                    self.assertContains(self.client.post(undo_address(row), follow=True), "restored")
                    self.assertFalse(self.is_deleted(row))

    def test_by_nobody_else(self) -> None:
        reader = self.member("rita", User.Role.READER, self.team)
        stranger = self.member("sten", User.Role.OWNER, Team.objects.create(name="Others"))
        outside = Client()
        outside.force_login(stranger.user)
        for row in self.rows:
            with self.subTest(type(row).__name__):
                with self.assertRaises(PermissionDenied):
                    delete(reader, row)
                delete(self.mine, row)
                with self.assertRaises(PermissionDenied):
                    undelete(reader, row)
                with self.assertRaises(type(row).DoesNotExist):
                    undelete(stranger, row)
                self.assertEqual(outside.post(undo_address(row)).status_code, 404)
                self.assertTrue(self.is_deleted(row))

    def test_an_address_of_no_such_row(self) -> None:
        self.assertEqual(self.client.post("/deleted/records.parcel/1/").status_code, 404)
        self.assertEqual(self.client.post("/deleted/maps.drawnarea/999999/").status_code, 404)

    def test_what_a_colleague_keeps_to_themselves(self) -> None:
        ida = self.member("ida2", User.Role.AGENT, self.team)
        theirs = services.save(ida, SearchPage(parse("beds: 1")), "Ida's")
        delete(ida, theirs)
        self.assertEqual(self.client.post(undo_address(theirs)).status_code, 404)
