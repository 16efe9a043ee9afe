"""The contact file: columns for mail houses, a row an owner, lists apart; and the page and command that make it.

Names and addresses in parts are held against the parts of the whole (USPS Publication 28: street line, city, state, ZIP Code).
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections import Counter
from datetime import datetime
from unittest import mock

import openpyxl
import vobject
from django.core.exceptions import PermissionDenied
from django.core.management import call_command
from django.http import HttpResponse
from django.urls import reverse

from jaded_ledger.accounts.deletion import undo_address
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts import do_not_contact
from jaded_ledger.contacts.contact_columns import CONTACT_COLUMNS
from jaded_ledger.contacts.contact_file import FileForm, FileLayout, Per, contact_file, lines, rows_in, saved_by_owner
from jaded_ledger.contacts.do_not_contact import Kind, Source, may_be_contacted
from jaded_ledger.contacts.export_limits import set_limits
from jaded_ledger.contacts.exports import BeyondLimitError
from jaded_ledger.contacts.file_columns import SHIPPED, offered
from jaded_ledger.contacts.models import ContactExport, FileColumns
from jaded_ledger.contacts.workbook import TooManyRowsError, workbook
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.mail.vcards import Contact as Card
from jaded_ledger.core.mail.vcards import card
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.core.phone_numbers import Dialing, national
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.find.selections import keep
from jaded_ledger.find.sorting import in_order
from jaded_ledger.lists import services
from jaded_ledger.mailings.mail_settings import SettingError
from jaded_ledger.records.models import Contact, ParcelFacts, ParcelShape, RecordedName
from tests.support.demo import DemoTestCase
from tests.support.page_text import page_text

SEARCH = "county: Tamarack\nclass: triplex"


class ContactFile(DemoTestCase):
    def setUp(self) -> None:
        self.matches = may_be_contacted(compile(parse(SEARCH), self.scope).matches, self.scope)

    def written(self, *columns: str, **more: bool) -> list[dict[str, str]]:
        layout = FileLayout(columns, keys=True, **more)
        return list(csv.DictReader(io.StringIO("".join(lines(in_order(self.matches, ""), layout, self.scope)))))

    def test_in_the_case_people_read(self) -> None:
        keys = ("owner-name", "address", "city", "envelope-name", "mail-city", "mail-state", "mail-zip", "class", "parcel-number")
        plain, read = self.written(*keys), self.written(*keys, reading_case=True)
        for one, other in zip(plain, read, strict=True):
            self.assertEqual({key: value.upper() for key, value in one.items()}, {key: value.upper() for key, value in other.items()})
            self.assertEqual([one[key] for key in keys[5:]], [other[key] for key in keys[5:]])
        # USPS Publication 28 has addresses in capitals; a person reads them otherwise.
        self.assertTrue(all(row["address"].split(",")[0].isupper() for row in plain))
        self.assertFalse(any(row["address"].split(",")[0].isupper() for row in read))

    def test_no_column_is_called_like_a_trait(self) -> None:
        self.assertEqual(CONTACT_COLUMNS.keys() & {trait.key for trait in CATALOGUE}, set())
        labels = Counter([column.label for column in CONTACT_COLUMNS.values()] + [trait.label for trait in CATALOGUE])
        self.assertEqual([label for label, count in labels.items() if count > 1], [])

    def test_names_and_addresses_in_parts(self) -> None:
        rows = self.written(
            "owner-name", "envelope-name", "first-name", "last-name", "name-suffix", "second-first-name", "in-care-of", "mailing-address",
            "mail-street", "mail-city", "mail-state", "mail-zip", "mail-zip-4", "property-street", "property-zip",
        )  # fmt: skip
        self.assertGreater(len(rows), 100)
        parts = 0
        for row in rows:
            read = read_name(row["owner-name"])
            self.assertEqual(row["envelope-name"], read.mailing_name)
            if read.persons:
                parts += 1
                self.assertEqual((row["first-name"], row["last-name"]), (read.persons[0].given, read.persons[0].surname))
                self.assertEqual(row["second-first-name"], read.persons[1].given if len(read.persons) > 1 else "")
            else:
                self.assertEqual((row["first-name"], row["last-name"]), ("", ""))
            self.assertIn(row["mail-zip"], row["mailing-address"])
            self.assertTrue(row["mail-zip-4"].startswith(row["mail-zip"]))
            self.assertNotIn(",", row["mail-street"])
        self.assertGreater(parts, 50)

    def test_a_row_an_owner(self) -> None:
        every = [row["parcel-number"] for row in self.written("owner-name", "parcel-number")]
        once = self.written("owner-name", "parcels-here", "parcel-numbers", per=Per.OWNER)
        saved = saved_by_owner(self.matches)
        self.assertGreater(saved, 0)
        self.assertEqual(len(every) - len(once), saved)
        self.assertEqual(sum(int(row["parcels-here"]) for row in once), len(every))
        self.assertEqual(sorted(number for row in once for number in row["parcel-numbers"].split(", ")), sorted(every))

    def test_a_row_a_telephone_number(self) -> None:
        rows = self.written("owner-name", "telephone", per=Per.TELEPHONE)
        asked = Contact.objects.filter(kind="telephone", superseded_at=None, do_not_contact=False, owner__in=self.matches.values("owner"))
        refused_somewhere = Contact.objects.filter(do_not_contact=True, superseded_at=None).values("value")
        may = asked.exclude(value__in=refused_somewhere).values_list("owner", "value").distinct()
        self.assertGreater(len(rows), 20)
        self.assertEqual(sorted(row["telephone"] for row in rows), sorted(national(value) for _, value in may))
        self.assertEqual(rows_in(self.matches, Per.TELEPHONE, self.scope), len(rows))
        refused = next(value for _, value in may if national(value) == rows[0]["telephone"])
        do_not_contact.note(self.scope, Kind.TELEPHONE, Source.CALL, label="x", value=refused)
        after = self.written("owner-name", "telephone", per=Per.TELEPHONE)
        self.assertNotIn(national(refused), [row["telephone"] for row in after])
        self.assertEqual(rows_in(self.matches, Per.TELEPHONE, self.scope), len(after))

    def test_as_geojson_with_outlines(self) -> None:
        """As RFC 7946, sections 3.2 and 3.3, has features and their collection."""
        layout = FileLayout(("owner-name", "beds", "last-sale", "owner-occupied"))
        made = contact_file(self.matches, layout, "", self.scope, SEARCH, FileForm.GEOJSON)
        found = json.loads(b"".join(made.parts))
        self.assertEqual(found["type"], "FeatureCollection")
        self.assertEqual(len(found["features"]), self.matches.count())
        outlines = dict(ParcelShape.objects.filter(superseded_at=None).values_list("parcel", "outline"))
        facts = {one.pk: one for one in self.matches}
        for feature in found["features"]:
            self.assertEqual(set(feature), {"type", "id", "geometry", "properties"})
            outline = outlines.get(feature["id"])
            self.assertEqual(feature["geometry"] is None, outline is None)
            if outline is not None:
                first = feature["geometry"]["coordinates"][0][0][0]
                self.assertAlmostEqual(first[0], outline.coords[0][0][0][0], places=6)
            beds = feature["properties"][CATALOGUE["beds"].label]
            self.assertEqual(beds, facts[feature["id"]].beds)

    def test_columns_are_kept_under_a_name(self) -> None:
        self.client.force_login(self.scope.user or User.objects.get(username="nora"), backend="django.contrib.auth.backends.ModelBackend")
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        address, columns = reverse("contacts:contacts", args=[selection.key]), ["envelope-name", "beds", "mail-zip"]
        page = self.client.post(address, {"do": "keep-columns", "keep_as": " For  the mail house ", "columns": columns}, follow=True)
        kept = FileColumns.objects.get()
        self.assertEqual((kept.name, kept.columns), ("For the mail house", columns))
        self.assertEqual([one.key for one in dict(page.context["sections"])["chosen"]], columns)
        # Under the same name they take the place of those.
        self.client.post(address, {"do": "keep-columns", "keep_as": "For the mail house", "columns": columns[:1]})
        self.assertEqual(FileColumns.objects.get().columns, columns[:1])
        for said, why in (
            ({"keep_as": " "}, "1 to 60 characters"),
            ({"keep_as": "x" * 61}, "1 to 60"),
            ({"keep_as": "x", "columns": []}, "at least one column"),
        ):
            answer = self.client.post(address, {"do": "keep-columns", "columns": columns} | said, follow=True)
            self.assertContains(answer, why)
        gone = self.client.post(address, {"do": "remove-columns", "kept": kept.pk}, follow=True)
        undo = undo_address(kept)
        self.assertContains(gone, undo)
        self.assertNotIn(f"file-{kept.pk}", offered(self.scope))
        self.client.post(undo)
        self.assertIn(f"file-{kept.pk}", offered(self.scope))
        # Undone twice is undone.
        self.assertContains(self.client.post(undo, follow=True), "restored")
        self.client.post(address, {"do": "remove-columns", "kept": kept.pk})
        self.client.post(address, {"do": "keep-columns", "keep_as": "For the mail house", "columns": columns})
        self.assertContains(self.client.post(undo, follow=True), "Rename that one first")
        FileColumns.objects.all().delete()
        other = Scope(Team.objects.create(name="Other"), None, self.scope.today)
        self.assertEqual(list(offered(other)), ["mail-house", "phone-list", "spreadsheet"])

    def test_sets_for_common_purposes_and_the_last_one(self) -> None:
        self.client.force_login(User.objects.get(username="nora"), backend="django.contrib.auth.backends.ModelBackend")
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        address = reverse("contacts:contacts", args=[selection.key])

        def ticked(page: HttpResponse) -> dict[str, list[str]]:
            boxes = re.findall(r"<input[^>]*>", page.content.decode())
            on = [box for box in boxes if re.search(r"\schecked", box)]
            return {name: [re.search(r'value="([^"]*)"', box)[1] for box in on if f'name="{name}"' in box and "value=" in box]
                    for name in ("columns", "per", "form", "dialing")}  # fmt: skip

        for one in SHIPPED:
            with self.subTest(one.key):
                found = ticked(self.client.get(address, {"set": one.key}))
                self.assertEqual(sorted(found["columns"]), sorted(one.columns))
                self.assertEqual(found["per"], [str(one.begins.get("per", "parcel"))])
                self.assertEqual(found["form"], [str(one.begins.get("form", "csv"))])
                sent = {**found, **{name: value for name, value in one.begins.items() if value is not True}}
                answer = self.client.post(address, {**sent, "reading_case": "on"} if one.begins.get("reading_case") else sent)
                self.assertTrue(answer.streaming and answer.getvalue())
        # The next file begins with what the last one was, on any page.
        other = keep(self.scope, SearchPage(parse("class: duplex")), [], is_all=True)
        found = ticked(self.client.get(reverse("contacts:contacts", args=[other.key])))
        self.assertEqual((sorted(found["columns"]), found["form"]), (sorted(SHIPPED[2].columns), ["xlsx"]))
        self.client.post(address, {"columns": ["e-mail"], "dialing": "e164", "per": "owner"})
        found = ticked(self.client.get(reverse("contacts:contacts", args=[other.key])))
        self.assertEqual((found["columns"], found["dialing"], found["per"]), (["e-mail"], ["e164"], ["owner"]))

    def test_a_role_may_have_a_limit(self) -> None:
        agent = User.objects.create_user("marsh", password="x", team=self.scope.team, role=User.Role.AGENT)
        owner = User.objects.filter(team=self.scope.team, role=User.Role.OWNER).first()
        theirs, ours = (Scope(self.scope.team, user, self.scope.today) for user in (agent, owner))
        rows = self.matches.count()
        for most, is_allowed in ((rows, True), (rows - 1, False)):
            set_limits(ours, {"agent": f"{most:,}", "owner": ""})
            if is_allowed:
                contact_file(self.matches, FileLayout(), "", theirs, SEARCH)
            else:
                with self.assertRaisesRegex(BeyondLimitError, f"exports at most {most:,} rows at once, and this export has {rows:,}"):
                    contact_file(self.matches, FileLayout(), "", theirs, SEARCH)
            contact_file(self.matches, FileLayout(), "", ours, SEARCH)
        self.client.force_login(agent, backend="django.contrib.auth.backends.ModelBackend")
        selection = keep(theirs, SearchPage(parse(SEARCH)), [], is_all=True)
        address = reverse("contacts:contacts", args=[selection.key])
        self.assertIn(f"exports at most {rows - 1:,} rows at once", page_text(self.client.get(address).content))
        answer = self.client.post(address, {"columns": ["owner-name"]}, follow=True)
        self.assertContains(answer, "select fewer, or ask your team’s owner")
        self.assertFalse(ContactExport.objects.filter(user=agent).exists())
        for text in ("0", "-1", "x", "10000001"):
            with self.subTest(text), self.assertRaisesRegex(SettingError, "whole number from 1 to 10,000,000, or blank"):
                set_limits(ours, {"agent": text})
        with self.assertRaises(PermissionDenied):
            set_limits(theirs, {"agent": ""})

    def test_telephones_but_those_that_are_not_to_be_called(self) -> None:
        rows = self.written("parcel-number", "telephone-1", "telephone-2", "e-mail", dialing=Dialing.E164)
        numbers = {row[key] for row in rows for key in ("telephone-1", "telephone-2")} - {""}
        self.assertTrue(numbers)
        # A number that is not to be called for one owner is not called for another, either.
        asked = set(Contact.objects.filter(do_not_contact=True, superseded_at=None).values_list("value", flat=True))
        shared = Contact.objects.filter(do_not_contact=False, superseded_at=None, value__in=asked, owner__in=self.matches.values("owner"))
        self.assertTrue(shared.exists())
        self.assertFalse(numbers & asked)
        # A plus and digits alone are no formula: they can be dialed as they stand.
        self.assertTrue(all(re.fullmatch(r"\+1[0-9]{10}", number) for number in numbers))
        said = self.written("telephone-1", "telephone-2")
        self.assertEqual({row[key] for row in said for key in row} - {""}, {national(number) for number in numbers})
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        self.client.force_login(User.objects.get(username="nora"), backend="django.contrib.auth.backends.ModelBackend")
        for dialing, form in (("national", r"\([0-9]{3}\) [0-9]{3}-[0-9]{4}"), ("e164", r"\+1[0-9]{10}")):
            sent = {"columns": ["telephone-1"], "dialing": dialing}
            lines = self.client.post(reverse("contacts:contacts", args=[selection.key]), sent).getvalue().decode().splitlines()[1:]
            self.assertTrue(any(lines) and all(re.fullmatch(form, line) for line in lines if line.strip('"')), dialing)

    def test_lists_in_quotes_or_a_column_each(self) -> None:
        ids = list(self.matches.values_list("parcel_id", flat=True)[:3])
        services.add(self.scope, services.make_list(self.scope, "Tax, 2026"), ids)
        services.add(self.scope, services.make_list(self.scope, "Plain"), ids[:1])
        rows = self.written("on-list", a_column_a_list=True)
        self.assertIn('"Tax, 2026"', " ".join(row["on-list"] for row in rows))
        self.assertEqual([Counter(row[name] for row in rows)["yes"] for name in ("Tax, 2026", "Plain")], [3, 1])

    def test_on_the_page(self) -> None:
        self.client.force_login(User.objects.get(username="nora"), backend="django.contrib.auth.backends.ModelBackend")
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        address = reverse("contacts:contacts", args=[selection.key])
        saved = saved_by_owner(self.matches)
        self.assertIn(f"each owner: {self.matches.count() - saved} rows, saves {saved}", page_text(self.client.get(address).content))
        sent = {"columns": ["last-name", "mail-street"], "per": "owner"}
        answer = self.client.post(address, sent)
        found = list(csv.reader(io.StringIO(b"".join(answer.streaming_content).decode())))
        self.assertEqual(found[0], ["last name", "mail street"])
        self.assertEqual(len(found) - 1, self.matches.count() - saved)
        self.assertEqual(ContactExport.objects.latest("pk").count, len(found) - 1)

    def test_by_the_command(self) -> None:
        out, told = io.StringIO(), io.StringIO()
        words = ("find", SEARCH, "--csv", "-", "--columns", "last-name,mail-zip", "--per", "owner")
        call_command(*words, stdout=out, stderr=told)
        self.assertEqual(out.getvalue().splitlines()[0], "last-name,mail-zip")
        self.assertIn(f"{saved_by_owner(self.matches):,} rows saved by one row an owner", told.getvalue())


class OtherForms(DemoTestCase):
    """Workbooks and vCards, re-read by openpyxl and by vobject, with names as nobody has them."""

    HOSTILE = ('=cmd|"/C calc"!A0', "O’NEILL; “QUOTED”, <B>", "A\\B", "שלום ٣", "X" * 300, "+1 @SUM(A1)")

    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")
        found = may_be_contacted(compile(parse(SEARCH), self.scope).matches, self.scope).filter(owner__isnull=False)
        for facts, name in zip(found.order_by("pk")[: len(self.HOSTILE)], self.HOSTILE, strict=True):
            said = RecordedName.objects.create(
                text=f"AWKWARD {facts.pk}", folded=f"awkward {facts.pk}", words="awkward", kind="company", mailing_name=name
            )
            ParcelFacts.objects.filter(owner=facts.owner_id).update(owner_name=said)

    def written(self, form: str, **sent: object) -> bytes:
        selection = keep(self.scope, SearchPage(parse(SEARCH)), [], is_all=True)
        answer = self.client.post(reverse("contacts:contacts", args=[selection.key]), {"form": form, **sent})
        self.assertIn(f".{form}", answer["Content-Disposition"])
        return answer.getvalue()

    def test_a_workbook_has_figures_days_and_texts(self) -> None:
        columns = ["parcel-number", "envelope-name", "last-sale", "assessed-value", "owner-occupied", "beds"]
        written = self.written("xlsx", columns=columns, a_column_a_list="on")
        sheet = openpyxl.load_workbook(io.BytesIO(written)).active
        rows = list(sheet.iter_rows(values_only=True))
        self.assertEqual(list(rows[0][:6]), ["parcel number", "envelope name", "last sale", "assessed value", "owner occupied", "beds"])
        csv_rows = list(csv.reader(io.StringIO(self.written("csv", columns=columns).decode())))
        self.assertEqual(len(rows), len(csv_rows))
        types = {(place, type(value)) for row in rows[1:] for place, value in enumerate(row[:6]) if value is not None}
        self.assertLessEqual({(2, datetime), (3, int), (4, bool), (5, int)}, types)
        names = {row[1] for row in rows[1:]}
        self.assertLessEqual({*self.HOSTILE}, names)
        self.assertTrue(all(cell.data_type != "f" for row in sheet.iter_rows() for cell in row))
        self.assertEqual(sheet.freeze_panes, "A2")
        self.assertEqual(sheet.column_dimensions["B"].width, 60)
        self.assertEqual(ContactExport.objects.filter(details__form="xlsx").count(), 1)

    def test_more_rows_than_a_sheet_holds(self) -> None:
        with mock.patch("jaded_ledger.contacts.workbook.MOST_ROWS", 3):
            self.assertTrue(b"".join(workbook(iter([["a"], [1], [2]]))))
            with self.assertRaisesRegex(TooManyRowsError, "write this one as CSV"):
                b"".join(workbook(iter([["a"], [1], [2], [3]])))
        self.assertTrue(b"".join(workbook(iter([["a", "b"]]))))

    def test_cards(self) -> None:
        written = self.written("vcf", columns=["parcel-number"]).decode()
        self.assertTrue(all(len(line.encode()) <= 75 for line in written.split("\r\n")))
        cards = list(vobject.readComponents(written))
        owners = may_be_contacted(compile(parse(SEARCH), self.scope).matches, self.scope).values("owner").distinct().count()
        self.assertEqual(len(cards), owners)
        names = {card.fn.value for card in cards}
        self.assertLessEqual({*self.HOSTILE}, names)
        numbers = {str(one.value) for card in cards for one in card.contents.get("tel", [])}
        known = set(Contact.objects.filter(superseded_at=None, do_not_contact=False).values_list("value", flat=True))
        self.assertTrue(numbers)
        self.assertLessEqual(numbers, known)
        people = [card for card in cards if "org" not in card.contents]
        self.assertTrue(people)
        self.assertTrue(all(card.n.value.family for card in cards))
        self.assertTrue(any(card.adr.value.code for card in cards if "adr" in card.contents))

    def test_a_card_by_the_standard(self) -> None:
        """RFC 2426: what parts values is escaped (section 5), a line of more than 75 octets is folded (2.6)."""
        written = card(Card("Ostrom, Kelm; & Söhne", note="a\nb\\c" + "é" * 80, telephones=["+14145550123"]))
        self.assertIn("FN:Ostrom\\, Kelm\\; & Söhne\r\n", written)
        self.assertIn("NOTE:a\\nb\\\\c", written)
        self.assertEqual("".join(written.split("\r\n ")).count("é"), 80)
        self.assertEqual(vobject.readOne(written).note.value, "a\nb\\c" + "é" * 80)
        self.assertEqual(len(card(Card("x" * 72)).split("\r\n")[2]), 75)
