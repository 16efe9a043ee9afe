"""Take in a file from the command line."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.services import IntakeError, take_in
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import County


class Command(BaseCommand):
    help = "Take in a file of records; rows that can't be read are refused and reported, all others go in."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE")
        parser.add_argument("--kind", required=True, choices=sorted(KINDS))
        parser.add_argument("--county", required=True, help="the county's name")
        parser.add_argument("--as-of", type=date.fromisoformat, help="the day the file speaks of (default: today)")
        parser.add_argument("--complete", action="store_true", help="the file holds everything of its kind in the county")

    def handle(self, *args: Any, file: Path, kind: str, county: str, **options: Any) -> None:
        found = County.objects.filter(name__iexact=county).first()
        if found is None:
            names = ", ".join(County.objects.values_list("name", flat=True)) or "none yet"
            raise CommandError(f"there is no county {county!r} on record (counties: {names})", returncode=2)
        try:
            taken = take_in(file, kind, found, as_of=options["as_of"] or today(), is_complete=options["complete"])
        except IntakeError as error:
            raise CommandError(str(error), returncode=2) from error
        self.stdout.write(
            f"{taken.name}: {taken.read:,} read, {taken.new:,} new, {taken.changed:,} changed, {taken.same:,} same, "
            f"{taken.refused:,} refused" + (f", {taken.gone:,} gone" if taken.gone else "")
        )
        for refusal in taken.refusals.order_by("line")[:20]:
            where = f", {refusal.column} {refusal.value!r}" if refusal.column else ""
            self.stdout.write(f"  line {refusal.line}{where}: {refusal.reason}")
        if taken.refused > 20:
            self.stdout.write(f"  … and {taken.refused - 20:,} more")
