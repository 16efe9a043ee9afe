"""Let the demo world go on by a day or more."""

from __future__ import annotations

import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.demo.day import NoWorldError, advance
from jaded_ledger.records.clock import today


class Command(BaseCommand):
    help = "Let a day pass in the demo: new listings, cuts, sales, filings, payments, a late correction, taken in as files."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--days", type=int, default=1, help="how many (default: 1)")
        parser.add_argument("--keep", type=Path, metavar="DIR", help="keep the files that were taken in")

    def handle(self, *args: Any, days: int, keep: Path | None, **options: Any) -> None:
        if days < 1:
            raise CommandError("--days is a number of days, at least 1")
        for _ in range(days):
            with tempfile.TemporaryDirectory() as passing:
                folder = keep or Path(passing)
                folder.mkdir(parents=True, exist_ok=True)
                self._day(folder)

    def _day(self, folder: Path) -> None:
        counts: Counter[str] = Counter()
        try:
            for file in advance(folder):
                counts[file.kind] += file.new + file.changed
                if file.refused:
                    self.stderr.write(f"{file.name}: {file.refused} refused")
        except NoWorldError as error:
            raise CommandError(str(error)) from error
        counted = ", ".join(f"{count} {kind}" for kind, count in counts.items() if count)
        self.stdout.write(f"{today():%d %b %Y}: {counted or 'nothing happened'}")
