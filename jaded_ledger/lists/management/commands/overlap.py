"""How lists overlap."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.core.stacking.overlap import MOST_LISTS, Counting, Order, combinations_of, in_order
from jaded_ledger.core.words import folded
from jaded_ledger.lists.counts import exactly, lists_of


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Show every combination of some lists that occurs, with how many parcels are on exactly these."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("lists", nargs="*", metavar="LIST", help=f"the lists by name, at most {MOST_LISTS}; all without a name")
        parser.add_argument("--at-least", action="store_true", help="count those that are on these and maybe others too")
        parser.add_argument("--team", help="whose (needed only where there are several teams)")
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, lists: list[str], team: str | None, **options: Any) -> None:
        try:
            every = {parcel_list.folded: parcel_list for parcel_list in lists_of(scope_of_command(team).team)}
        except ScopeError as error:
            raise CommandError(str(error), returncode=2) from error
        for name in lists:
            if folded(name) not in every:
                known = ", ".join(one.name for one in every.values()) or "none yet"
                raise CommandError(f"there is no list “{name}” (lists: {known})", returncode=2)
        chosen = [every[key] for key in dict.fromkeys(folded(name) for name in lists)] or list(every.values())
        if len(chosen) > MOST_LISTS:
            raise CommandError(f"{len(chosen)} lists are too many at once; name at most {MOST_LISTS}", returncode=2)
        counting = Counting.AT_LEAST if options["at_least"] else Counting.EXACTLY
        found = in_order(combinations_of(exactly(chosen), len(chosen), counting), Order.SIZE)
        if options["format"] == "json":
            rows = [{"lists": [chosen[place].name for place in one.lists], "count": one.count} for one in found]
            self.stdout.write(json.dumps(rows, ensure_ascii=False))
            return
        for one in found:
            self.stdout.write(f"{one.count:>9,}  {' + '.join(chosen[place].name for place in one.lists)}")
