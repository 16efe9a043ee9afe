"""Print mailing labels for the matches of a search."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.core.mail.pieces import Addressing
from jaded_ledger.core.mail.sheets import SHEETS
from jaded_ledger.find.named_things import stored_text
from jaded_ledger.lists.staleness import stale_on
from jaded_ledger.outreach.criteria_argument import add_arguments, answer_from
from jaded_ledger.outreach.labels import make, plan


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Write the matches of a search as label sheets, and tell how many pieces there are, and who was left out and why."

    def add_arguments(self, parser: CommandParser) -> None:
        add_arguments(parser)
        parser.add_argument("--to", required=True, choices=[one.value for one in Addressing])
        parser.add_argument("--sheet", choices=sorted(SHEETS), default="letter-30")
        parser.add_argument("--start", type=int, default=1, metavar="N", help="the first free label of the first sheet, from 1")
        parser.add_argument(
            "--stale", action="store_true", help="also for those that passed to somebody else since they were put on a list that is asked"
        )
        parser.add_argument("--out", required=True, type=Path, metavar="FILE", help="the PDF to write")

    def handle(self, *args: Any, criteria: str, saved: str | None, ask: list[str], team: str | None, out: Path, **options: Any) -> None:
        sheet = SHEETS[options["sheet"]]
        if not 1 <= options["start"] <= sheet.count:
            raise CommandError(f"--start {options['start']}: {sheet.name} has labels 1 to {sheet.count}", returncode=2)
        answer = answer_from(criteria, ask, team, saved=saved)
        search, scope = answer.asked.search, answer.scope
        stale = {} if options["stale"] else stale_on(search, scope)
        run = plan(answer.matches, Addressing(options["to"]), sheet, options["start"], stale)
        self.stdout.write(f"{len(run.labels):,} pieces on {run.sheets:,} sheets, {len(run.refusals):,} left out")
        for reason, count in run.reasons:
            self.stdout.write(f"  {count:,}  {reason}")
        if not run.labels:
            self.stdout.write("Nothing to print; no file was written.")
            return
        try:
            # Opened first, so that a run that can't be kept is not logged as made.
            with out.open("wb") as handle:
                handle.write(make(run, scope, stored_text(search, scope.team)))
        except OSError as error:
            raise CommandError(f"{out} can't be written: {error.strerror}", returncode=2) from error
