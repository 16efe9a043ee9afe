"""The files of the installation's own map: a background under the parcels, and elevations."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.maps.map_files import bring_map_file, remove_map_file
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.records.models import MapFile


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Bring a picture of the ground (GeoTIFF, PMTiles) or its elevations (GeoTIFF, in meters) for the map; without a file show them."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", nargs="?", metavar="FILE")
        parser.add_argument("--elevation", action="store_true", help="the file tells heights; parcels get theirs, and their slope")
        parser.add_argument("--name", default="", help="what it is called (the file's name)")
        parser.add_argument("--credit", default="", help="whom the map names for it")
        parser.add_argument("--remove", metavar="NUMBER", type=int, help="take one out again")

    def handle(self, *args: Any, file: str | None, remove: int | None, **options: Any) -> None:
        try:
            if remove is not None:
                found = MapFile.objects.filter(pk=remove, removed_at=None).first()
                if found is None:
                    raise AreaError(f"there is no file {remove}")
                remove_map_file(found)
            if file:
                path = Path(file)
                if not path.is_file():
                    raise AreaError(f"there is no file {file}")
                bring_map_file(path, options["name"] or path.stem, options["credit"], None, is_elevation=options["elevation"])
        except AreaError as error:
            raise CommandError(str(error), returncode=2) from error
        for one in MapFile.objects.filter(removed_at=None):
            west, south, east, north = one.bounds.extent
            self.stdout.write(f"{one.pk:>4}  {one.get_kind_display()}  {one.name}  {south:.3f}, {west:.3f} to {north:.3f}, {east:.3f}")
