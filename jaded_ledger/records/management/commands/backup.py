"""Write the whole database to a file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.records.backup import BackupError, back_up, back_up_into


class Command(BaseCommand):
    help = "Write the whole database, as it stands at this moment, to a file. Work can go on meanwhile."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE", nargs="?")
        parser.add_argument("--into", type=Path, metavar="DIR", help="in the place of FILE: a file named by the moment, in a folder")
        parser.add_argument("--keep", type=int, default=14, metavar="N", help="how many of them stay in the folder (default 14)")

    def handle(self, *args: Any, file: Path | None, into: Path | None, keep: int, **options: Any) -> None:
        if (file is None) == (into is None):
            raise CommandError("say where to: a FILE, or a folder with --into DIR")
        if keep < 1:
            raise CommandError("at least one backup stays: --keep 1 or more")
        try:
            if into is not None:
                file = back_up_into(into, keep)
            else:
                assert file is not None  # one of both is named
                back_up(file)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{file}: {file.stat().st_size / 1e6:,.1f} MB. It holds owners' addresses and telephone numbers; keep it safe.")
