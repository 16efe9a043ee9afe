"""A mailing to the matches of a search: its ledger, and its files."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from jaded_ledger.contacts.exports import Export
from jaded_ledger.core.mail.letters import Recipient
from jaded_ledger.core.mail.pieces import Addressing, Reason
from jaded_ledger.core.mail.postage import POSTAGE
from jaded_ledger.find.criteria_argument import add_arguments, answer_from
from jaded_ledger.find.selections import keep
from jaded_ledger.mailings.mailing_files import files_of, is_archive, zipped
from jaded_ledger.mailings.mailing_terms import NO_LETTER, STOCK, MailingError, change
from jaded_ledger.mailings.mailings import Form, Plan, begin, export_of, make, planned
from jaded_ledger.mailings.models import Mailing


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Tell how a mailing to the matches of a search comes out: pieces, who is left out and why, and what it costs. With --out it is "
        "made, kept as a mailing of the team, and written as PDF, or as a zip of PDFs where --batch has it in several."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        add_arguments(parser)
        parser.add_argument("--to", required=True, choices=[one.value for one in Addressing])
        parser.add_argument("--form", choices=Form.values, default=Form.LABELS.value)
        parser.add_argument("--stock", choices=[key for stock in STOCK.values() for key in stock], help="the sheet, or the envelope")
        parser.add_argument("--letter", metavar="NAME", help="the letter or postcard that it says")
        parser.add_argument("--against", metavar="NAME", help="another that a random half gets, to try the two against each other")
        parser.add_argument(
            "--letter-for", action="append", default=[], metavar="KIND=NAME",
            help=f"another for a kind of owner ({', '.join(Recipient)}); {NO_LETTER} for none; once for each",
        )  # fmt: skip
        parser.add_argument("--start", default="1", metavar="N", help="the first free label of the first sheet, from 1")
        parser.add_argument("--batch", default="0", metavar="N", help="pieces a file; 0 for one file")
        parser.add_argument("--note", default="", help="the small line at the foot of each; {code} stands for the reply code")
        parser.add_argument("--postage", choices=POSTAGE, default=POSTAGE[0])
        parser.add_argument("--bought-within", default="365", metavar="DAYS")
        parser.add_argument("--mailed-within", default="60", metavar="DAYS")
        relaxed = [reason.value for reason in Reason if reason.may_be_relaxed]
        parser.add_argument("--let-go", action="append", default=[], choices=relaxed, help="a reason that does not count; once for each")
        parser.add_argument("--name", help="what the mailing is called")
        parser.add_argument("--format", choices=("table", "json"), default="table")
        what = parser.add_mutually_exclusive_group(required=True)
        what.add_argument("--dry-run", action="store_true", help="only tell")
        what.add_argument("--out", type=Path, metavar="FILE", help="the file to write")

    def handle(
        self, *args: Any, criteria: str, saved: str | None, ask: list[str], team: str | None, out: Path | None, **options: Any
    ) -> None:
        answer = answer_from(criteria, ask, team, saved=saved, said=options["say"])
        said = {name: str(options[name]) for name in ("to", "form", "start", "batch", "note", "postage", "bought_within", "mailed_within")}
        said |= {name: options[name] for name in ("stock", "name", "letter", "against") if options[name]}
        said |= self._letters(options["letter_for"])
        try:
            with transaction.atomic():
                scope = answer.scope
                mailing = begin(scope, keep(scope, answer.asked, [], is_all=True))
                change(scope, mailing, said, options["let_go"])
                plan = planned(mailing, scope)
                self._tell(plan, as_json=options["format"] == "json")
                if out is None or not plan.made.pieces:
                    # Nothing is kept of what was only asked.
                    transaction.set_rollback(True)
                    return
                make(mailing, scope, plan)
                export = export_of(mailing, scope)
                self._write(mailing, out, export)
                export.note()
        except MailingError as error:
            raise CommandError(str(error), returncode=2) from error

    def _letters(self, given: list[str]) -> dict[str, str]:
        """Return which letter each kind of owner gets, as it was said. Raises CommandError."""
        found = {}
        for pair in given:
            kind, is_pair, name = pair.partition("=")
            if not is_pair or kind not in list(Recipient):
                raise CommandError(f"--letter-for “{pair}”: write KIND=NAME, where KIND is {', '.join(Recipient)}", returncode=2)
            found[f"letter-{kind}"] = name
        return found

    def _write(self, mailing: Mailing, out: Path, export: Export) -> None:
        files = files_of(mailing, export)
        try:
            with out.open("wb") as handle:
                handle.writelines(zipped(files) if is_archive(mailing) else (content for _, content in files))
        except OSError as error:
            # The mailing is not kept either.
            raise CommandError(f"{out} can't be written: {error.strerror}", returncode=2) from error

    def _tell(self, plan: Plan, *, as_json: bool) -> None:
        account = plan.as_json()
        if as_json:
            self.stdout.write(json.dumps(account, ensure_ascii=False))
            return
        self.stdout.write(f"{account['parcels']:>9,}  chosen parcels")
        for line in plan.ledger:
            sign = f"({line.off:,})" if line.is_relaxed else f"-{line.off:,}"
            self.stdout.write(f"{sign:>9}  {line.words}{', let go' if line.is_relaxed else ''}")
        self.stdout.write(f"{account['pieces']:>9,}  pieces, {account['owners']:,} owners, {account['sheets']:,} sheets")
        for cost in plan.costs:
            self.stdout.write(f"{cost.amount:>9,}  {cost.label}, {cost.count:,} at {cost.each_text}")
        self.stdout.write(f"{plan.total:>9,}  in dollars")
        if not plan.made.pieces:
            self.stdout.write("Nothing to mail; no file was written.")
