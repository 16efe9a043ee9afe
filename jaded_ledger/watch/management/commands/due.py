"""What wants the team's attention in the days to come."""

from __future__ import annotations

import json
from dataclasses import asdict
from datetime import timedelta
from itertools import chain
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.plugins import hooks

_MOST_DAYS = 366


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Show what wants the team's attention from today on, day by day, such as auctions of properties on its lists."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--days", type=int, default=14, help=f"how far ahead, at most {_MOST_DAYS}; 0 is today alone")
        parser.add_argument("--team", help="whose (needed only where there are several teams)")
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, days: int, team: str | None, **options: Any) -> None:
        if not 0 <= days <= _MOST_DAYS:
            raise CommandError(f"--days {days} is not from 0 to {_MOST_DAYS}", returncode=2)
        try:
            scope = scope_of_command(team)
        except ScopeError as error:
            raise CommandError(str(error), returncode=2) from error
        until = scope.today + timedelta(days=days)
        entries = sorted(chain.from_iterable(hooks.due(scope=scope, until=until)), key=lambda entry: (entry.on, entry.what))
        if options["format"] == "json":
            self.stdout.write(json.dumps([asdict(entry) for entry in entries], default=str, indent=2))
            return
        for entry in entries:
            self.stdout.write(f"{day_text(entry.on):>12}  {entry.what}")
        if not entries:
            self.stdout.write(f"Nothing is due from today to {day_text(until)}.")
