"""Write the demo world's files to a folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from jaded_ledger.demo import files
from jaded_ledger.demo.world import PARCELS, counties


class Command(BaseCommand):
    help = "Write the demo world as the files that intake reads, in a folder for each county."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path, metavar="DIR")
        parser.add_argument("--parcels", type=int, default=PARCELS, help=f"how large a world (default {PARCELS:,})")

    def handle(self, *args: Any, folder: Path, parcels: int, **options: Any) -> None:
        for county in counties():
            files.write_county(folder, county.key, county.parcels_of(parcels))
            found = sorted(path.name for path in (folder / county.key).iterdir())
            self.stdout.write(f"{county.name} County, {county.parcels_of(parcels):,} parcels, in {folder / county.key}: {', '.join(found)}")
