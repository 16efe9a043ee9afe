"""A team's saved searches, and the starter searches."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db.models import Count, Max, Q

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.searches.services import searches_of
from jaded_ledger.searches.starters import STARTERS


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Show the saved searches, with how many parcels each found when it was last looked at and when somebody last opened it, "
        "and the starter searches. bin/manage find --saved NAME runs one."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--team", help="whose (needed only where there are several teams)")
        parser.add_argument("--format", choices=("table", "json"), default="table")

    def handle(self, *args: Any, team: str | None, **options: Any) -> None:
        try:
            scope = scope_of_command(team)
        except ScopeError as error:
            raise CommandError(str(error), returncode=2) from error
        found = searches_of(scope).annotate(found=Count("matches", filter=Q(matches__left_at=None)), opened=Max("openings__at"))
        rows = [
            {
                "name": one.name,
                "folder": one.folder,
                "owner": str(one.owner) if one.owner else None,
                "matches": one.found if one.reckoned else None,
                "last_opened": one.opened.isoformat(timespec="minutes") if one.opened else None,
                "is_starter": False,
            }
            for one in found
        ]
        rows += [
            {"name": one.name, "folder": one.purpose, "owner": None, "matches": None, "last_opened": None, "is_starter": True}
            for one in STARTERS
        ]
        if options["format"] == "json":
            self.stdout.write(json.dumps(rows, ensure_ascii=False))
            return
        table = [("name", "folder", "owner", "matches", "last opened")]
        table += [
            (
                str(row["name"]),
                str(row["folder"]),
                "starter" if row["is_starter"] else str(row["owner"] or ""),
                "" if row["matches"] is None else f"{row['matches']:,}",
                str(row["last_opened"] or ""),
            )
            for row in rows
        ]
        widths = [max(map(len, column)) for column in zip(*table, strict=True)]
        for line in table:
            cells = [
                text.rjust(width) if place == 3 else text.ljust(width) for place, (text, width) in enumerate(zip(line, widths, strict=True))
            ]
            self.stdout.write("  ".join(cells).rstrip())
