"""Ask a search from the command line. What else is done with its matches, apps add (``find_outputs``)."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.template.defaultfilters import pluralize

from jaded_ledger.accounts.scope import ScopeError, scope_of_command
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Line
from jaded_ledger.core.criteria.text import CriteriaError, line_text
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.criteria_argument import add_arguments, answer_from
from jaded_ledger.find.results import rows
from jaded_ledger.find.said import explained, reading_of
from jaded_ledger.find.sorting import sorts_from, sorts_text
from jaded_ledger.plugins import hooks
from jaded_ledger.plugins.entries import FindOutput
from jaded_ledger.records.models import County


def _one_line(line: Line) -> str:
    """Return a ledger line's text; a group's members stand behind its colon."""
    if isinstance(line, AnyOf):
        members = " | ".join(line_text(member) for member in line.criteria)
        return f"{'~ ' if line.struck else ''}any of: {members}"
    return line_text(line)


def _outputs() -> list[FindOutput]:
    return [one for given in hooks.find_outputs() for one in given]


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Ask a search: --count (the default) tells parcels and owners, --balance what each line takes off, "
        "--csv writes the contact file, but for owners who asked not to be contacted. "
        "if_struck is how many more parcels there would be without that line alone."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        add_arguments(parser)
        parser.add_argument("--explain", action="store_true", help="with --say, how each part of the sentence is read; nothing is asked")
        parser.add_argument("--count", action="store_true", help="how many parcels match, of how many owners")
        parser.add_argument("--balance", action="store_true", help="the running balance, line by line")
        parser.add_argument("--as-table", action="store_true", help="the rows, with the search’s columns")
        parser.add_argument("--sort", default="", metavar="KEY,KEY,…", help="traits to sort by, --sort=-KEY for largest first")
        for output in _outputs():
            output.add_arguments(parser)
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, criteria: str, saved: str | None, ask: list[str], team: str | None, **options: Any) -> None:
        try:
            writers = [write for output in _outputs() if (write := output.asked({**options, "command": self}))]
            sort = sorts_text(sorts_from(options["sort"]))
        except CriteriaError as error:
            raise CommandError(str(error), returncode=2) from error
        if options["explain"]:
            self._explain(options["say"], team, as_json=options["format"] == "json")
            return
        answer = answer_from(criteria, ask, team, saved=saved, said=options["say"], sort=sort)
        as_json = options["format"] == "json"
        for write in writers:
            write(answer)
        if options["balance"]:
            self._show_balance(answer, as_json)
        if options["as_table"]:
            self._show_rows(answer, as_json)
        if options["count"] or not (writers or options["balance"] or options["as_table"]):
            self._show_count(answer, as_json)

    def _explain(self, sentence: str | None, team: str | None, *, as_json: bool) -> None:
        if sentence is None:
            raise CommandError("--explain tells how --say is read", returncode=2)
        counties = list(County.objects.order_by("name"))
        try:
            reading = reading_of(sentence, counties, scope_of_command(team))
        except ScopeError as error:
            raise CommandError(str(error), returncode=2) from error
        if as_json:
            self.stdout.write(json.dumps(asdict(reading), ensure_ascii=False))
            return
        self.stdout.write("\n".join(explained(reading)) or "nothing of it means anything")

    def _show_rows(self, answer: Answer, as_json: bool) -> None:
        found = rows(answer.matches, answer.columns, answer.asked.sort, 1, size=answer.balance.matches)
        if as_json:
            named = [{"address": row.address, "number": row.number} | {cell.trait: cell.text for cell in row.cells} for row in found]
            self.stdout.write(json.dumps(named, ensure_ascii=False))
            return
        heads = ("property", "number", *(CATALOGUE[key].label for key in answer.columns))
        table = [(row.address, row.number, *(cell.text for cell in row.cells)) for row in found]
        figures = (False, False, *(CATALOGUE[key].is_figure for key in answer.columns))
        widths = [max(map(len, column)) for column in zip(heads, *table, strict=True)]
        for line in (heads, *table):
            cells = [
                text.rjust(width) if is_figure else text.ljust(width) for text, width, is_figure in zip(line, widths, figures, strict=True)
            ]
            self.stdout.write("  ".join(cells).rstrip())

    def _show_count(self, answer: Answer, as_json: bool) -> None:
        parcels, owners = answer.matches.count(), answer.owners
        if as_json:
            self.stdout.write(json.dumps({"parcels": parcels, "owners": owners}))
        else:
            self.stdout.write(f"{parcels:,} parcel{pluralize(parcels)}, {owners:,} owner{pluralize(owners)}")

    def _show_balance(self, answer: Answer, as_json: bool) -> None:
        found = answer.balance
        pairs = list(zip(answer.asked.search.lines, found.lines, strict=True))
        if as_json:
            lines = [
                {
                    "criterion": _one_line(line),
                    "removed": figures.removed,
                    "unknown": figures.unknown,
                    "balance": figures.balance,
                    "if_struck": figures.if_struck,
                }
                for line, figures in pairs
            ]
            self.stdout.write(json.dumps({"opening": found.opening, "lines": lines, "matches": found.matches}, ensure_ascii=False))
            return
        width = max([len(_one_line(line)) for line, _ in pairs] + [len("opening")])
        self.stdout.write(f"{'':{width}}  {'removed':>10}  {'unknown':>10}  {'balance':>10}  {'without it':>10}")
        self.stdout.write(f"{'opening':{width}}  {'':>10}  {'':>10}  {found.opening:>10,}")
        for line, figures in pairs:
            without = "off" if figures.if_struck is None else f"+{figures.if_struck:,}"
            self.stdout.write(
                f"{_one_line(line):{width}}  {figures.removed:>10,}  {figures.unknown:>10,}  {figures.balance:>10,}  {without:>10}"
            )
        self.stdout.write(f"{'matches':{width}}  {'':>10}  {'':>10}  {found.matches:>10,}")
