"""Ask a search from the command line. It stands here, not in the find app, because it can also write the contact file."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.template.defaultfilters import pluralize

from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.search import AnyOf, Line
from jaded_ledger.core.criteria.text import CriteriaError, line_text
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import stored_text
from jaded_ledger.find.results import rows
from jaded_ledger.find.sorting import sorts_from, sorts_text
from jaded_ledger.outreach import contact_file
from jaded_ledger.outreach.contact_file import FileLayout, Per
from jaded_ledger.outreach.criteria_argument import add_arguments, answer_from
from jaded_ledger.outreach.do_not_contact import may_be_contacted


def _one_line(line: Line) -> str:
    """Return a ledger line's text; a group's members stand behind its colon."""
    if isinstance(line, AnyOf):
        members = " | ".join(line_text(member) for member in line.criteria)
        return f"{'~ ' if line.struck else ''}any of: {members}"
    return line_text(line)


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
        parser.add_argument("--count", action="store_true", help="how many parcels match, of how many owners")
        parser.add_argument("--balance", action="store_true", help="the running balance, line by line")
        parser.add_argument("--as-table", action="store_true", help="the rows, with the search’s columns")
        parser.add_argument("--csv", metavar="FILE", help="write the matches to a file (- for standard output)")
        parser.add_argument("--columns", metavar="KEY,KEY,…", help="traits and contact columns of the file; its header has the keys")
        parser.add_argument("--sort", default="", metavar="KEY,KEY,…", help="traits to sort by, --sort=-KEY for largest first")
        parser.add_argument("--per", choices=[one.value for one in Per], default=Per.PARCEL.value, help="what each row of the file is for")
        parser.add_argument("--column-per-list", action="store_true", help="a column of yes and no for each of the team's lists")
        parser.add_argument("--reading-case", action="store_true", help="names and addresses in the case people read, not in capitals")
        parser.add_argument("--bom", action="store_true", help="begin the file with a byte-order mark")
        parser.add_argument("--format", choices=("text", "json"), default="text")

    def handle(self, *args: Any, criteria: str, saved: str | None, ask: list[str], team: str | None, **options: Any) -> None:
        try:
            columns = contact_file.columns_from(options["columns"]) if options["columns"] is not None else None
            sort = sorts_text(sorts_from(options["sort"]))
        except CriteriaError as error:
            raise CommandError(str(error), returncode=2) from error
        if columns == ():
            raise CommandError("--columns names no trait", returncode=2)
        answer = answer_from(criteria, ask, team, saved=saved, sort=sort)
        as_json = options["format"] == "json"
        if options["csv"]:
            layout = FileLayout(
                columns or contact_file.DEFAULT_COLUMNS, Per(options["per"]), options["column_per_list"], bom=options["bom"],
                reading_case=options["reading_case"],
                keys=columns is not None,
            )  # fmt: skip
            self._write_file(answer, layout, options["csv"])
        if options["balance"]:
            self._show_balance(answer, as_json)
        if options["as_table"]:
            self._show_rows(answer, as_json)
        if options["count"] or not (options["csv"] or options["balance"] or options["as_table"]):
            self._show_count(answer, as_json)

    def _write_file(self, answer: Answer, layout: FileLayout, path: str) -> None:
        asked, scope = answer.asked, answer.scope
        may = may_be_contacted(answer.matches, scope)
        if refused := answer.matches.count() - may.count():
            self.stderr.write(f"{refused:,} left out: {Reason.DO_NOT_MAIL.words}")
        if layout.per is Per.OWNER:
            self.stderr.write(f"{contact_file.saved_by_owner(may):,} rows saved by one row an owner")
        rows = contact_file.start(answer.matches, layout, asked.sort, scope, stored_text(asked.search, scope.team))
        if path == "-":
            self.stdout.writelines(rows)
            return
        try:
            with open(path, "w", encoding="utf-8", newline="") as handle:
                handle.writelines(rows)
        except OSError as error:
            raise CommandError(f"{path} can't be written: {error.strerror}", returncode=2) from error

    def _show_rows(self, answer: Answer, as_json: bool) -> None:
        found = rows(answer.matches, answer.columns, answer.asked.sort, 1, size=answer.balance.matches)
        if as_json:
            told = [{"address": row.address, "number": row.number} | {cell.trait: cell.text for cell in row.cells} for row in found]
            self.stdout.write(json.dumps(told, ensure_ascii=False))
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
