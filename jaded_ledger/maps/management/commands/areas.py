"""A team's areas: shown, taken in from a file, and written as GeoJSON."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.maps.area_files import bring_areas
from jaded_ledger.maps.areas import areas_of
from jaded_ledger.maps.asked_shapes import features_of_areas
from jaded_ledger.maps.messages import AreaError
from jaded_ledger.maps.sizes import size_words
from jaded_ledger.records.models import ParcelFacts


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Show the areas that a team drew, with their sizes and how many parcels lie in each. "
        "bin/manage find 'in-area: \"NAME\"' searches one."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--team", help="whose (needed only where there are several teams)")
        parser.add_argument("--take", metavar="FILE", help="first take in the areas of a GeoJSON file or a zipped Shapefile")
        parser.add_argument("--format", choices=("table", "geojson"), default="table")

    def handle(self, *args: Any, team: str | None, take: str | None, **options: Any) -> None:
        try:
            scope = scope_of_command(team)
            if take:
                path = Path(take)
                if not path.is_file():
                    raise AreaError(f"there is no file {take}")
                brought = bring_areas(path, path.stem[:60], scope)
                self.stdout.write(f"Taken in: {', '.join(brought.kept) or 'none'}")
                for refused in brought.refused:
                    self.stderr.write(f"Not taken in: {refused}")
        except (ScopeError, AreaError) as error:
            raise CommandError(str(error), returncode=2) from error
        areas = list(areas_of(scope.team))
        if options["format"] == "geojson":
            self.stdout.write(json.dumps(features_of_areas(areas), ensure_ascii=False))
            return
        width = max((len(area.name) for area in areas), default=0)
        for area in areas:
            parcels = ParcelFacts.objects.filter(place__coveredby=area.geometry).count()
            self.stdout.write(f"{area.name.ljust(width)}  {size_words(area.square_meters):>12}  {parcels:,} parcels")  # type: ignore[attr-defined]
