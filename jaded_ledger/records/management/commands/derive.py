"""Derive the searchable facts again."""

from __future__ import annotations

import time
from contextlib import nullcontext
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from jaded_ledger.records.bulk import wait_for_turn
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import AreaFigures, County, Parcel, ParcelFacts, ParcelSale
from jaded_ledger.records.other_processes import other_processes
from jaded_ledger.records.own_columns import find_columns

_MANY = 10_000
"""From so many parcels other processes have more to do than it takes to start them."""


class Command(BaseCommand):
    help = "Derive every parcel's searchable facts from what is recorded; only what changed is written."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--all", action="store_true", help="throw away first all that is derived and build it anew")
        parser.add_argument("--county", help="only this county")
        parser.add_argument("--missing", action="store_true", help="only counties some of whose parcels have no facts yet")

    def handle(self, *args: Any, **options: Any) -> None:
        named = options["county"]
        counties = County.objects.filter(name__iexact=named) if named else County.objects.order_by("name")
        if named and not counties:
            raise CommandError(
                f"no county {named!r}; on record are {', '.join(County.objects.values_list('name', flat=True))}", returncode=2
            )
        for county in counties:
            started = time.monotonic()
            parcels = list(Parcel.objects.filter(county=county, retired_on=None).values_list("id", flat=True))
            if options["missing"] and ParcelFacts.objects.filter(county=county).count() >= len(parcels):
                continue
            # Searches see the facts of before until the county's are complete.
            with transaction.atomic(), other_processes(2) if len(parcels) >= _MANY else nullcontext() as processes:
                wait_for_turn()
                if options["all"]:
                    ParcelFacts.objects.filter(county=county).delete()
                    ParcelSale.objects.filter(county=county).delete()
                    AreaFigures.objects.filter(area__county=county).delete()
                else:
                    ParcelFacts.objects.filter(county=county, parcel__retired_on__isnull=False).delete()
                find_columns(county)
                written = derive(parcels, [county], processes)[county.pk]
                measure_fill(county)
            seconds = time.monotonic() - started
            self.stdout.write(f"{county.name}: {len(parcels):,} parcels, {written:,} written, {seconds:.1f} s")
