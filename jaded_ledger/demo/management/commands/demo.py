"""Load the demo, unless it is loaded."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.demo import files, people
from jaded_ledger.demo.town import PARCELS_PER_TOWN
from jaded_ledger.intake.services import record
from jaded_ledger.records.derivation import derive, measure_fill
from jaded_ledger.records.models import County, Parcel, World


class Command(BaseCommand):
    help = "Write the demo county as files and take them in. An interrupted load is simply run again."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--parcels", type=int, default=PARCELS_PER_TOWN, help="how large a county (default 7,200)")

    def handle(self, *args: Any, parcels: int, **options: Any) -> None:
        world, _ = World.objects.get_or_create(id=1, defaults={"today": files.TODAY})
        if world.is_complete:
            return
        self._people()
        started = time.monotonic()
        county, _ = County.objects.get_or_create(fips=files.TAMARACK["fips"], defaults=files.TAMARACK)
        self.stdout.write(f"Loading the demo: {county} County, {parcels:,} parcels…")
        with tempfile.TemporaryDirectory() as folder:
            files.write_county(Path(folder), parcels)
            for kind, name in (("parcels", "parcels.geojson"), ("roll", "roll.csv"), ("deeds", "deeds.csv")):
                file, _ = record(Path(folder) / name, kind, county, as_of=files.RECORDED_THROUGH, is_complete=kind != "deeds")
                self.stdout.write(f"  {name}: {file.read:,} read, {file.refused:,} refused")
        # Once for all three files, and for all parcels: an interrupted load may have recorded some without deriving.
        derive(Parcel.objects.filter(county=county, retired_on=None).values_list("id", flat=True))
        measure_fill(county)
        world.is_complete = True
        world.save()
        self.stdout.write(f"  {time.monotonic() - started:.0f} s")

    def _people(self) -> None:
        team, _ = Team.objects.get_or_create(name=people.TEAM)
        if not User.objects.filter(username=people.USER).exists():
            User.objects.create_user(
                people.USER, f"{people.USER}@example.com", people.PASSWORD,
                first_name="Nora", team=team, role=User.Role.OWNER, is_staff=True,
            )  # fmt: skip
