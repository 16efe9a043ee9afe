"""See whether a backup can be brought back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.records.backup import BackupError, backups_in, rehearse


class Command(BaseCommand):
    help = "Bring a backup back into a database beside the running one, count what is in it, and throw that away."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE", help="a backup, or a folder of them: the newest is taken")

    def handle(self, *args: Any, file: Path, **options: Any) -> None:
        if file.is_dir():
            found = backups_in(file)
            if not found:
                raise CommandError(f"{file} holds no backup.")
            file = found[0]
        try:
            done = rehearse(file)
        except BackupError as error:
            raise CommandError(str(error)) from error
        if done.missing:
            raise CommandError(f"{file} lacks {len(done.missing)} tables of the running database: {', '.join(done.missing)[:400]}.")
        rows, parcels = sum(done.rows.values()), done.rows["records_parcel"]
        self.stdout.write(f"{file}: {len(done.rows)} tables came back, {rows:,} rows, {parcels:,} parcels.")
