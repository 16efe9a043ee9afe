"""Load the demo, unless it is loaded."""

from __future__ import annotations

import shutil
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core.cache import caches
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.models import Model
from psycopg import sql

from jaded_ledger.accounts.models import AreaGrade, Team, User
from jaded_ledger.contacts.models import MailSettings
from jaded_ledger.demo import files, people, world
from jaded_ledger.demo.areas import make_areas
from jaded_ledger.demo.deals import make_deals
from jaded_ledger.demo.lists import make_lists
from jaded_ledger.demo.loading import FIRST, NAMED, NAMELESS, take
from jaded_ledger.lists.models import Activity, Tag
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import Area, County, Parcel, World
from jaded_ledger.records.other_processes import in_database, other_processes

GRADES = {"Harbour Front": "A", "Gull Park": "A", "Quarry Heights": "B", "Harbour Wards": "C", "Weavers Hill": "C", "Mill Side": "D"}


class Command(BaseCommand):
    help = "Write the demo world as files and take them in. An interrupted load is simply run again."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--anew", action="store_true", help="first throw away every record in this database, and all lists")
        parser.add_argument("--parcels", type=int, default=world.PARCELS, help=f"how large a world (default {world.PARCELS:,})")

    def handle(self, *args: Any, parcels: int, anew: bool, **options: Any) -> None:
        if anew:
            self._throw_away()
        kept, _ = World.objects.get_or_create(id=1, defaults={"today": world.TODAY})
        if kept.is_complete:
            if County.objects.count() < len(world.counties()):
                self.stdout.write(
                    "The demo on record is of an earlier edition. bin/manage demo --anew replaces all records with this one’s."
                )
            team = self._people()
            make_lists(team, kept.today)
            make_areas(team, kept.today)
            make_deals(team, kept.today)
            return
        team = self._people()
        started = time.monotonic()
        for county in world.counties():
            County.objects.get_or_create(fips=county.fips, defaults=county.row)
        # The smallest first: its files are soon written, and the others' are while it is taken in.
        waiting = sorted(world.counties(), key=lambda county: county.share)
        with tempfile.TemporaryDirectory() as folder, other_processes(1) as writer, other_processes(1) as second:
            written = [writer.submit(files.write_county, Path(folder), county.key, county.parcels_of(parcels)) for county in waiting]
            for county, writing in zip(waiting, written, strict=True):
                self.stdout.write(f"Loading the demo: {county.name} County, {county.parcels_of(parcels):,} parcels…")
                writing.result()
                self._load(county, Path(folder) / county.key, second, options["verbosity"])
                shutil.rmtree(Path(folder) / county.key)
        self._derive()
        for area in Area.objects.filter(kind=Area.AreaKind.NEIGHBORHOOD, text__in=GRADES):
            AreaGrade.objects.get_or_create(team=team, area=area, defaults={"grade": GRADES[area.text]})
        make_lists(team, kept.today)
        make_areas(team, kept.today)
        make_deals(team, kept.today)
        kept.is_complete = True
        kept.save()
        self.stdout.write(f"  {time.monotonic() - started:.0f} s")

    def _load(self, county: world.County, folder: Path, second: ProcessPoolExecutor, verbosity: int) -> None:
        taken = take(folder, county.key, FIRST)
        beside = second.submit(in_database, str(connection.settings_dict["NAME"]), take, folder, county.key, NAMELESS)
        taken += take(folder, county.key, NAMED)
        taken += beside.result()
        for line in taken.lines if verbosity > 1 else ():
            self.stdout.write(line)
        self.stdout.write(f"  {taken.read:,} rows read, {taken.refused:,} refused")

    def _derive(self) -> None:
        """Derive once for all files and counties: how far an owner lives is told by what another county has on record."""
        self.stdout.write("Deriving what follows from the records…")
        with other_processes(2) as processes:
            for county in County.objects.order_by("name"):
                derive(Parcel.objects.filter(county=county, retired_on=None).values_list("id", flat=True), [county], processes)
                measure_fill(county)

    def _throw_away(self) -> None:
        """Throw away the records, and with them the lists, tags and stages: they speak of parcels that are gone."""
        models: list[type[Model]] = [*apps.get_app_config("records").get_models(), Activity, Tag]
        tables = [sql.Identifier(model._meta.db_table) for model in models]
        with connection.cursor() as cursor:
            cursor.execute(sql.SQL("TRUNCATE {} CASCADE").format(sql.SQL(", ").join(tables)))
        # Facts are numbered from the beginning again: what was counted under the same numbers speaks of others.
        caches["tallies"].clear()

    def _people(self) -> Team:
        team, _ = Team.objects.get_or_create(name=people.TEAM, defaults=people.SIGNATURE)
        if not User.objects.filter(username=people.USER).exists():
            User.objects.create_user(
                people.USER, f"{people.USER}@example.com", people.PASSWORD,
                first_name="Nora", team=team, role=User.Role.OWNER, is_staff=True,
            )  # fmt: skip
        MailSettings.objects.get_or_create(team=team, defaults={"sender": people.RETURN_ADDRESS})
        return team
