"""Fill the database from a backup."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.records.backup import BackupError, restore, tables


class Command(BaseCommand):
    help = "Fill an empty database from a backup, all of it or nothing."
    # The database may be quite empty.
    requires_system_checks: list[str] = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE")
        parser.add_argument("--replace", action="store_true", help="throw away what is in the database")

    def handle(self, *args: Any, file: Path, replace: bool, **options: Any) -> None:
        try:
            restore(file, may_replace=replace)
        except BackupError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{len(tables())} tables are back. bin/start brings them up to date where the backup is of an earlier version.")
