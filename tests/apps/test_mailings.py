"""Mailings: a ledger down to the pieces, made once; who must get nothing, on every path; and what came of a piece."""

from __future__ import annotations

import csv
import io
import json
import re
import tempfile
import zipfile
from collections import Counter
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from unittest import mock

import duckdb
import openpyxl
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.urls import reverse
from pypdf import PdfReader

from jaded_ledger.accounts.deletion import undo_address
from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts import do_not_contact
from jaded_ledger.contacts.contact_file import FileForm, Per
from jaded_ledger.contacts.do_not_contact import DoNotContactError, Kind, Source, told_apart
from jaded_ledger.contacts.models import ContactExport, DoNotContact, MailSettings
from jaded_ledger.contacts.suppression_file import Entry
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.core.phone_numbers import national
from jaded_ledger.core.spreadsheets import unguarded
from jaded_ledger.find import compiler
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings import letters
from jaded_ledger.mailings.gone_wrong import gone_wrong
from jaded_ledger.mailings.mailing_files import files_of, merge_data
from jaded_ledger.mailings.mailing_terms import MailingError, change
from jaded_ledger.mailings.mailings import begin, code_of, export_of, mailings_of, make, planned
from jaded_ledger.mailings.models import Mailing, MailPiece, PieceOutcome, Printer
from jaded_ledger.mailings.replies import note_outcome, pieces_about, undo_outcome
from jaded_ledger.mailings.response import brought_together, responses, search_named
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import Contact, Owner, Parcel, ParcelFacts, RecordedName
from tests.support.mailings import HOSTILE, SEARCH, MailCase
from tests.support.page_text import page_text
from tests.support.tiers import at_all_hours, thorough


class Ledgers(MailCase):
    def test_the_sums_add_up(self) -> None:
        for to in Addressing:
            for relaxed in ("", "recent public same-owner"):
                plan = planned(self.begun(to=to, relaxed=relaxed), self.scope)
                left = plan.made.parcels
                self.assertEqual(left, compiler.compile(parse(SEARCH), self.scope).matches.count())
                for line in plan.ledger:
                    left -= 0 if line.is_relaxed else line.off
                    self.assertEqual(line.left, left)
                self.assertEqual(left, len(plan.made.pieces))
                self.assertEqual(plan.total, sum(line.amount for line in plan.costs))

    def test_one_piece_an_owner_against_the_facts(self) -> None:
        """Who gets a piece, told again from the facts alone."""
        mailing = self.begun()
        plan, today = planned(mailing, self.scope), self.scope.today
        facts = compiler.compile(parse(SEARCH), self.scope).matches.select_related("owner_name", "mailing_address")
        may = [
            one for one in facts
            if one.mailing_address and not one.mailing_address.address.undeliverable and not one.do_not_contact and one.owner_name
            and not (one.owned_since and one.owned_since > today - timedelta(365))
            and one.owner_name.kind not in ("government", "lender")
        ]  # fmt: skip
        self.assertEqual({piece.owner_id for piece in plan.made.pieces} - {one.owner_id for one in may}, set())
        households = {one.mailing_address.address.household_key for one in may}
        self.assertEqual(len({piece.address.household_key for piece in plan.made.pieces}), len(plan.made.pieces))
        self.assertLessEqual(len(plan.made.pieces), len(households))
        without = {one.owner_id for one in may} - {piece.owner_id for piece in plan.made.pieces}
        # Whoever gets none shares a household with somebody who does.
        kept = {piece.address.household_key for piece in plan.made.pieces}
        for one in may:
            self.assertTrue(one.owner_id not in without or one.mailing_address.address.household_key in kept)
        told = Counter(parcel for piece in plan.made.pieces for parcel in piece.parcels)
        self.assertEqual(max(told.values()), 1)

    def test_made_once_and_lately_from_then_on(self) -> None:
        mailing = self.made()
        self.assertEqual(mailing.pieces.count(), mailing.account["pieces"])
        self.assertEqual([piece.number for piece in mailing.pieces.all()], list(range(1, mailing.pieces_made + 1)))
        with self.assertRaisesRegex(MailingError, "was made before"):
            make(mailing, self.scope, planned(mailing, self.scope))
        with self.assertRaisesRegex(MailingError, "is made; begin another"):
            change(self.scope, mailing, {"to": "resident"})
        # The same owners again: all of them were mailed to lately, unless that is let go, or sixty days have gone.
        again = self.begun()
        self.assertGreaterEqual(self.reasons(again)[Reason.MAILED], mailing.pieces_made)
        self.assertEqual(planned(again, self.scope).made.pieces, [])
        self.assertEqual(len(planned(self.begun(relaxed="mailed"), self.scope).made.pieces), mailing.pieces_made)
        Mailing.objects.filter(pk=mailing.pk).update(made_on=self.scope.today - timedelta(60))
        self.assertEqual(self.reasons(again)[Reason.MAILED], 0)
        Mailing.objects.filter(pk=mailing.pk).update(made_on=self.scope.today - timedelta(59))
        self.assertGreater(self.reasons(again)[Reason.MAILED], 0)
        other = Scope(Team.objects.create(name="Other"), None, self.scope.today)
        theirs = begin(other, keep(other, SearchPage(parse(SEARCH)), [], is_all=True))
        self.assertEqual(planned(theirs, other).made.reasons[Reason.MAILED], 0)

    def test_nothing_is_made_of_nobody(self) -> None:
        with self.assertRaisesRegex(MailingError, "every parcel was left out"):
            self.made("beds: 99")
        self.assertFalse(ContactExport.objects.exists())

    def test_wrong_terms_say_so_and_change_nothing(self) -> None:
        mailing = self.begun()
        for said, words in (
            ({"to": "everybody"}, "no addressing “everybody”"), ({"start": "31"}, "this sheet has 30 labels"),
            ({"start": "0"}, "from 1 to"),
            ({"start": "٣"}, "whole number"), ({"stock": "letter-31"}, "are not printed on"), ({"postage": "pigeon"}, "first_class"),
            ({"mailed_within": "9" * 9}, "whole number"), ({"batch": "-1"}, "whole number"), ({"name": " "}, "1 to 80"),
            ({"name": "x" * 81}, "1 to 80"), ({"note": "x" * 61}, "at most 60"), ({"form": "telegram"}, "no form"),
        ):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(MailingError, words):
                change(self.scope, mailing, {"name": "New", **said})
            mailing.refresh_from_db()
            self.assertNotEqual(mailing.name, "New")
        change(self.scope, mailing, {"start": "30"})
        # Another sheet has fewer labels, another form none.
        change(self.scope, mailing, {"stock": "a4-21", "start": "21"})
        change(self.scope, mailing, {"stock": "letter-10"})
        self.assertEqual(mailing.start, 1)
        change(self.scope, mailing, {"form": "envelopes"})
        self.assertEqual((mailing.stock, mailing.start), ("no-10", 1))
        change(self.scope, mailing, {}, ["do-not-mail", "no-address", "recent", "what"])
        self.assertEqual(mailing.relaxed, ["recent"])

    def test_codes(self) -> None:
        codes = [code_of(number) for number in range(3_000)]
        self.assertEqual(len({*codes}), 3_000)
        self.assertFalse(set("".join(codes)) & set("IO01"))
        first, second = self.begun(), self.begun()
        self.assertNotEqual(first.code, second.code)

    def test_batches_and_the_small_line(self) -> None:
        mailing = self.made(batch="50", note="code {code}", start="29")
        files = list(files_of(mailing, export_of(mailing, self.scope)))
        self.assertEqual(len(files), -(-mailing.pieces_made // 50))
        texts = ["\n".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages) for _, content in files]
        self.assertIn(f"code {mailing.code}-1\n", texts[0] + "\n")
        self.assertIn(f"code {mailing.code}-51\n", texts[1] + "\n")
        # Only the first sheet was begun: 2 labels on it, 30 on the next, 18 on the third.
        self.assertEqual([len(PdfReader(io.BytesIO(content)).pages) for _, content in files[:2]], [3, 2])
        answer = self.client.post(reverse("mailings:make-mailing", args=[mailing.pk]))
        with zipfile.ZipFile(io.BytesIO(answer.getvalue())) as archive:
            self.assertEqual(archive.namelist(), [name for name, _ in files])
            self.assertIsNone(archive.testzip())

    def test_envelopes(self) -> None:
        sender = ["LANTERN STREET REALTY", "ALDER BAY WI 53301"]
        MailSettings.objects.update_or_create(team=self.scope.team, defaults={"sender": sender})
        mailing = self.made("class: triplex", form="envelopes", return_address="1")
        answer = self.client.post(reverse("mailings:make-mailing", args=[mailing.pk]))
        pages = PdfReader(io.BytesIO(answer.getvalue())).pages
        self.assertEqual(len(pages), mailing.pieces_made)
        self.assertIn("LANTERN STREET REALTY", pages[0].extract_text())
        self.assertIn(mailing.pieces.first().lines[0], pages[0].extract_text())

    def test_merge_data_by_another_reader(self) -> None:
        """Hostile names come back as they are, by DuckDB's reader and without the guard."""
        for place, name in enumerate(HOSTILE):
            piece = self.pieces_for_merge()[place]
            MailPiece.objects.filter(pk=piece.pk).update(lines=[name, *piece.lines[1:]])
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "pieces.csv"
            path.write_text("".join(merge_data(self.mailing, export_of(self.mailing, self.scope))), newline="")
            # A connection of its own: what another test has not read to its end stands in the way on the one of the module.
            rows = duckdb.connect().sql(f"SELECT * FROM read_csv('{path}', all_varchar = true, header = true) ORDER BY 1").fetchall()
        self.assertEqual(len(rows), self.mailing.pieces_made)
        names = {row[0]: row[1] for row in rows}
        for place, name in enumerate(HOSTILE):
            cell = names[f"{self.mailing.code}-{place + 1}"]
            self.assertFalse(cell.startswith(("=", "+", "@")))
            self.assertEqual(unguarded(cell), name)

    def pieces_for_merge(self) -> list[MailPiece]:
        if not hasattr(self, "mailing"):
            self.mailing = self.made()
        return list(self.mailing.pieces.order_by("number")[: len(HOSTILE)])

    def test_on_the_page(self) -> None:
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        first = self.client.get(reverse("mailings:begin", args=[selection.key]))
        self.assertEqual(self.client.get(reverse("mailings:begin", args=[selection.key]))["Location"], first["Location"])
        mailing = Mailing.objects.get()
        page = page_text(self.client.get(first["Location"]).content)
        plan = planned(mailing, self.scope)
        self.assertIn(f"Make {len(plan.made.pieces):,} labels", page)
        for line in plan.ledger:
            self.assertIn(line.words, page)
        answer = self.client.post(f"{first['Location']}change", {"to": "resident"}, headers={"HX-Request": "true"})
        self.assertContains(answer, "CURRENT RESIDENT")
        wrong = self.client.post(f"{first['Location']}change", {"start": "99"}, headers={"HX-Request": "true"})
        self.assertContains(wrong, "The first label is a whole number from 1 to 80")
        self.assertNotContains(wrong, 'id="ledger"')
        left_out = self.client.get(first["Location"], {"view": "left-out", "reason": "no-building"})
        self.assertContains(left_out, "no building there")
        self.assertEqual(self.client.get(first["Location"], {"sheet": "9" * 30, "reason": "<b>"}).status_code, 200)
        self.assertTrue(self.created(mailing).startswith(b"%PDF"))
        self.assertContains(self.client.get(first["Location"]), "None of its pieces has become wrong")
        self.assertContains(self.client.get(reverse("mailings:mailings")), mailing.name)
        self.assertContains(self.client.post(f"{first['Location']}act", {"do": "delete"}, follow=True), "stays on record")
        self.client.post(f"{first['Location']}act", {"do": "copy"})
        copied = mailings_of(self.scope).first()
        self.assertEqual((copied.to, copied.made_at), ("resident", None))
        gone = self.client.post(reverse("mailings:act-on-mailing", args=[copied.pk]), {"do": "delete"}, follow=True)
        self.assertContains(gone, "deleted")
        self.assertEqual(self.client.get(reverse("mailings:mailing", args=[copied.pk])).status_code, 404)
        self.client.post(undo_address(copied))
        self.assertEqual(self.client.get(reverse("mailings:mailing", args=[copied.pk])).status_code, 200)

    def test_what_can_not_be_made_any_more_says_so(self) -> None:
        """Between the count and the making somebody else may have mailed to the same owners."""
        mailing = self.begun()
        address = reverse("mailings:make-mailing", args=[mailing.pk])
        gone = MailingError("nothing was made: every parcel was left out")
        with mock.patch("jaded_ledger.mailings.file_kinds.planned", side_effect=gone):
            page = self.client.post(address, follow=True)
        self.assertContains(page, "Nothing was made: every parcel was left out.")
        self.assertTrue(self.created(mailing).startswith(b"%PDF"))

    def test_it_stands_in_a_propertys_history(self) -> None:
        mailing = self.made()
        piece = mailing.pieces.first()
        first = note_outcome(self.scope, piece, PieceOutcome.Kind.REPLY, "call after Sunday")
        # Sent twice it is one note; another word is another.
        self.assertEqual(note_outcome(self.scope, piece, PieceOutcome.Kind.REPLY, "call  after Sunday"), first)
        page = page_text(self.client.get(reverse("properties:more", args=[piece.parcel_id])).content)
        self.assertIn(f"mailed: {mailing.name}, piece {mailing.code}-1", page)
        self.assertIn("replied (call after Sunday)", page)


FEW = f"{SEARCH}\nbeds: 5.."


class Nothing(MailCase):
    """Who must get nothing, walked on every path that makes a piece or a file."""

    def paths(self, search: str) -> dict[str, set[int]]:
        """Return the parcels that each path lets out."""
        found: dict[str, set[int]] = {}
        everything = [reason.value for reason in Reason]
        for to in Addressing:
            mailing = self.begun(search, to=to, relaxed=" ".join(everything))
            found[f"mailing, {to}"] = {piece.parcel_id for piece in planned(mailing, self.scope).made.pieces}
        key = keep(self.scope, SearchPage(parse(search)), [], is_all=True).key
        page = self.client.post(reverse("contacts:contacts", args=[key]), {"columns": ["parcel-number", "telephone-1", "e-mail"]})
        found["contact file"] = self.parcels(page.getvalue().decode())
        sent = {"columns": ["parcel-number", "parcel-numbers", "telephone-1", "e-mail"]}
        numbers = dict(compiler.compile(parse(search), self.scope).matches.values_list("pk", "parcel__number"))
        for form, per in ((FileForm.WORKBOOK, Per.PARCEL), (FileForm.CARDS, Per.OWNER), (FileForm.GEOJSON, Per.TELEPHONE)):
            answer = self.client.post(reverse("contacts:contacts", args=[key]), sent | {"form": form, "per": per})
            text = self.text_in(answer.getvalue() if answer.streaming else b"", form)
            found[f"contact file as {form}"] = {pk for pk, number in numbers.items() if number in text}
        letter = letters.letters_of(self.scope).filter(name="Walk").first() or letters.write(self.scope, "Walk", "letters", "To {owner|x}")
        mailing = self.begun(search, form="letters", letter=str(letter.pk), relaxed=" ".join(everything))
        found["letters"] = {piece.parcel_id for piece in planned(mailing, self.scope).made.pieces}
        with tempfile.NamedTemporaryFile("r") as file:
            call_command("find", search, csv=file.name, columns="parcel-number,telephone-1", stderr=io.StringIO())
            found["bin/manage find --csv"] = self.parcels(file.read())
        out = io.StringIO()
        call_command("mailing", search, to="owner-mailing", dry_run=True, format="json", let_go=["same-owner"], stdout=out)
        self.assertGreater(json.loads(out.getvalue())["refused"].get("do-not-mail", 0), 0)
        return found

    def text_in(self, content: bytes, form: FileForm) -> str:
        """Return what a contact file of any form says."""
        if form is FileForm.WORKBOOK and content:
            book = openpyxl.load_workbook(io.BytesIO(content), read_only=True)
            return "\n".join(str(cell) for row in book.active.iter_rows(values_only=True) for cell in row)
        # Cards go on in the next line: RFC 6350, 3.2.
        return content.decode().replace("\r\n ", "")

    def parcels(self, text: str) -> set[int]:
        numbers = [row[0] for row in list(csv.reader(io.StringIO(text)))[1:]]
        return set(Parcel.objects.filter(number__in=numbers).values_list("pk", flat=True))

    def asked(self) -> ParcelFacts:
        """Return a parcel of which every path would let something out."""
        may = compiler.compile(parse(FEW), self.scope).matches.filter(owner__isnull=False, address__isnull=False)
        mailing = self.made(FEW, relaxed="recent public")
        called = Contact.objects.filter(kind="telephone", superseded_at=None, do_not_contact=False).values("owner")
        one = may.filter(pk__in=mailing.pieces.values("parcel"), owner__in=called).order_by("pk")[0]
        Mailing.objects.all().delete()
        return one

    def test_a_person_and_an_address_on_every_path(self) -> None:
        facts = self.asked()
        owner, place = facts.owner, facts.mailing_address.address
        before = self.paths(FEW)
        files = [path for path in before if path.startswith("contact file")]
        self.assertTrue(all(facts.pk in found for found in before.values()), {path: facts.pk in found for path, found in before.items()})
        for kind, more, paths in (
            (Kind.PERSON, {"owner": owner}, before),
            (Kind.ADDRESS, {"value": place.household_key}, ["mailing, owner-mailing", "letters", *files]),
        ):  # fmt: skip
            row = do_not_contact.note(self.scope, kind, Source.BY_HAND, label="x", **more)
            after = self.paths(FEW)
            for path in paths:
                with self.subTest(kind, path=path):
                    self.assertNotIn(facts.pk, after[path])
            do_not_contact.end(self.scope, row)
        self.assertEqual(self.paths(FEW), before)
        # Another team's wish is its own.
        note = {"label": "x", "source": "call", "since": self.scope.today, "noted_at": now()}
        DoNotContact.objects.create(team=Team.objects.create(name="Other"), kind="person", owner=owner, **note)
        self.assertNotIn(owner.pk, do_not_contact.refused_by(self.scope).owners)

    def test_a_number_is_written_to_no_file(self) -> None:
        contact = Contact.objects.filter(superseded_at=None, kind="telephone", do_not_contact=False, owner__isnull=False).first()
        facts = ParcelFacts.objects.filter(owner=contact.owner).first()
        key = keep(self.scope, SearchPage(parse("class: any")), [facts.pk], is_all=False).key
        address, sent = reverse("contacts:contacts", args=[key]), {"columns": ["telephone-1", "telephone-2", "telephone-3"]}
        self.assertIn(national(contact.value), self.client.post(address, sent).getvalue().decode())
        self.client.post(reverse("contacts:do-not-contact"), {"lines": f"({contact.value[2:5]}) {contact.value[5:8]}-{contact.value[8:]}"})
        self.assertNotIn(national(contact.value), self.client.post(address, sent).getvalue().decode())

    def test_lines_of_each_kind(self) -> None:
        for line, kind, value in (
            ("  Helen@Example.COM ", Kind.EMAIL, "helen@example.com"), ("+1 (414) 555-0123", Kind.TELEPHONE, "+14145550123"),
            ("414.555.0123", Kind.TELEPHONE, "+14145550123"),
            ("103 Capstan St Apt 4, Alder Bay, WI 53301", Kind.ADDRESS, "103 CAPSTAN ST|53301|4"),
            ("103 Capstan Street # 4, Alder Bay WI 53301-0009", Kind.ADDRESS, "103 CAPSTAN ST|53301|4"),
        ):  # fmt: skip
            self.assertEqual(told_apart(line), (kind, value))
        for line in ("", "nobody", "414 555", "12345678901234", "103 Capstan St", "103 Capstan St, Alder Bay", "a@b", "٣٣٣ ٣٣٣ ٣٣٣٣"):
            with self.subTest(line), self.assertRaises(DoNotContactError):
                told_apart(line)

    def test_a_table_of_them(self) -> None:
        table = (
            'Name,Phone,E-mail Address,Address,City,State,ZIP\r\n'
            'Kelm,(414) 555-0123,,"103 Capstan St",Alder Bay,WI,53301\r\n'
            ',,b@example.org,,,,\r\n'
            'Nobody,,,"12 Elm St",,,\r\n'
        )  # fmt: skip
        page = self.client.post(reverse("contacts:do-not-contact"), {"file": SimpleUploadedFile("list.csv", table.encode())})
        self.assertContains(page, "line 4: “12 Elm St” is no whole address", status_code=400)
        self.assertEqual(
            {(row.kind, row.value) for row in DoNotContact.objects.all()},
            {("telephone", "+14145550123"), ("e-mail", "b@example.org"), ("address", told_apart("103 Capstan St, Alder Bay, WI 53301")[1])},
        )

    def test_what_was_noted_need_not_be_typed_again(self) -> None:
        said = {"lines": "a@example.com\nnobody\n414 555 0123", "source": "unsubscribed", "since": "2026-01-02"}
        page = self.client.post(reverse("contacts:do-not-contact"), said)
        self.assertContains(page, ">nobody</textarea>", status_code=400)
        rows = DoNotContact.objects.all()
        self.assertEqual({(row.source, str(row.since)) for row in rows}, {("unsubscribed", "2026-01-02")})
        self.assertEqual(len(rows), 2)
        for since in ("2199-01-01", "x"):
            page = self.client.post(reverse("contacts:do-not-contact"), {"lines": "c@example.com", "since": since})
            self.assertContains(page, ">c@example.com</textarea>", status_code=400)
        self.assertEqual(DoNotContact.objects.count(), 2)

    def test_as_many_as_a_file_of_two_megabytes_holds(self) -> None:
        lines = [f"{200 + place % 700}55{place:05}" for place in range(20_000)]
        note = {"label": "x", "source": "call", "since": self.scope.today, "noted_at": now(), "team": self.scope.team}
        first = DoNotContact.objects.create(kind="telephone", value=f"+1{lines[0]}", **note)
        ended = DoNotContact.objects.create(kind="telephone", value=f"+1{lines[1]}", ended_at=now(), **note)
        # Another kind may have the same text.
        DoNotContact.objects.create(kind="e-mail", value=f"+1{lines[2]}", **note)
        entries = [Entry(number, line) for number, line in enumerate([*lines, lines[5], f"1{lines[6]}", "nobody"], start=1)]
        with self.assertNumQueries(8):
            noted, wrong = do_not_contact.note_entries(self.scope, entries, Source.FILE)
        self.assertEqual((noted, [one.entry.line for one in wrong]), (20_000, [20_003]))
        rows = DoNotContact.objects.filter(ended_at=None, kind="telephone")
        self.assertEqual(set(rows.values_list("value", flat=True)), {f"+1{line}" for line in lines})
        first.refresh_from_db()
        ended.refresh_from_db()
        self.assertEqual((first.source, ended.ended_at is None, rows.count()), ("call", False, 20_000))
        self.assertEqual(
            set(rows.exclude(pk=first.pk).values_list("source", "noted_by", "since")), {("file", self.user.pk, self.scope.today)}
        )

    def test_a_file_of_them(self) -> None:
        text = "\ufeffa@example.com\r\n\r\nnobody\r\n414 555 0123\r\na@example.com\r\n"
        file = SimpleUploadedFile("list.txt", text.encode())
        page = self.client.post(reverse("contacts:do-not-contact"), {"file": file, "note": "county list"})
        self.assertEqual(page.status_code, 400)
        self.assertIn("1 line could not be noted; the others were. line 3: “nobody” is no whole address", page_text(page.content))
        rows = DoNotContact.objects.order_by("value")
        self.assertEqual([(row.value, row.source, row.note) for row in rows], [
            ("+14145550123", "file", "county list"), ("a@example.com", "file", "county list"),
        ])  # fmt: skip
        self.client.post(reverse("contacts:end-do-not-contact", args=[rows[1].pk]))
        self.assertNotContains(self.client.get(reverse("contacts:do-not-contact")), ">a@example.com<")
        self.client.post(reverse("contacts:end-do-not-contact", args=[rows[1].pk]))
        self.assertContains(self.client.get(reverse("contacts:do-not-contact")), "a@example.com")


@at_all_hours
class Replies(MailCase):
    def test_found_by_code_name_street_and_number(self) -> None:
        mailing = self.made()
        contact = Contact.objects.filter(owner__in=mailing.pieces.values("owner"), kind="telephone", superseded_at=None).first()
        piece = mailing.pieces.filter(owner=contact.owner).first()
        code = f"{mailing.code}-{piece.number}"
        for typed in (code, code.lower(), code.replace("-", " "), code.replace("-", ""), contact.value[2:], piece.lines[0].title(),
                      " ".join(reversed(piece.lines[-2].split()))):  # fmt: skip
            with self.subTest(typed):
                self.assertIn(piece, pieces_about(self.scope, typed))
        self.assertEqual(list(pieces_about(self.scope, code)), [piece])
        # The property that a piece is about, which an absentee's mailing address does not name.
        away = next(
            one
            for one in mailing.pieces.select_related("parcel__facts__address", "parcel__county")
            if one.parcel.facts.street_line and one.parcel.facts.street_line.split()[1].upper() not in " ".join(one.lines).upper()
        )
        for typed in (away.parcel.facts.street_line, away.parcel.number, away.parcel.facts.street_line.lower()):
            with self.subTest(typed):
                self.assertIn(away, pieces_about(self.scope, typed))
        # A condominium's number has as many digits as a telephone's.
        unit = next(iter(self.made("class: condominium", relaxed="recent").pieces.select_related("parcel")))
        self.assertEqual(len(re.sub("[^0-9]", "", unit.parcel.number)), 11)
        self.assertIn(unit, pieces_about(self.scope, unit.parcel.number))
        several = next(one for one in mailing.pieces.all() if len(one.parcels) > 1)
        other_parcel = Parcel.objects.get(pk=next(pk for pk in several.parcels if pk != several.parcel_id))
        self.assertIn(several, pieces_about(self.scope, other_parcel.number))
        for typed in ("", "  ", "%", "zzzz no such", f"{mailing.code}-9999999", "'; --"):
            self.assertEqual(list(pieces_about(self.scope, typed)), [])
        page = page_text(self.client.get(reverse("mailings:ring"), {"typed": code}).content)
        for line in piece.lines:
            self.assertIn(line, page)
        other = Scope(Team.objects.create(name="Other"), None, self.scope.today)
        self.assertEqual(list(pieces_about(other, code)), [])

    def test_who_wants_no_more_gets_no_more_and_it_can_be_undone(self) -> None:
        mailing = self.made()
        first, second = mailing.pieces.filter(owner__isnull=False)[:2]
        note = reverse("mailings:note-reply", args=[first.pk])
        self.assertContains(self.client.post(note, {"kind": "opted-out", "note": "<script>"}, follow=True), "wants nothing")
        back = note_outcome(self.scope, second, PieceOutcome.Kind.RETURNED)
        again = self.begun(relaxed="mailed")
        plan = planned(again, self.scope)
        refused = {one.parcel_id: one.reason for one in plan.made.refusals}
        self.assertEqual((refused[first.parcel_id], refused[second.parcel_id]), (Reason.DO_NOT_MAIL, Reason.RETURNED))
        self.assertEqual(len(planned(self.begun(relaxed="mailed returned"), self.scope).made.pieces), mailing.pieces_made - 1)
        undo_outcome(self.scope, back)
        self.client.post(reverse("mailings:undo-reply", args=[PieceOutcome.objects.get(piece=first).pk]))
        self.assertEqual(len(planned(again, self.scope).made.pieces), mailing.pieces_made)
        self.assertFalse(DoNotContact.objects.filter(ended_at=None).exists())
        self.assertContains(self.client.post(note, {"kind": "danced"}, follow=True), "Choose what came of it")

    def test_pieces_that_became_wrong_are_named_by_their_place(self) -> None:
        mailing = self.made()
        pieces = list(mailing.pieces.filter(owner__isnull=False)[:4])
        self.assertEqual(list(gone_wrong(mailing, self.scope)), [])
        ParcelFacts.objects.filter(pk=pieces[0].parcel_id).update(owner=Owner.objects.exclude(pk=pieces[0].owner_id).first())
        ParcelFacts.objects.filter(pk=pieces[1].parcel_id).update(is_active=True, list_date=self.scope.today + timedelta(1))
        do_not_contact.note(self.scope, Kind.PERSON, Source.CALL, label="x", owner=pieces[2].owner)
        note_outcome(self.scope, pieces[3], PieceOutcome.Kind.RETURNED)
        found = {one.piece.pk: one.why for one in gone_wrong(mailing, self.scope)}
        self.assertEqual(found, {
            pieces[0].pk: "has another owner now", pieces[1].pk: "was listed with an agent", pieces[2].pk: "asked not to be contacted",
            pieces[3].pk: "mail came back from there",
        })  # fmt: skip
        self.assertContains(self.client.get(reverse("mailings:mailing", args=[mailing.pk])), "Take these out of the stack")
        # What was on the market already when it was made is no news.
        ParcelFacts.objects.filter(pk=pieces[1].parcel_id).update(list_date=self.scope.today)
        self.assertNotIn(pieces[1].pk, {one.piece.pk for one in gone_wrong(mailing, self.scope)})


class Responses(MailCase):
    @thorough
    def test_what_each_mailing_and_each_search_brought(self) -> None:
        page = page_text(self.client.get(reverse("mailings:response")).content)
        self.assertIn("No mailing has been made yet", page)
        first, second = self.made(), self.made("class: single-family")
        third = self.made(relaxed="mailed")
        replied = list(first.pieces.all()[:3])
        for piece in replied:
            note_outcome(self.scope, piece, PieceOutcome.Kind.REPLY)
        # Noted twice of one piece, it is one; what was taken back is none.
        note_outcome(self.scope, replied[0], PieceOutcome.Kind.REPLY, "again")
        undo_outcome(self.scope, note_outcome(self.scope, second.pieces.first(), PieceOutcome.Kind.REPLY))
        note_outcome(self.scope, replied[1], PieceOutcome.Kind.DEAL)
        found = responses(self.scope)
        self.assertEqual([one.mailing for one in found], [third, second, first])
        self.assertEqual([one.brought.outcomes.get("reply", 0) for one in found], [0, 0, 3])
        groups = {one.label: one for one in brought_together(found, search_named)}
        both = groups[SEARCH]
        self.assertEqual((both.pieces, both.cost, both.outcomes["reply"]), (
            first.pieces_made + third.pieces_made, first.cost + third.cost, 3
        ))  # fmt: skip
        self.assertEqual(next(iter(groups)), SEARCH)
        page = page_text(self.client.get(reverse("mailings:response")).content)
        self.assertIn("That is more than chance makes", page)
        self.assertIn(f"${both.cost_per('reply'):,}", page)


class Settings(MailCase):
    def test_a_sheet_of_return_labels(self) -> None:
        MailSettings.objects.all().delete()
        address = reverse("mailings:return-labels", args=["letter-30"])
        self.assertContains(self.client.get(address, follow=True), "Set a return address first")
        self.client.post(
            reverse("mailings:settings"), {"first_class": "0.8", "sender": "Lantern Street Realty\n12 Lantern St\nAlder Bay, WI 53301"}
        )
        (page,) = PdfReader(io.BytesIO(self.client.get(address).content)).pages
        self.assertEqual(page.extract_text().count("12 Lantern St"), 30)
        self.assertContains(self.client.get(reverse("mailings:settings")), address)
        self.assertEqual(self.client.get(reverse("mailings:return-labels", args=["letter-31"])).status_code, 302)

    def test_prices_count_at_once_and_what_was_made_keeps_its_own(self) -> None:
        made, address = self.made(), reverse("mailings:settings")
        cost = made.cost
        page = self.client.get(address)
        said = {name: value for name, _, value in page.context["prices"]} | {"first_class": "1.00", "sender": "Lantern Street Realty\n\nX"}
        self.assertEqual(self.client.post(address, said).status_code, 302)
        plan = planned(self.begun(relaxed="mailed"), self.scope)
        self.assertEqual(plan.costs[1].amount, Decimal(len(plan.made.pieces)))
        made.refresh_from_db()
        self.assertEqual(made.cost, cost)
        self.assertEqual(MailSettings.objects.get().sender, ["Lantern Street Realty", "X"])
        for wrong, words in (
            ({"first_class": "a stamp"}, "is no price"),
            ({"sender": "a\n" * 5}, "at most 4 lines"),
            ({"sender": "a" * 61}, "at most 60"),
        ):
            self.assertContains(self.client.post(address, said | wrong), words, status_code=400)

    def test_printers(self) -> None:
        address = reverse("mailings:settings")
        for name, right, down in (("Upstairs", "1.5", "−0.5"), ("Upstairs", "2", "")):
            self.client.post(address, {"do": "printer", "name": name, "right": right, "down": down})
        printer = Printer.objects.get()
        self.assertEqual((printer.right, printer.down), (2, 0))
        for right, words in (("far", "no length"), ("20.1", "at most 20 mm"), ("nan", "at most")):
            self.assertContains(self.client.post(address, {"do": "printer", "name": "x", "right": right}), words, status_code=400)
        sheet = self.client.get(reverse("mailings:alignment", args=["letter-30"]), {"printer": printer.pk})
        self.assertTrue(sheet.content.startswith(b"%PDF"))
        self.assertEqual(self.client.get(reverse("mailings:alignment", args=["nothing"])).status_code, 302)
        mailing = self.made(printer="Upstairs")
        removed = self.client.post(address, {"do": "remove-printer", "name": "Upstairs"}, follow=True)
        self.assertContains(removed, "deleted")
        self.assertNotContains(removed, '<td class="n">2.0</td>')
        # What was to go through it still does.
        mailing.refresh_from_db()
        self.assertEqual(mailing.printer, printer)
        self.client.post(undo_address(printer))
        self.assertContains(self.client.get(address), '<td class="n">2.0</td>')


class Awkward(MailCase):
    def test_names_as_nobody_has_them(self) -> None:
        ids = list(compiler.compile(parse(SEARCH), self.scope).matches.filter(owner__isnull=False).values_list("pk", flat=True)[:6])
        for parcel, name in zip(ids, (*HOSTILE, "X" * 300), strict=True):
            said = RecordedName.objects.create(
                text=f"AWKWARD {parcel}", folded=f"awkward {parcel}", words="awkward", kind="individual", mailing_name=name
            )
            ParcelFacts.objects.filter(pk=parcel).update(owner_name=said, do_not_contact=False)
        selection = keep(self.scope, SearchPage(parse("class: any")), ids, is_all=False)
        mailing = begin(self.scope, selection)
        change(self.scope, mailing, {}, ["recent", "public"])
        page = self.client.get(reverse("mailings:mailing", args=[mailing.pk]))
        self.assertNotContains(page, "<B>")
        self.assertGreater(self.reasons(mailing)[Reason.TOO_LONG], 0)
        self.assertTrue(self.created(mailing).startswith(b"%PDF"))
