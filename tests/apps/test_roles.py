"""What each role may: every act of every app tried by every role, another team's, and nobody; and what is kept of who did it."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping
from datetime import date, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.http import HttpResponse
from django.test import Client
from django.urls import reverse

from jaded_ledger.accounts.audit import AuditFilter, AuditKind, audited
from jaded_ledger.accounts.models import AuditEntry, User
from jaded_ledger.accounts.roles import STAFF, every_act
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients.clients import keep_client
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.demo.people import PASSWORD
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.mailings.mailings import begin, make, planned
from jaded_ledger.maps.models import DrawnArea
from jaded_ledger.records.models import County, Parcel, ParcelFacts
from jaded_ledger.searches.services import save
from jaded_ledger.worksheets.models import Worksheet
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours

CODE = Path(__file__).resolve().parents[2] / "jaded_ledger"
BACKEND = "django.contrib.auth.backends.ModelBackend"


class Roles(DemoTestCase):
    def setUp(self) -> None:
        scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        self.page = SearchPage(parse("class: triplex"))
        self.search = save(scope, self.page, "Triplexes", shared=True)
        self.selection = keep(scope, self.page, [], is_all=True)
        mailing = begin(scope, self.selection)
        make(mailing, scope, planned(mailing, scope))
        self.piece = mailing.pieces.first()
        self.facts = ParcelFacts.objects.filter(owner__isnull=False, neighborhood__isnull=False).order_by("pk")[0]
        self.parcel = Parcel.objects.get(pk=self.facts.parcel_id)

    def asked(self, key: str) -> tuple[str, Mapping[str, Any] | None]:
        """Return an address by which an act is done, and what is posted to it; None where it is only looked at."""
        parcel, search = self.parcel.pk, {"q": "class: triplex"}
        return {
            "areas": (reverse("maps:keep-area"), {"name": "A", "longitude": "-87.9", "latitude": "44.6", "radius": "800"}),
            "audit": (reverse("accounts:audit"), None),
            "background": (reverse("maps:background"), {}),
            "clients": (reverse("clients:new"), {"name": "Imre Solvang"}),
            "client-settings": (reverse("clients:settings"), {"reasons": "too dear", "message": "Hello", "link_days": "30"}),
            "comps": (reverse("comps:settings", args=[County.objects.all()[0].pk]), {"lines": "within: 1 mi"}),
            "contacts": (reverse("contacts:contacts", args=[self.selection.key]), {"columns": ["owner-name"]}),
            "do-not-contact": (reverse("contacts:do-not-contact"), {"lines": "a@example.com"}),
            "export-limits": (reverse("mailings:settings"), {"do": "limits", "most-agent": "500"}),
            "files": (reverse("worksheets:keep-file", args=[parcel]), {"kind": "other", "file": SimpleUploadedFile("a.pdf", b"%PDF-1.4")}),
            "followed-lists": (reverse("searches:act", args=[self.search.pk]), {"do": "follow", "list": "Follows"}),
            "grades": (reverse("properties:grade", args=[parcel]), {"grade": "A"}),
            "letters": (reverse("mailings:new-letter"), {"form": "letters"}),
            "lists": (reverse("lists:new"), {"name": "New", "type": "working-set", "pasted": self.parcel.number}),
            "morning-hour": (reverse("watch:hour"), {"hour": "7"}),
            "notes": (reverse("watch:act"), {"do": "note", "row": parcel, "typed": "Knock", "told_to": "2026-11-24T06:00:00+00:00"}),
            "owners": (reverse("properties:owner", args=[parcel]), {"do": "merge", "other": self.facts.owner_id}),
            "phrase-books": (reverse("find:phrases"), {"key": "", "name": "Mine", "phrases": "as is", "do": "save"}),
            "prices": (reverse("mailings:settings"), {"first_class": "0.8", "sender": "US"}),
            "replies": (reverse("mailings:note-reply", args=[self.piece.pk]), {"kind": "reply"}),
            "series": (reverse("mailings:repeat", args=[self.piece.mailing_id]), {"every_days": "30", "rounds": "3"}),
            "take-in": (reverse("intake:bring"), None),
            "team-columns": (f"{reverse('find:column-sets')}?q=beds:+3..", search | {"name": "Ours", "of_team": "on"}),
            "team-searches": (reverse("searches:save"), search | {"name": "Shared", "shared": "on"}),
            "worksheets": (reverse("worksheets:begin-worksheet", args=[parcel]), {}),
        }[key]

    def answer(self, user: User | None, path: str, sent: Mapping[str, Any] | None) -> HttpResponse:
        """Return the answer to a user; what it did is rolled back."""
        client = Client()
        if user:
            client.force_login(user, backend=BACKEND)
        with transaction.atomic():
            response = client.get(path) if sent is None else client.post(path, dict(sent))
            transaction.set_rollback(True)
        return response

    def user_of(self, role: str) -> User:
        is_staff = role == STAFF
        return User.objects.create_user(
            f"some-{role}", team=self.scope.team, role=User.Role.READER if is_staff else role, is_staff=is_staff
        )  # fmt: skip

    def test_every_act_by_every_role(self) -> None:
        acts = every_act()
        self.assertEqual(len({act.key for act in acts}), len(acts))
        for role in (*User.Role.values, STAFF):
            user = self.user_of(role)
            for act in acts:
                with self.subTest(act=act.key, role=role):
                    answer = self.answer(user, *self.asked(act.key))
                    self.assertNotEqual(answer.status_code, 404)
                    self.assertLess(answer.status_code, 500)
                    self.assertEqual(answer.status_code == 403, role not in act.allowed, answer.status_code)
                    if answer.status_code == 403:
                        told = page_text(answer.content)
                        self.assertIn(act.refused, told)
                        self.assertIn("runs this installation" if act.allowed == {STAFF} else "Ask your team's owner", told)

    def test_nobody_does_any_of_it(self) -> None:
        for act in every_act():
            answer = self.answer(None, *self.asked(act.key))
            self.assertTrue(answer.status_code == 302 and answer.url.startswith("/sign-in/"), act.key)

    def test_another_teams_things_are_not_there(self) -> None:
        other = self.other_team()
        User.objects.filter(pk=other.pk).update(role=User.Role.OWNER)
        client = keep_client(Scope(self.scope.team, None, self.scope.today), {"name": "Theirs"})
        which, sheet, area = ParcelList.objects.all()[0], Worksheet.objects.all()[0], DrawnArea.objects.all()[0]
        for name, pk, sent in (
            ("lists:list", which.pk, None), ("lists:act", which.pk, {"do": "delete"}), ("lists:add", which.pk, {"pasted": "1"}),
            ("searches:search", self.search.pk, None), ("searches:act", self.search.pk, {"do": "delete"}),
            ("searches:open", self.search.pk, None), ("worksheets:worksheet", sheet.pk, None),
            ("worksheets:act-on-worksheet", sheet.pk, {"do": "remove"}), ("worksheets:change-worksheet", sheet.pk, {}),
            ("worksheets:worksheet-pdf", sheet.pk, None), ("worksheets:worksheet-json", sheet.pk, None),
            ("comps:list-ranges", which.pk, {"do": "compute"}), ("maps:outline", area.pk, None),
            ("maps:area-act", area.pk, {"do": "remove"}), ("mailings:begin", self.selection.key, None),
            ("mailings:mailing", self.piece.mailing_id, None), ("watch:watch", self.search.pk, {"do": "watch", "rhythm": "morning"}),
            ("clients:client", client.pk, None), ("clients:act", client.pk, {"do": "delete"}),
            ("mailings:change-mailing", self.piece.mailing_id, {"name": "X"}), ("mailings:make-mailing", self.piece.mailing_id, {}),
            ("mailings:act-on-mailing", self.piece.mailing_id, {"do": "copy"}), ("mailings:merge", self.piece.mailing_id, {}),
            ("mailings:note-reply", self.piece.pk, {"kind": "reply"}),
            ("contacts:contacts", self.selection.key, {"columns": ["owner-name"]}),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual(self.answer(other, reverse(name, args=[pk]), sent).status_code, 404)

    def test_roles_are_asked_in_one_place(self) -> None:
        for file in CODE.rglob("*.py"):
            if file.parent.name in ("accounts", "migrations", "commands") or "demo" in file.parts:
                continue
            self.assertNotRegex(file.read_text(), r"\buser\.role\b|\bRole\.(OWNER|AGENT|READER)", file)
        asked = "\n".join(file.read_text() for file in CODE.rglob("*.py"))
        declared = re.findall(r"^([A-Z_]+) = Act\(", asked, re.MULTILINE)
        self.assertEqual(len(declared), len(every_act()))
        for name in declared:
            self.assertRegex(asked, rf"require\([^\n]*, {name}\)", f"{name} is never asked for")

    def test_the_page_has_every_act(self) -> None:
        self.client.force_login(self.user_of("reader"), backend=BACKEND)
        page = page_text(self.client.get(reverse("accounts:roles")).content)
        for act in every_act():
            said = " ".join("yes" if role in act.allowed else "no" for role in (*User.Role.values, STAFF))
            self.assertIn(f"{act.label} {said}", page)


@at_all_hours
class Audit(DemoTestCase):
    def setUp(self) -> None:
        AuditEntry.objects.all().delete()

    def told(self, **asked: str) -> list[tuple[str, str, str]]:
        found = audited(self.scope, AuditFilter(date(2020, 1, 1), date(2030, 1, 1), **asked))
        return [(one.who, one.kind, one.what) for one in found]

    def test_coming_in_and_going_out(self) -> None:
        client, sign_in = Client(REMOTE_ADDR="10.4.4.4"), reverse("accounts:sign-in")
        client.post(sign_in, {"username": "nora", "password": "=wrong"})
        client.post(sign_in, {"username": "nobody", "password": "x"})
        client.post(sign_in, {"username": "nora", "password": PASSWORD})
        client.post(
            reverse("accounts:password"), {"old_password": PASSWORD, "new_password1": "tin lanterns x", "new_password2": "tin lanterns x"}
        )
        client.post(reverse("accounts:sign-out"))
        self.assertEqual(
            self.told(kind=AuditKind.SIGN_IN),
            [("nora", "sign-in", what) for what in ("signed out", "changed the password", "signed in", "wrong password")],
        )
        self.assertEqual(set(AuditEntry.objects.values_list("address", flat=True)), {"10.4.4.4"})

    def test_what_apps_keep_themselves_stands_there_too(self) -> None:
        self.client.force_login(self.user, backend=BACKEND)
        scope = self.scope.__class__(self.scope.team, self.user, self.scope.today)
        selection = keep(scope, SearchPage(parse("class: triplex")), [], is_all=True)
        b"".join(self.client.post(reverse("contacts:contacts", args=[selection.key]), {"columns": ["owner-name"]}).streaming_content)
        parcel = ParcelFacts.objects.filter(owner__contacts__isnull=False, neighborhood__isnull=False)[0].parcel_id
        self.client.post(reverse("properties:contacts", args=[parcel]))
        self.client.post(reverse("properties:grade", args=[parcel]), {"grade": "A"})
        self.client.post(reverse("lists:new"), {"name": "=1+1", "type": "working-set", "pasted": ""})
        kinds = {kind for _, kind, _ in self.told(who="nora")}
        self.assertEqual(kinds, set(AuditKind))
        page = self.client.get(reverse("accounts:audit"), {"since": "2020-01-01", "until": "2030-01-01"})
        self.assertContains(page, "made a list: =1+1")
        file = self.client.get(reverse("accounts:audit"), {"since": "2020-01-01", "until": "2030-01-01", "form": "csv"})
        rows = list(csv.DictReader(io.StringIO(b"".join(file.streaming_content).decode())))
        self.assertEqual(len(rows), len(self.told()))
        self.assertEqual([row["at"] for row in rows], sorted((row["at"] for row in rows), reverse=True))

    def test_days_kinds_and_people(self) -> None:
        self.client.force_login(self.user, backend=BACKEND)
        one = AuditEntry.objects.get()
        day = one.at.astimezone(ZoneInfo(self.user.team.time_zone)).date()
        next_day = timedelta(days=1)
        for since, until, count in ((day, day, 1), (day + next_day, day + next_day, 0), (day - next_day, day - next_day, 0)):
            begins, ends = AuditFilter(since, until).span(self.scope)
            self.assertEqual(int(begins <= one.at < ends), count)
        page = reverse("accounts:audit")
        for asked in ({"since": "x"}, {"since": "2026-02-30"}, {"since": "2027-01-01", "until": "2026-01-01"}, {"until": "9999-12-31"},
                      {"since": "0001-01-01"}):  # fmt: skip
            self.assertContains(self.client.get(page, asked), "can’t be read")
        self.assertContains(self.client.get(page, {"who": "nobody", "kind": "sign-in"}), "Nobody did anything")

    def test_another_team_sees_its_own(self) -> None:
        other = self.other_team()
        User.objects.filter(pk=other.pk).update(role=User.Role.OWNER)
        self.client.force_login(other, backend=BACKEND)
        page = self.client.get(reverse("accounts:audit"), {"since": "2020-01-01", "until": "2030-01-01"})
        self.assertEqual([one.who for one in page.context["page"].object_list], ["oskar"])

    def test_what_staff_change_of_somebody(self) -> None:
        self.client.force_login(self.user, backend=BACKEND)
        agent = User.objects.create_user("agent", team=self.scope.team)
        page = reverse("admin:accounts_user_change", args=[agent.pk])
        self.client.post(page, {"username": "agent", "team": self.scope.team.pk, "role": "reader", "is_active": "on"})
        self.assertIn(("agent", "setting", "changed by nora: role reader"), self.told())
