"""A team's lists, with how many parcels are on each."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.lists.counts import counted


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Show the lists: name, type, how many parcels are on each and how many of those are stale."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--team", help="whose (needed only where there are several teams)")
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, team: str | None, **options: Any) -> None:
        try:
            found = counted(scope_of_command(team).team)
        except ScopeError as error:
            raise CommandError(str(error), returncode=2) from error
        if options["format"] == "json":
            rows = [{"name": one.list.name, "type": one.list.type, "count": one.count, "stale": one.stale} for one in found]
            self.stdout.write(json.dumps(rows, ensure_ascii=False))
            return
        width = max((len(one.list.name) for one in found), default=0)
        for one in found:
            self.stdout.write(f"{one.list.name:{width}}  {one.list.type:<11}  {one.count:>9,}  {one.stale:>7,} stale")
        if not found:
            self.stdout.write("no lists yet")
