"""Take in a file from the command line."""

from __future__ import annotations

import argparse
import json
import sys
from datetime import date
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from jaded_ledger.core.criteria.parcel_numbers import form_of
from jaded_ledger.intake.begun_parcels import has_parcels
from jaded_ledger.intake.counties import counties_by_key
from jaded_ledger.intake.drafts import NUMBER, ROW
from jaded_ledger.intake.forms import CountyForm
from jaded_ledger.intake.guessing import guess, likely_kinds
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Layout, find_layout
from jaded_ledger.intake.limits import UnreadableFileError
from jaded_ledger.intake.mapping import ColumnMap, MappingError, column_map_from
from jaded_ledger.intake.reso import reso_name
from jaded_ledger.intake.samples import Sample, sample_of
from jaded_ledger.intake.services import LISTING_ALL, IntakeError, IntakeOptions, record, take_in
from jaded_ledger.intake.sources import column_map_of, recall
from jaded_ledger.intake.units import doubts_about
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import County, SourceFile

NOTHING_READ = 2
_LISTED = 20


def _summary(taken: SourceFile) -> str:
    gone = f", {taken.gone:,} gone" if taken.gone else ""
    gone += f", {taken.doubtful:,} doubtful" if taken.doubtful else ""
    counts = ((taken.read, "read"), (taken.new, "new"), (taken.changed, "changed"), (taken.same, "same"), (taken.refused, "refused"))
    return f"{taken.name}: {', '.join(f'{count:,} {what}' for count, what in counts)}{gone}"


class Command(BaseCommand):
    # They read every view there is, and look for mistakes of developers: bin/start and bin/test run them.
    requires_system_checks: list[str] = []

    help = "Take in a file of records; a value that can't be so is left unknown, a row that can't do without it is refused."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, metavar="FILE", nargs="?")
        parser.add_argument("--kind", choices=sorted(KINDS), help="what the file holds (default: a guess, and it is told)")
        parser.add_argument(
            "--county", help="the county's name; without one, each row names its own in a column county. One not on record is added"
        )
        parser.add_argument("--state", help="of a county that is added: its state's two letters")
        parser.add_argument("--numbers", metavar="MASK", help="of a county that is added: its numbers' form (default: a guess)")
        parser.add_argument(
            "--begin-parcels", action=argparse.BooleanOptionalAction, default=None,
            help="begin parcels that are not on record (default: while the county has none, for a roll or listings)",
        )  # fmt: skip
        parser.add_argument("--dry-run", action="store_true", help="say how the file would be read, and stop there")
        parser.add_argument("--mapping", type=Path, metavar="FILE", help="how the file's columns map to ours, as JSON (docs/intake.md)")
        parser.add_argument("--as-of", type=date.fromisoformat, help="the day the file speaks of (default: today)")
        parser.add_argument("--complete", action="store_true", help="the file holds everything of its kind in the county")
        parser.add_argument("--most-may-end", action="store_true", help="a complete file may end most of what is on record")
        parser.add_argument("--format", choices=("text", "json"), default="text")
        parser.add_argument("--kinds", action="store_true", help="list the kinds of file with their columns, and do nothing else")

    def handle(self, *args: Any, file: Path | None, kind: str | None, county: str | None, **options: Any) -> None:
        if options["kinds"]:
            self._list_kinds(as_json=options["format"] == "json")
            return
        if file is None:
            raise CommandError("say which FILE", returncode=NOTHING_READ)
        try:
            with transaction.atomic():
                # A county that is added goes in with its file, or not at all.
                wanted = self._wanted(file, kind, county, options)
                if options["dry_run"]:
                    # The same rows by the same rules, all taken back: so it says what the import itself would say.
                    taken, _, _ = record(file, wanted, progress=self._progress)
                    self._report(taken, as_json=options["format"] == "json")
                    transaction.set_rollback(True)
                    return
                taken = take_in(file, wanted, progress=self._progress)
        except (IntakeError, MappingError, UnreadableFileError) as error:
            raise CommandError(str(error), returncode=NOTHING_READ) from error
        except OSError as error:
            raise CommandError(f"{error.filename} can't be opened: {error.strerror}", returncode=NOTHING_READ) from error
        self._report(taken, as_json=options["format"] == "json")
        if taken.refused == taken.read:
            sys.exit(NOTHING_READ)

    def _county(self, name: str | None) -> County | None:
        """Return the county on record that is meant; None where each row names its own, or where it is to be added."""
        if name and "," in name:
            name = name.partition(",")[0].strip()
        found = County.objects.filter(name__iexact=name.removesuffix(" County")) if name else County.objects.all()
        counties = list(found[:2])
        if not counties and not name:
            raise CommandError("there is no county on record; name one with --county NAME --state XX", returncode=NOTHING_READ)
        return counties[0] if len(counties) == 1 else None

    def _state(self, name: str, options: dict[str, Any]) -> str:
        """Return the state of a county that is to be added. Raises CommandError."""
        state: str = options["state"] or name.partition(",")[2].strip()
        if not state:
            names = ", ".join(County.objects.values_list("name", flat=True)) or "none yet"
            raise CommandError(
                f"there is no county {name!r} on record (counties: {names}). To add it, say its state: --county {name!r} --state XX",
                returncode=NOTHING_READ,
            )
        return state

    def _added(self, name: str, numbers: list[str], options: dict[str, Any]) -> County:
        """Add a county, its numbers of the form that those of the file have unless another is said."""
        state, name = self._state(name, options), name.partition(",")[0].strip()
        mask = options["numbers"] or form_of(numbers)
        said = {"name": name, "state": state, "parcel_number_mask": mask, "assessment_ratio": "1", "relisting_gap_days": "30"}
        form = CountyForm(said)
        if not form.is_valid():
            raise CommandError("; ".join(" ".join(map(str, problems)) for problems in form.errors.values()), returncode=NOTHING_READ)
        county: County = form.save()
        form_said = "as they are written" if county.mask.is_free else f"as {mask}"
        self.stderr.write(f"{county.name} County, {county.state}, is added; its parcel numbers are read {form_said}.")
        return county

    def _kind(self, sample: Sample, layout: Layout, kind: str | None) -> str:
        if kind:
            return kind
        likely = likely_kinds(layout.form, sample.header)
        if not likely:
            raise CommandError("what the file holds can't be told from its columns; say it with --kind", returncode=NOTHING_READ)
        others = f"; --kind says otherwise ({', '.join(one.kind for one in likely[1:3])}?)" if len(likely) > 1 else ""
        self.stderr.write(f"It looks like {KINDS[likely[0].kind].meaning} ({likely[0].kind}){others}.")
        return likely[0].kind

    def _wanted(self, file: Path, kind: str | None, county_name: str | None, options: dict[str, Any]) -> IntakeOptions:
        county = self._county(county_name)
        if county is None and county_name:
            self._state(county_name, options)
        layout = find_layout(file)
        said = self._said(options["mapping"]) if options["mapping"] else {}
        try:
            layout = layout.corrected(said.get("layout") or {})
        except (ValueError, AttributeError) as error:
            raise MappingError(f"{options['mapping']}: layout: {error}") from error
        sample = sample_of(file, layout)
        kind = self._kind(sample, layout, kind)
        begins = options["begin_parcels"]
        lists_all = kind in LISTING_ALL if begins is None else begins
        is_first = KINDS[kind].may_begin and lists_all and not (county and has_parcels(county))
        column_map = column_map_from(said, KINDS[kind]) if said else self._found_map(sample, kind, county, begins=is_first)
        if county is None and county_name:
            numbers = [name for name, target in column_map.columns.items() if target in (NUMBER, reso_name(NUMBER))]
            county = self._added(county_name, [str(row.get(name) or "") for row in sample.cells() for name in numbers[:1]], options)
        own = KINDS[kind]
        rows = sample.cells()
        cells = {name: [row.get(name) for row in rows] for name in sample.header}
        for doubt in doubts_about(kind, {column.name: column for column in own.described}, column_map, cells):
            self.stderr.write(f"Check {doubt.said}")
        if is_first:
            self.stderr.write("Parcels that are not on record are begun by it.")
        return IntakeOptions(
            kind, county, options["as_of"] or today(), is_complete=options["complete"], may_end_most=options["most_may_end"],
            columns=column_map, layout=layout, begins=begins,
        )  # fmt: skip

    def _said(self, path: Path) -> dict[str, Any]:
        try:
            said = json.loads(path.read_text(encoding="utf-8"))
        except (ValueError, RecursionError) as error:
            raise MappingError(f"{path} is not JSON: {error}") from error
        if not isinstance(said, dict):
            raise MappingError(f'{path} is not an object such as {{"columns": {{"PIN": "parcel_number"}}}}')
        return said

    def _found_map(self, sample: Sample, kind_name: str, county: County | None, *, begins: bool) -> ColumnMap:
        """Return how a file is read of which nothing was said: as its source was before, else by guessing, as on the page."""
        if source := recall(sample.header, kind_name, county):
            found, how = column_map_of(source), "Read as this source's last file"
        else:
            mask = county.mask if county else None
            found = guess(KINDS[kind_name], sample.header, sample.cells(), mask, counties_by_key(), begins=begins)
            how = "Read by a guess"
        mapped = [f"{name} → {target}" for name, target in found.columns.items() if target and target != name]
        mapped += [f"the row's own number → {name}" for name, value in found.fixed.items() if value == ROW]
        if mapped:
            self.stderr.write(f"{how}: {', '.join(mapped)}. --mapping says otherwise.")
        return found

    def _progress(self, read: int, refused: int, step: str) -> None:
        if sys.stderr.isatty():
            self.stderr.write(f"\r\033[K{read:,} rows, {refused:,} refused · {step}", ending="")

    def _report(self, taken: SourceFile, *, as_json: bool) -> None:
        if sys.stderr.isatty():
            self.stderr.write("\r\033[K", ending="")
        refusals = taken.refusals.order_by("line")[:_LISTED]
        if as_json:
            counts = {name: getattr(taken, name) for name in ("read", "new", "changed", "same", "refused", "doubtful", "gone")}
            listed = [
                {"line": one.line, "column": one.column, "value": one.value, "reason": one.reason, "doubtful": one.is_doubtful}
                for one in refusals
            ]
            self.stdout.write(json.dumps({"file": taken.name, **counts, "refusals": listed, "note": taken.note}, ensure_ascii=False))
            return
        self.stdout.write(_summary(taken))
        for refusal in refusals:
            where = f", {refusal.column} {refusal.value!r}" if refusal.column else ""
            unknown = "; went in, the value left unknown" if refusal.is_doubtful else ""
            self.stdout.write(f"  line {refusal.line}{where}: {refusal.reason}{unknown}")
        if (refused := taken.refusals.count()) > _LISTED:
            self.stdout.write(f"  … and {refused - _LISTED:,} more")
        if taken.note:
            self.stdout.write(f"  {taken.note}")

    def _list_kinds(self, *, as_json: bool) -> None:
        if as_json:
            columns = {
                kind.name: [{"name": one.name, "takes": one.takes, "required": one.name in kind.required} for one in kind.described]
                for kind in KINDS.values()
            }
            self.stdout.write(json.dumps(columns, indent=1, ensure_ascii=False))
            return
        for kind in KINDS.values():
            self.stdout.write(f"{kind.name}: {kind.meaning}")
            for column in kind.described:
                instead = f", or {kind.or_else[column.name]}" if column.name in kind.or_else else ""
                self.stdout.write(f"  {column.name}{f' (required{instead})' if column.name in kind.required else ''}: {column.takes}")
            self.stdout.write("")
