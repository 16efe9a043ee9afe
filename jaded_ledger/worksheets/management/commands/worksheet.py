"""A worksheet's exits, from a file of what its page keeps; or that file, from a worksheet that is kept."""

from __future__ import annotations

import json
import sys
from collections.abc import Mapping
from contextlib import nullcontext
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from jaded_ledger.accounts.scope import Scope, ScopeError, scope_of_command
from jaded_ledger.core.deals.expressions import FigureUnit
from jaded_ledger.core.deals.figures import compute
from jaded_ledger.core.deals.inputs import InputError
from jaded_ledger.core.deals.known import Recorded
from jaded_ledger.core.deals.reading import figure_text
from jaded_ledger.core.deals.roll import Building
from jaded_ledger.core.deals.worksheet import worksheet_from_json
from jaded_ledger.find.parcel_lookup import NoSuchParcelError, parcel_named
from jaded_ledger.records.own_columns import slug
from jaded_ledger.worksheets.computed import computed
from jaded_ledger.worksheets.defaults import Places, defaults_of
from jaded_ledger.worksheets.plain_figures import plain_figures
from jaded_ledger.worksheets.services import begin, worksheets_of
from jaded_ledger.worksheets.signatures import signatures_of

_MOST_BYTES = 1_000_000


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = (
        "Compute a worksheet: every exit line by line, its results, and the prices that give what is wanted. FILE holds what the page "
        'keeps, as JSON: {"parcel": "12-001-001", "exits": ["resale", "rental"], "inputs": {"price": 168000}, "units": [{"rent": 610}]}; '
        "without a parcel, only what is typed counts. --written N writes the file of a worksheet that the team keeps."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", nargs="?", help="a worksheet as JSON; - for standard input")
        parser.add_argument("--parcel", help="the property's number, in the place of the file's")
        parser.add_argument("--keep", action="store_true", help="keep it as a worksheet of the property, for the page")
        parser.add_argument("--written", type=int, metavar="N", help="write what the worksheet of this number keeps")
        parser.add_argument("--team", help="whose assumptions and worksheets (needed only where there are several teams)")
        parser.add_argument("--format", choices=("table", "json"), default="table")

    def handle(self, *args: Any, file: str | None, written: int | None, team: str | None, **options: Any) -> None:
        try:
            scope = scope_of_command(team)
            if written is not None:
                self._write(scope, written)
            elif file:
                self._compute(scope, _read(file), options)
            else:
                raise CommandError("name a file with a worksheet, or --written with the number of one that is kept", returncode=2)
        except (ScopeError, InputError, NoSuchParcelError) as error:
            raise CommandError(str(error), returncode=2) from error

    def _write(self, scope: Scope, number: int) -> None:
        found = worksheets_of(scope).filter(pk=number).first()
        if found is None:
            known = ", ".join(str(pk) for pk in worksheets_of(scope).values_list("pk", flat=True)[:20]) or "none yet"
            raise CommandError(f"the team keeps no worksheet {number}; it keeps {known}", returncode=2)
        said = {"parcel": f"{slug(found.parcel.county)}/{found.parcel.number}"} | found.content
        self.stdout.write(json.dumps(said, ensure_ascii=False, indent=2))

    def _compute(self, scope: Scope, said: dict[str, Any], options: Mapping[str, Any]) -> None:
        number = said.pop("parcel", None)
        number = options["parcel"] or number
        worksheet = worksheet_from_json(said)
        if number is None:
            if options["keep"]:
                raise InputError("a worksheet is kept of a property: name its parcel")
            figures = compute(worksheet, Recorded(), Building(), defaults_of(scope, Places()))
            self._tell(plain_figures(figures), options["format"])
            return
        parcel = parcel_named(str(number))
        found = computed(worksheet, parcel, scope)
        answer = plain_figures(found.figures, found.seller, signatures_of(parcel, found.findings), found.doubts_about_value)
        if options["keep"]:
            answer = {"worksheet": begin(scope, parcel, worksheet).pk} | answer
        self._tell(answer, options["format"])

    def _tell(self, found: Mapping[str, Any], form: str) -> None:
        if form == "json":
            self.stdout.write(json.dumps(found, ensure_ascii=False))
            return
        if "worksheet" in found:
            self.stdout.write(f"kept as worksheet {found['worksheet']}")
        self.stdout.write(found["said"])
        for caution in found["cautions"]:
            self.stdout.write(caution)
        for one in found["exits"].values():
            self.stdout.write(f"\n{one['label']}")
            for line in one["lines"]:
                if line["amount"] != 0:
                    self._line(line)
            self.stdout.write(f"  {one['said']}")
        if "seller" in found:
            self.stdout.write("\nWhat the seller walks away with")
            for line in found["seller"]["lines"]:
                self._line(line)
            for one in found["signers"]:
                self.stdout.write(f"  signs: {one['name']}, {one['role']}{'; ' + one['doubt'] if one['doubt'] else ''}")

    def _line(self, line: Mapping[str, Any]) -> None:
        amount = figure_text(line["amount"], FigureUnit.MONEY)
        out, into = (amount, "") if line["side"] == "out" else ("", amount)
        self.stdout.write(f"  {line['label']:<60.60} {out:>12} {into:>12}")


def _read(name: str) -> dict[str, Any]:
    try:
        with nullcontext(sys.stdin) if name == "-" else Path(name).open(encoding="utf-8") as handle:
            text = handle.read(_MOST_BYTES + 1)
    except (OSError, UnicodeDecodeError) as error:
        raise CommandError(f"{name} can't be read: {error}", returncode=2) from error
    if len(text) > _MOST_BYTES:
        raise CommandError(f"{name} is longer than a worksheet can be, {_MOST_BYTES:,} characters", returncode=2)
    try:
        said = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise CommandError(f"{name} is not JSON: {error}", returncode=2) from error
    if not isinstance(said, dict):
        raise CommandError(f"{name} holds no worksheet: it begins with {{ and ends with }}", returncode=2)
    return said
