"""The contact file of a search's matches, from the command line: ``bin/manage find … --csv FILE``."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.contacts import contact_file
from jaded_ledger.contacts.contact_file import FileLayout, Per
from jaded_ledger.contacts.do_not_contact import may_be_contacted
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.named_things import stored_text


class ContactFileOutput:
    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--csv", metavar="FILE", help="write the matches to a file (- for standard output)")
        parser.add_argument("--columns", metavar="KEY,KEY,…", help="traits and contact columns of the file; its header has the keys")
        parser.add_argument("--per", choices=[one.value for one in Per], default=Per.PARCEL.value, help="what each row of the file is for")
        parser.add_argument("--column-per-list", action="store_true", help="a column of yes and no for each of the team's lists")
        parser.add_argument("--reading-case", action="store_true", help="names and addresses in the case people read, not in capitals")
        parser.add_argument("--bom", action="store_true", help="begin the file with a byte-order mark")

    def asked(self, options: Mapping[str, Any]) -> Callable[[Answer], None] | None:
        columns = contact_file.columns_from(options["columns"]) if options["columns"] is not None else None
        if columns == ():
            raise CommandError("--columns names no trait", returncode=2)
        if not options["csv"]:
            return None
        layout = FileLayout(
            columns or contact_file.DEFAULT_COLUMNS, Per(options["per"]), options["column_per_list"], bom=options["bom"],
            reading_case=options["reading_case"],
            keys=columns is not None,
        )  # fmt: skip
        return lambda answer: _write(answer, layout, options["csv"], options["command"])


def _write(answer: Answer, layout: FileLayout, path: str, command: BaseCommand) -> None:
    """Write the matches to a file, but for owners who asked not to be contacted, and say how many these are."""
    asked, scope = answer.asked, answer.scope
    may = may_be_contacted(answer.matches, scope)
    if refused := answer.matches.count() - may.count():
        command.stderr.write(f"{refused:,} left out: {Reason.DO_NOT_MAIL.words}")
    if layout.per is Per.OWNER:
        command.stderr.write(f"{contact_file.saved_by_owner(may):,} rows saved by one row an owner")
    rows = contact_file.start(answer.matches, layout, asked.sort, scope, stored_text(asked.search, scope.team))
    if path == "-":
        command.stdout.writelines(rows)
        return
    try:
        with open(path, "w", encoding="utf-8", newline="") as handle:
            handle.writelines(rows)
    except OSError as error:
        raise CommandError(f"{path} can't be written: {error.strerror}", returncode=2) from error
