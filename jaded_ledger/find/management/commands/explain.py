"""How a parcel's value of a trait came about."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.find.explanations import Explained, NotDerivedError, explained
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Print the rule, the inputs and the recorded rows behind one figure of one parcel."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("parcel", metavar="PARCEL", help="a parcel number; county/number where it occurs in several counties")
        parser.add_argument("trait", metavar="TRAIT", help="a trait's key, such as equity-pct (bin/manage traits lists them)")
        parser.add_argument("--team", help="for which team, where there are several")
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, parcel: str, trait: str, team: str | None, **options: Any) -> None:
        asked = CATALOGUE.get(trait)
        if asked is None:
            nearest = CATALOGUE.nearest(trait)
            raise CommandError(f'"{trait}" is not a trait' + (f"; did you mean {nearest}?" if nearest else ""), returncode=2)
        try:
            found = explained(parcel_named(parcel), asked, scope_of_command(team))
        except (NoSuchParcelError, NotDerivedError, ScopeError) as error:
            raise CommandError(str(error), returncode=2) from error
        self.stdout.write(json.dumps(_as_json(found), ensure_ascii=False, indent=1) if options["format"] == "json" else _as_text(found))


def _as_json(found: Explained) -> dict[str, Any]:
    return {
        "trait": found.trait.key,
        "value": None if found.is_unknown else found.value,
        "rule": found.rule,
        "lines": [
            {
                "label": line.entry.label,
                "value": line.entry.text,
                "note": line.entry.note,
                "rows": [{"file": row.source_file.name, "line": row.source_line} for row in line.rows],
            }
            for line in found.lines
        ],
    }


def _as_text(found: Explained) -> str:
    width = max((len(line.entry.label) for line in found.lines), default=0)
    figures = max((len(line.entry.text) for line in found.lines), default=0)
    lines = [f"{found.trait.label}: {'not known' if found.is_unknown else found.value}", f"  {found.rule}", ""]
    for line in found.lines:
        rows = ", ".join(f"{row.source_file.name}:{row.source_line}" for row in line.rows)
        if line.entry.is_sum:
            lines.append(f"  {'':{width}}  {'─' * figures}")
        note = "  ".join(filter(None, (line.entry.note, f"[{rows}]" if rows else "")))
        lines.append(f"  {line.entry.label:{width}}  {line.entry.text:>{figures}}  {note}".rstrip())
    value = "" if found.is_unknown else found.value
    lines += [
        f"  {'':{width}}  {'─' * figures}",
        f"  {found.trait.label:{width}}  {value or 'not known':>{figures}}  {found.closing}".rstrip(),
    ]
    return "\n".join(lines)
