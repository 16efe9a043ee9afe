"""Cases for files: written to a folder of their own and imported."""

from __future__ import annotations

import io
import tempfile
from datetime import date
from pathlib import Path

from django.core.management import call_command
from django.test import TestCase

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import scope_of_command
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.intake.services import IntakeOptions, take_in
from jaded_ledger.records.models import County, SourceFile
from tests.support.demo import DemoTestCase

DAY = date(2026, 11, 22)


class FileCase(DemoTestCase):
    def setUp(self) -> None:
        self.county = County.objects.get(name="Tamarack")
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def written(self, name: str, content: bytes | str) -> Path:
        path = self.folder / name
        path.write_bytes(content.encode() if isinstance(content, str) else content)
        return path

    def take(self, kind: str, path: Path, *, is_complete: bool = False) -> SourceFile:
        return take_in(path, IntakeOptions(kind, self.county, DAY, is_complete=is_complete))

    def reasons(self, file: SourceFile) -> dict[int, str]:
        return {refusal.line: f"{refusal.column}: {refusal.reason}" for refusal in file.refusals.all()}


class FilesCase(TestCase):
    """Files that the command imports into a database without a county."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        team = Team.objects.create(name="Lantern Street Realty")
        self.user = User.objects.create_user("nora", password="x", team=team, is_staff=True)

    def intake(self, text: str, *words: str, name: str = "file.csv") -> str:
        """Take in a file by the command; return all it says."""
        path = self.folder / name
        path.write_text(text)
        out, told = io.StringIO(), io.StringIO()
        call_command("intake", str(path), *words, stdout=out, stderr=told)
        return told.getvalue() + out.getvalue()

    def numbers(self, search: str) -> list[str]:
        found = compile(parse(search), scope_of_command()).matches
        return sorted(found.values_list("parcel__number", flat=True))
