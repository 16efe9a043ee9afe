"""Write the demo county's files to a folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from jaded_ledger.demo import files
from jaded_ledger.demo.town import PARCELS_PER_TOWN


class Command(BaseCommand):
    help = "Write the demo county as the files that intake reads: parcels.geojson, roll.csv, deeds.csv."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path, metavar="DIR")
        parser.add_argument("--parcels", type=int, default=PARCELS_PER_TOWN, help="how large a county (default 7,200)")

    def handle(self, *args: Any, folder: Path, parcels: int, **options: Any) -> None:
        files.write_county(folder, parcels)
        self.stdout.write(f"{files.TAMARACK['name']} County, {parcels:,} parcels, in {folder}")
