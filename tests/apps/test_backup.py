"""The whole database to a file and back into an empty one, compared row by row."""

from __future__ import annotations

import io
import stat
import tempfile
from pathlib import Path

from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection

from jaded_ledger.records.backup import tables
from jaded_ledger.records.models import RollEntry
from tests.support.demo import DemoServerCase, empty_database, switched_to
from tests.support.tiers import thorough


def contents() -> dict[str, tuple[int, str]]:
    """Return for every table how many rows it has and a digest of all they say."""
    found = {}
    with connection.cursor() as cursor:
        for table in tables():
            cursor.execute(f"""SELECT count(*), md5(coalesce(string_agg(md5(t::text), '' ORDER BY t::text), '')) FROM "{table}" t""")
            found[table] = cursor.fetchone()
        # What a rule says is written anew when it is read back (a list of words gets casts), so it is told by name, table and kind.
        rule = "concat_ws(' ', conname, conrelid::regclass, contype, convalidated)"
        cursor.execute(f"SELECT md5(string_agg({rule}, '' ORDER BY {rule})) FROM pg_constraint")
        found["constraints"] = cursor.fetchone()
        cursor.execute("SELECT md5(string_agg(indexdef, '' ORDER BY indexname)) FROM pg_indexes WHERE schemaname = 'public'")
        found["indexes"] = cursor.fetchone()
        cursor.execute("SELECT md5(string_agg(sequencename || last_value, '' ORDER BY sequencename)) FROM pg_sequences")
        found["sequences"] = cursor.fetchone()
    return found


def databases() -> set[str]:
    with connection.cursor() as cursor:
        cursor.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [f"{connection.settings_dict['NAME']}%"])
        return {name for (name,) in cursor.fetchall()}


@thorough
class Backups(DemoServerCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name) / "ledger.backup"

    def run_command(self, *words: object) -> str:
        out = io.StringIO()
        call_command(*map(str, words), stdout=out)
        return out.getvalue()

    def test_there_and_back(self) -> None:
        before = contents()
        self.assertGreater(before["records_rollentry"][0], 12_000)
        self.assertIn("keep it safe", self.run_command("backup", self.file))
        self.assertEqual(stat.S_IMODE(self.file.stat().st_mode), 0o600)
        with self.assertRaisesRegex(CommandError, "is there already"):
            self.run_command("backup", self.file)
        with empty_database() as name, switched_to(name):
            self.assertEqual(tables(), [])
            self.assertIn("tables are back", self.run_command("restore", self.file))
            self.assertEqual(contents(), before)
            # It is a database to work with: what is looked up, what is refused, what the jobs need.
            self.assertEqual(self.client.get("/sign-in/").status_code, 200)
            with self.assertRaisesRegex(CommandError, "is not empty"):
                self.run_command("restore", self.file)

    def test_replacing_and_what_is_no_backup(self) -> None:
        self.run_command("backup", self.file)
        before = contents()
        RollEntry.objects.update(beds=None)
        changed = contents()
        self.assertNotEqual(changed, before)
        cut = self.file.with_name("cut.backup")
        cut.write_bytes(self.file.read_bytes()[: self.file.stat().st_size // 2])
        text = self.file.with_name("text.backup")
        text.write_text("no backup\n")
        for broken, said in ((cut, "end of file"), (text, "not appear to be a valid archive"), (Path("nowhere"), "is no file")):
            with self.assertRaisesRegex(CommandError, said):
                self.run_command("restore", "--replace", broken)
            self.assertEqual(contents(), changed)
        self.run_command("restore", "--replace", self.file)
        self.assertEqual(contents(), before)
        with self.assertRaisesRegex(CommandError, "can't be written|pg_dump"):
            self.run_command("backup", "/nowhere/at/all.backup")

    def test_a_folder_keeps_the_newest_and_one_is_rehearsed(self) -> None:
        folder = self.file.parent / "kept"
        with self.assertRaisesRegex(CommandError, "say where to"):
            self.run_command("backup")
        with self.assertRaisesRegex(CommandError, "at least one"):
            self.run_command("backup", "--into", folder, "--keep", 0)
        folder.mkdir()
        with self.assertRaisesRegex(CommandError, "holds no backup"):
            self.run_command("rehearse_restore", folder)
        older = [folder / f"ledger-2026-01-0{day}-000000.backup" for day in (1, 2)]
        other = folder / "mine.backup"
        for path in (*older, other):
            path.write_bytes(b"x")
        self.run_command("backup", "--into", folder, "--keep", 2)
        (newest,) = set(folder.iterdir()) - {*older, other}
        self.assertEqual([path.exists() for path in (*older, other, newest)], [False, True, True, True])
        names = databases()
        told = self.run_command("rehearse_restore", folder)
        parcels = contents()["records_parcel"][0]
        self.assertIn(f"{newest}: {len(tables())} tables came back", told)
        self.assertIn(f"{parcels:,} parcels", told)
        self.assertEqual(databases(), names, "what was brought back is thrown away")
        # One that is broken says so, and leaves nothing either.
        with self.assertRaisesRegex(CommandError, "pg_restore"):
            self.run_command("rehearse_restore", older[1])
        with connection.cursor() as cursor:
            cursor.execute("CREATE TABLE newer (id int)")
        with self.assertRaisesRegex(CommandError, "lacks 1 tables of the running database: newer"):
            self.run_command("rehearse_restore", newest)
        self.assertEqual(databases(), names)
