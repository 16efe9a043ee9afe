"""Write the whole database to a file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.records.backup import BackupError, back_up


class Command(BaseCommand):
    help = "Write the whole database, as it stands at this moment, to a file. Work can go on meanwhile."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE")

    def handle(self, *args: Any, file: Path, **options: Any) -> None:
        try:
            back_up(file)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{file}: {file.stat().st_size / 1e6:,.1f} MB. It holds owners' addresses and telephone numbers; keep it safe.")
