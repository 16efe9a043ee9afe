"""The command line: find, labels, intake, administrator."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import subprocess
import sys
import tempfile
import zipfile
from decimal import Decimal
from pathlib import Path
from unittest import mock
from urllib.parse import quote

import pypdf
from django.core.management import CommandError
from django.db import connection
from django.db.migrations.recorder import MigrationRecorder
from django.db.models import Value
from django.db.models.functions import Concat

from jaded_ledger.__main__ import _is_behind
from jaded_ledger.accounts.models import Team, User
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.demo.people import sign_in_hint
from jaded_ledger.mailings.models import Mailing
from jaded_ledger.records.models import FillRate, Listing, Parcel, ParcelFacts, RollEntry
from tests.support.commands import run
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough

ROOT = Path(__file__).resolve().parents[2]
SEARCH = """county: Tamarack
class: single-family, duplex
owner-occupied: no
last-sale: more than 5 years ago
any of:
  beds: 3..
  baths: 2..
~ zip: 53301"""


class Find(DemoTestCase):
    def test_balance_as_json(self) -> None:
        found = json.loads(run("find", SEARCH, "--balance", "--format", "json"))
        self.assertEqual(found["opening"], 7200)
        self.assertEqual(json.loads(run("find", "", "--count", "--format", "json"))["parcels"], 12_500)
        self.assertEqual(
            [line["criterion"] for line in found["lines"]],
            ["class: single-family, duplex", "owner-occupied: no", "last-sale: more than 5 years ago",
             "any of: beds: 3.. | baths: 2..", "~ zip: 53301"],
        )  # fmt: skip
        self.assertEqual(found["lines"][-1]["balance"], found["matches"])
        self.assertEqual((found["lines"][-1]["removed"], found["lines"][-1]["if_struck"]), (0, None))
        left = found["opening"]
        for line in found["lines"]:
            left -= line["removed"]
            self.assertEqual(line["balance"], left)
        count = json.loads(run("find", SEARCH, "--count", "--format", "json"))
        self.assertEqual(count["parcels"], found["matches"])
        self.assertLess(count["owners"], count["parcels"])

    def test_criteria_from_a_file_and_standard_input(self) -> None:
        said = run("find", SEARCH)
        with tempfile.NamedTemporaryFile("w", suffix=".txt") as file:
            file.write(SEARCH)
            file.flush()
            self.assertEqual(run("find", f"@{file.name}"), said)
        with mock.patch("sys.stdin", io.StringIO(SEARCH)):
            self.assertEqual(run("find"), said)
        self.assertIn("without it", run("find", SEARCH, "--balance"))

    def test_bad_criteria_end_with_two_and_one_line(self) -> None:
        for criteria, said in [
            ("class: duplx", "did you mean duplex?"),
            ("city: Aldr Bay", "did you mean Alder Bay?"),
            ("county: Nowhere", "not a county on record"),
            ("parcel-number: 1-2-3-4-5", "does not fit"),
            ("parcel-number: elsewhere/12-034-007", "not a county of this search"),
            ("@/no/such/file", "can't be read"),
        ]:
            with self.assertRaises(CommandError) as caught:
                run("find", criteria)
            self.assertEqual(caught.exception.returncode, 2)
            self.assertIn(said, str(caught.exception))
            self.assertNotIn("\n", str(caught.exception))
        for options in (["--columns", "bedz"], ["--columns", ","], ["--sort", "nope"]):
            with self.assertRaises(CommandError) as caught:
                run("find", "beds: 3", *options)
            self.assertEqual(caught.exception.returncode, 2)

    def test_the_file_has_the_chosen_columns_and_is_logged(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "owners.csv"
            run("find", "owner-kind: estate", "--csv", str(path), "--columns", "parcel-number,owner-name,baths,last-sale", "--bom")
            raw = path.read_bytes()
        self.assertTrue(raw.startswith(b"\xef\xbb\xbf"))
        self.assertEqual(raw.count(b"\r\n"), raw.count(b"\n"))
        rows = list(csv.DictReader(io.StringIO(raw.decode("utf-8-sig"))))
        self.assertEqual(list(rows[0]), ["parcel-number", "owner-name", "baths", "last-sale"])
        log = ContactExport.objects.get()
        self.assertEqual((log.form, log.count, log.user, log.search), ("csv", len(rows), None, "owner-kind: estate"))
        self.assertEqual(log.details["columns"], ["parcel-number", "owner-name", "baths", "last-sale"])
        self.assertEqual(len(log.parcel_ids), len(rows))

    def test_several_teams_must_be_told_apart(self) -> None:
        Team.objects.create(name="Other Side Realty")
        with self.assertRaisesRegex(CommandError, "--team"):
            run("find", "beds: 3")
        self.assertIn("parcels", run("find", "beds: 3", "--team", "Other Side Realty"))


class Mailings(DemoTestCase):
    def test_pieces_and_refusals_are_told_and_printed(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "labels.pdf"
            options = ("--to", "owner-mailing", "--stock", "a4-21", "--start", "3")
            said = run("mailing", "class: duplex", *options, "--out", str(path))
            pages = pypdf.PdfReader(path).pages
            text = pages[0].extract_text()
        log = ContactExport.objects.get()
        self.assertEqual((log.form, log.details["to"], log.details["start"]), ("labels", "owner-mailing", 3))
        self.assertIn(f"{log.count:,}  pieces", said)
        self.assertEqual(len(pages), -(-(log.count + 2) // 21))
        self.assertIn("second piece to the same owner", said)
        self.assertRegex(text, r"[A-Z]+ WI 533\d\d")
        self.assertEqual(sum(log.details["refused"].values()) + log.count, int(run("find", "class: duplex").split()[0].replace(",", "")))

    def test_only_told_it_is_the_same_and_nothing_is_kept(self) -> None:
        words = ("mailing", "class: duplex", "--to", "owner-mailing", "--let-go", "recent", "--postage", "marketing")
        told = json.loads(run(*words, "--dry-run", "--format", "json"))
        self.assertFalse(Mailing.objects.exists() or ContactExport.objects.exists())
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "x.zip"
            run(*words, "--out", str(path), "--batch", "100", "--name", "Duplexes")
            with zipfile.ZipFile(path) as files:
                self.assertEqual(len(files.namelist()), -(-told["pieces"] // 100))
        made = Mailing.objects.get()
        self.assertEqual((made.account, made.name, made.pieces_made), (told, "Duplexes", told["pieces"]))
        self.assertEqual(told["parcels"], told["pieces"] + sum(told["refused"].values()))
        self.assertEqual(Decimal(told["cost"]), sum(Decimal(line["amount"]) for line in told["costs"]))
        self.assertIn("recent", told["relaxed"])

    def test_nothing_to_print_writes_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "labels.pdf"
            self.assertIn("0  pieces", run("mailing", "beds: 99", "--to", "resident", "--out", str(path)))
            self.assertFalse(path.exists())
        self.assertFalse(ContactExport.objects.exists() or Mailing.objects.exists())

    def test_wrong_start_and_unwritable_file(self) -> None:
        for options in (["--start", "31", "--out", "/tmp/x.pdf"], ["--out", "/no/such/folder/x.pdf"]):
            with self.assertRaises(CommandError) as caught:
                run("mailing", "class: triplex", "--to", "resident", *options)
            self.assertEqual(caught.exception.returncode, 2)
        self.assertFalse(ContactExport.objects.exists() or Mailing.objects.exists())


class Records(DemoTestCase):
    def intake(self, text: str, *options: str) -> str:
        with tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
            file.write(text)
            file.flush()
            return run("intake", file.name, "--kind", "roll", "--county", "tamarack", "--as-of", "2026-11-20", *options)

    def test_a_row_supersedes_and_the_earlier_one_stays(self) -> None:
        text = "parcel_number,class,beds,owner,zip\n12-001-001,duplex,4,=OSTROM HELEN,53301\n"
        self.assertIn("1 read, 0 new, 1 changed, 0 same, 0 refused", self.intake(text))
        self.assertIn("1 same", self.intake(text))
        entries = RollEntry.objects.filter(parcel__number="12-001-001").order_by("recorded_at", "id")
        self.assertEqual(len(entries), 2)
        self.assertIsNotNone(entries[0].superseded_at)
        self.assertEqual((entries[1].beds, entries[1].source_line, entries[1].superseded_at), (4, 2, None))
        found = run("find", 'parcel-number: 12-001-001\nowner-name: = "=OSTROM HELEN"\nbeds: 4')
        self.assertIn("1 parcel,", found)

    def test_a_row_that_can_not_be_told_is_refused_and_a_bad_value_left_unknown(self) -> None:
        said = self.intake(
            "parcel_number,beds,class,year_built\n12-001-001,3,duplex,1950\n12-001-002,-1,,\n12-001-003,x,,\n99-999-999,3,,\n"
            "12-001,3,,\n12-001-004,3,castle,\n12-001-005,3,,1066\n12-001-001,2,,\n,1,,\n12-001-006,99999,,\n"
        )
        self.assertIn("10 read, 0 new, 6 changed, 0 same, 4 refused, 5 doubtful", said)
        for reason in (
            "is negative",
            "not a number",
            "not on record",
            "does not fit",
            "is none of",
            "before 1600",
            "more than once",
            "is blank",
            "is larger than",
        ):
            self.assertIn(reason, said)

    @thorough
    def test_a_complete_file_of_parcels_retires_what_it_no_longer_holds(self) -> None:
        def outlines(*numbers: str) -> str:
            ring = [[0, 0], [0, 0.001], [0.001, 0.001], [0, 0]]
            features = [
                {"type": "Feature", "properties": {"parcel_number": n}, "geometry": {"type": "Polygon", "coordinates": [ring]}}
                for n in numbers
            ]
            with tempfile.NamedTemporaryFile("w", suffix=".geojson") as file:
                json.dump({"type": "FeatureCollection", "features": features}, file)
                file.flush()
                return run(
                    "intake",
                    file.name,
                    "--kind",
                    "parcels",
                    "--county",
                    "Tamarack",
                    "--as-of",
                    "2026-11-20",
                    "--complete",
                    "--most-may-end",
                )

        both, one = ("12-001-001", "12-001-005"), ("12-001-001",)
        self.assertIn("2 read, 0 new, 2 changed", outlines(*both))
        self.assertEqual(run("find", "county: Tamarack"), "2 parcels, 2 owners\n")
        self.assertIn("1 same", outlines(*one))
        self.assertEqual(run("find", "county: Tamarack"), "1 parcel, 1 owner\n")
        self.assertEqual(Parcel.objects.get(number="12-001-005").retired_on.isoformat(), "2026-11-20")
        # It comes back with all that was on record of it.
        self.assertIn("2 same", outlines(*both))
        self.assertEqual(run("find", "county: Tamarack\nowner-name: unknown"), "0 parcels, 0 owners\n")
        self.assertEqual(run("find", "county: Tamarack"), "2 parcels, 2 owners\n")

    def test_whole_files_that_can_not_be_taken_in(self) -> None:
        for text, options, said in [
            ("a,b\n1,2\n", (), "has no column parcel_number"),
            ("", (), "is empty"),
        ]:
            with self.assertRaisesRegex(CommandError, said):
                self.intake(text, *options)
        with (
            tempfile.NamedTemporaryFile("w", suffix=".csv") as file,
            self.assertRaisesRegex(CommandError, "on record through 2026-11-18"),
        ):
            file.write("parcel_number\n12-001-001\n")
            file.flush()
            run("intake", file.name, "--kind", "roll", "--county", "Tamarack", "--as-of", "2020-01-01")
        with self.assertRaisesRegex(CommandError, "no county 'Nowhere'"):
            run("intake", "x.csv", "--kind", "roll", "--county", "Nowhere")

    @thorough
    def test_facts_are_thrown_away_and_built_anew(self) -> None:
        before = list(ParcelFacts.objects.order_by("parcel_id").values())
        rates = list(FillRate.objects.order_by("county", "trait").values_list("county", "trait", "known", "parcels"))
        self.assertIn("Odell Marsh: 1,900 parcels, 1,900 written", run("derive", "--all", "--county", "odell marsh"))
        self.assertEqual(list(ParcelFacts.objects.order_by("parcel_id").values()), before)
        self.assertEqual(list(FillRate.objects.order_by("county", "trait").values_list("county", "trait", "known", "parcels")), rates)
        # Otherwise only what is not as recorded is written.
        ParcelFacts.objects.filter(parcel__number__in=("010117003", "010118002")).update(beds=99)
        self.assertIn("Odell Marsh: 1,900 parcels, 2 written", run("derive", "--county", "Odell Marsh"))
        self.assertEqual(list(ParcelFacts.objects.order_by("parcel_id").values()), before)
        # Nothing is missing, so nothing is done.
        self.assertEqual(run("derive", "--missing"), "")
        with self.assertRaisesRegex(CommandError, "no county 'Nowhere'; on record are"):
            run("derive", "--county", "Nowhere")

    def test_demo_again_changes_nothing(self) -> None:
        before = RollEntry.objects.count()
        self.assertEqual(run("demo"), "")
        self.assertEqual(RollEntry.objects.count(), before)

    def test_what_is_due(self) -> None:
        self.assertIn("auction of", run("due", "--days", "366"))
        told = json.loads(run("due", "--days", "366", "--format", "json"))
        self.assertEqual([entry["on"] for entry in told], sorted(entry["on"] for entry in told))
        self.assertIn("runs out, on", run("due", "--days", "366"))
        ParcelFacts.objects.update(auction=None)
        Listing.objects.update(expiration_date=None)
        self.assertEqual(run("due", "--days", "0"), "Nothing is due from today to 24 Nov 2026.\n")
        for days in ("-1", "367"):
            with self.assertRaisesRegex(CommandError, "is not from 0 to 366"):
                run("due", f"--days={days}")
        Team.objects.create(name="Other Side Realty")
        with self.assertRaisesRegex(CommandError, "say for which team"):
            run("due")

    def test_the_first_administrator(self) -> None:
        self.assertIn("Sign in as nora", sign_in_hint())
        User.objects.update(username=Concat(Value("not-"), "username"))
        self.assertEqual(sign_in_hint(), "Sign in with your name and password.")
        User.objects.update(is_active=False)
        self.assertIn("bin/manage administrator NAME --team TEAM", sign_in_hint())
        with self.assertRaisesRegex(CommandError, r"say which team they work in, with --team TEAM \(there is Lantern Street Realty\)"):
            run("administrator", "oskar")
        with self.assertRaisesRegex(CommandError, "Enter a valid username"):
            run("administrator", "oskar the first", "--team", "Other Side Realty")
        self.assertFalse(Team.objects.filter(name="Other Side Realty").exists())
        said = run("administrator", "oskar", "--team", "Other Side Realty", "--address", "https://ledger.example/")
        link = re.search(r"https://ledger\.example(/welcome/\S+)", said)[1]  # type: ignore[index]
        oskar = User.objects.get(username="oskar")
        self.assertEqual(
            (oskar.team.name, oskar.role, oskar.is_staff, oskar.has_usable_password()), ("Other Side Realty", "owner", True, False)
        )  # type: ignore[union-attr]
        self.assertContains(self.client.get(link, follow=True), "Welcome, oskar")
        # Whoever was shut out is let in again, with the password that they had until the link is used.
        oskar.set_password("lantern-lit")
        oskar.is_staff = oskar.is_active = False
        oskar.save()
        run("administrator", "oskar")
        oskar.refresh_from_db()
        self.assertTrue(oskar.is_staff and oskar.is_active and oskar.check_password("lantern-lit"))


class Manage(DemoTestCase):
    """What ``bin/manage`` does around a command."""

    def test_it_sees_that_the_database_is_behind(self) -> None:
        self.assertFalse(_is_behind())
        MigrationRecorder(connection).record_unapplied("find", "0001_tables")
        self.assertTrue(_is_behind())

    @thorough
    def test_a_closed_pipe_ends_quietly(self) -> None:
        ours = {**os.environ, "PYTHONPATH": str(ROOT), "DATABASE_URL": _address_of(connection.settings_dict)}
        piped = f"{sys.executable} -m jaded_ledger traits | head -1; echo ${{PIPESTATUS[0]}}"
        ended = subprocess.run(["bash", "-c", piped], cwd=ROOT, env=ours, capture_output=True, text=True, check=True)
        *_, status = ended.stdout.split()
        self.assertIn(status, ("141", "0"))
        self.assertNotIn("Traceback", ended.stderr)
        self.assertNotIn("BrokenPipe", ended.stderr)

    def test_without_a_team_it_says_what_to_run(self) -> None:
        with (
            mock.patch.object(Team.objects, "all", return_value=Team.objects.none()),
            mock.patch.object(Team.objects, "values_list", return_value=[]),
            self.assertRaisesRegex(CommandError, "bin/manage administrator NAME --team TEAM makes the first"),
        ):
            run("find", "beds: 3")


def _address_of(database: dict[str, str]) -> str:
    return f"postgresql://{database['USER']}:{quote(database['PASSWORD'])}@{database['HOST']}:{database['PORT']}/{database['NAME']}"
