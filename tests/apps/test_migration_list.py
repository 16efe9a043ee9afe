"""The list of applied migrations: an edit and a deletion are found, a squash is let through."""

from __future__ import annotations

import contextlib
import importlib.util
import io
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
_spec = importlib.util.spec_from_file_location("migration_list", ROOT / "setup" / "migrations.py")
assert _spec is not None
assert _spec.loader is not None
migration_list = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(migration_list)


class MigrationList(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        self.folder = self.root / "jaded_ledger" / "lists" / "migrations"
        self.folder.mkdir(parents=True)
        (self.root / "setup").mkdir()
        self.write("0001_initial", "operations = [1]")
        migration_list.add(self.root)

    def write(self, name: str, text: str) -> None:
        (self.folder / f"{name}.py").write_text(text)

    def test_what_is_unchanged_passes(self) -> None:
        self.assertEqual(migration_list.faults(self.root), [])
        self.assertEqual(migration_list.faults(ROOT), [])

    def test_an_edit_is_found_and_add_does_not_hide_it(self) -> None:
        self.write("0001_initial", "operations = [2]")
        migration_list.add(self.root)
        self.assertRegex(migration_list.faults(self.root)[0], "0001_initial.py was edited.*write a new migration")
        with contextlib.redirect_stderr(io.StringIO()):
            self.assertEqual(migration_list.main(["check", str(self.root)]), 1)

    def test_a_new_one_is_to_be_added(self) -> None:
        self.write("0002_more", "operations = []")
        self.assertRegex(migration_list.faults(self.root)[0], "0002_more.py is not in setup/migrations.sha256")
        migration_list.add(self.root)
        self.assertEqual(migration_list.faults(self.root), [])

    def test_one_may_be_deleted_for_a_squash_alone(self) -> None:
        (self.folder / "0001_initial.py").unlink()
        self.assertRegex(migration_list.faults(self.root)[0], "0001_initial.py was deleted")
        self.write("0001_squashed", 'replaces = [("lists", "0001_initial")]')
        migration_list.add(self.root)
        self.assertEqual(migration_list.faults(self.root), [])
        self.assertEqual(list(migration_list.listed(self.root)), ["jaded_ledger/lists/migrations/0001_squashed.py"])
