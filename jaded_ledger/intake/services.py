"""Taking in a file: one transaction, harmless to repeat."""

from __future__ import annotations

import hashlib
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import date
from itertools import islice
from pathlib import Path
from typing import Any

from django.db import connection, transaction

from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.begun_parcels import has_parcels
from jaded_ledger.intake.cells import RefusedRowError
from jaded_ledger.intake.counties import Belonging
from jaded_ledger.intake.drafts import COUNTY, Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Layout
from jaded_ledger.intake.limits import UnreadableFileError
from jaded_ledger.intake.mapping import ColumnMap, Translator
from jaded_ledger.intake.models import Refusal
from jaded_ledger.intake.readers import REFUSED_AS, REFUSED_BECAUSE, RawRow, read
from jaded_ledger.records.affected_parcels import TELLS_OF_AREAS, affected_by, affected_by_reach, with_dependents
from jaded_ledger.records.bulk import wait_for_turn
from jaded_ledger.records.clock import fault_of_day, now, today
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.fill_rates import measure_fill
from jaded_ledger.records.models import County, Coverage, RollEntry, SourceFile
from jaded_ledger.records.own_columns import find_columns

BATCH = 5000
_FEW = 20
LISTING_ALL = ("roll", "listings")
"""Kinds of file that begin a county's parcels unless something else is said."""
_TELLING = 200
"""So many rows tell which columns a file has."""

Progress = Callable[[int, int, str], None]
"""Told how many rows were read and refused so far, and what is being done."""


class IntakeError(Exception):
    """The file can't be taken in; the message says why and what to do."""


@dataclass(frozen=True)
class IntakeOptions:
    """What a file is taken for.

    ``county`` is None where each row names its own. ``as_of`` is the day the file speaks of; ``is_complete`` says whether
    it holds everything of its kind there, and ``may_end_most`` that it may well end most of what is on record.
    """

    kind: str
    county: County | None
    as_of: date
    is_complete: bool = False
    may_end_most: bool = False
    columns: ColumnMap = field(default_factory=ColumnMap)
    layout: Layout | None = None
    begins: bool | None = None
    """Whether parcels that are not on record are begun; None where it is so while the county has none."""


def begins_parcels(options: IntakeOptions, county: County) -> bool:
    """Return whether a file begins a county's parcels: where that is said, else while none is on record and it lists what there is."""
    if options.begins is not None:
        return options.begins
    return options.kind in LISTING_ALL and not has_parcels(county)


class _Intake:
    """One file on its way in, its rows going to one county or to several."""

    def __init__(self, path: Path, options: IntakeOptions, file: SourceFile, progress: Progress) -> None:
        self.path, self.options, self.file, self.progress = path, options, file, progress
        self.kind: Filing = KINDS[options.kind]
        self._translator = Translator(self.kind, options.columns)
        moment = file.taken_in_at
        self._belonging = Belonging(options.county)
        self._county_intakes = {pk: CountyIntake(file, county, moment) for pk, county in self._belonging.counties.items()}
        for county_intake in self._county_intakes.values():
            county_intake.begins = self.kind.may_begin and begins_parcels(options, county_intake.county)
        reached = Coverage.objects.filter(kind=options.kind).values_list("county_id", "recorded_through")
        self._too_old = {county: day for county, day in reached if options.as_of < day}
        self.used: set[int] = {options.county.pk} if options.county else set()
        self._unplaced = 0
        self._settled: set[tuple[int, int]] = set()

    @property
    def county_intakes(self) -> list[CountyIntake]:
        """The counties that rows went to."""
        return [self._county_intakes[pk] for pk in sorted(self.used)]

    def _check(self, first: list[RawRow]) -> None:
        # A feature of a collection need not have every property.
        names = list(dict.fromkeys(name for raw in first[:_TELLING] for name in raw.cells))
        if self.options.is_complete and REFUSED_AS in names:
            raise IntakeError(f"{self.file.name} holds refused rows of another file, so it is not complete. Take it in as additional.")
        there = self.options.columns.filled(names)
        named = () if self.options.county else (COUNTY,)
        if missing := [*self.kind.missing(there), *(column for column in named if column not in there)]:
            hint = " Or say which county it is of." if missing == [COUNTY] else ""
            raise IntakeError(
                f"{self.file.name} has no column {', '.join(map(self.kind.with_stand_in, missing))}."
                f" A {self.kind.name} file has: {', '.join(self.kind.columns)}."
                f" It has: {', '.join(names)[:600]}. Map its columns to ours.{hint}"
            )

    def _county_intake_of(self, line: SourceLine) -> CountyIntake:
        """Return where a row goes. Raises RefusedRowError."""
        county = self._belonging.county_of(line)
        if day := self._too_old.get(county.pk):
            raise line.refuse(COUNTY, f"has these on record through {day}; an older file would bring back what has changed since")
        return self._county_intakes[county.pk]

    def _line(self, raw: RawRow) -> SourceLine:
        return SourceLine(raw.number, self._translator.cells(raw.cells, raw.number), raw.fault, raw.cells)

    def _batches(self) -> Iterator[Read]:
        rows, is_first = read(self.path, self.options.layout), True
        while batch := list(islice(rows, BATCH)):
            if is_first:
                self._check(batch)
                is_first = False
            yield self._read(batch)

    def _read(self, batch: list[RawRow]) -> Read:
        by_county: dict[int, list[SourceLine]] = defaultdict(list)
        found = Read(len(batch))
        for raw in batch:
            line = self._line(raw)
            try:
                county_intake = self._county_intake_of(line)
            except RefusedRowError as reason:
                found.refused.append((line, reason))
                continue
            by_county[county_intake.county.pk].append(line)
        for pk, lines in by_county.items():
            drafts, refused = self.kind.read_all(self._county_intakes[pk], lines)
            found.drafts.append((pk, drafts, refused))
        return found

    def take_rows(self) -> None:
        next_analysis = 1
        for number, found in enumerate(_ahead(self._batches()), start=1):
            refused = list(found.refused)
            self._unplaced += len(found.refused)
            for pk, drafts, unread in found.drafts:
                county_intake = self._county_intakes[pk]
                faulty = unread + self.kind.take(county_intake, drafts)
                if len(faulty) < len(drafts) + len(unread):
                    self.used.add(pk)
                self._spare(county_intake, faulty)
                doubtful, county_intake.doubtful = county_intake.doubtful, []
                self._settle(drafts, faulty)
                self._note(doubtful, is_doubtful=True)
                self.file.doubtful += len({line.number for line, _ in doubtful})
                refused += faulty
            if number == next_analysis and found.count == BATCH:
                _analyse(self.kind)
                next_analysis *= 4
            self.file.read += found.count
            self.file.refused += len(refused)
            self._note(refused)
            self.progress(self.file.read, self.file.refused, "reading rows")

    def _spare(self, county_intake: CountyIntake, refused: Refused) -> None:
        """Keep what is on record of refused rows: they are in the file, though nothing can be made of them."""
        for line, _ in refused if self.options.is_complete else ():
            if key := self.kind.key_of_refused(county_intake, line):
                county_intake.spared.add(key)
            else:
                county_intake.unclear += 1

    def _settle(self, drafts: list[Draft], refused: Refused) -> None:
        """Note which rows were refused in an earlier file and have come back corrected."""
        faulty = {line.number for line, _ in refused}
        for draft in drafts:
            file, _, line = str(draft.line.filed.get(REFUSED_AS) or "").partition(":")
            pk, number = whole_number(file), whole_number(line)
            if pk is not None and number is not None and draft.line.number not in faulty:
                self._settled.add((pk, number))

    def _note(self, refused: Refused, *, is_doubtful: bool = False) -> None:
        Refusal.objects.bulk_create(
            Refusal(
                source_file=self.file,
                line=line.number,
                column=reason.column and self._translator.filed_as(reason.column, line.filed)[:60],
                value=reason.value[:2000],
                reason=reason.reason,
                is_doubtful=is_doubtful,
                row=_kept(line.filed),
            )
            for line, reason in refused
        )

    def settle(self) -> None:
        for file, line in self._settled:
            earlier = Refusal.objects.filter(source_file_id=file, line=line, source_file__kind=self.file.kind, settled_in=None)
            earlier.exclude(source_file=self.file).update(settled_in=self.file)

    def retire(self) -> None:
        """Have a complete file end what it no longer holds, unless that can't be told or can't be meant."""
        if unclear := sum(county_intake.unclear for county_intake in self.county_intakes) + self._unplaced:
            self.file.note = (
                f"Nothing was ended that the file no longer holds: {unclear:,} refused row{'s' if unclear > 1 else ''} can't be told "
                "from the others. Correct them and take the file in again."
            )
            return
        for county_intake in self.county_intakes:
            gone = self.file.gone
            self.kind.retire(county_intake)
            ended, kept = self.file.gone - gone, self.kind.on_record(county_intake)
            if ended > max(_FEW, kept) and not self.options.may_end_most:
                raise IntakeError(
                    f"{self.file.name} is said to be complete, but {ended:,} {self.kind.name} of {county_intake.county.name} would end and "
                    f"{kept:,} be left. Take it in as additional, or say that most may end."
                )


@dataclass
class Read:
    """A batch of rows: how many, what they say by county, and those that belong nowhere."""

    count: int
    drafts: list[tuple[int, list[Draft], Refused]] = field(default_factory=list)
    refused: Refused = field(default_factory=list)


def _sha256(path: Path) -> str:
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def _kept(cells: Mapping[str, Any]) -> list[tuple[str, Any]]:
    """Return a refused row as it is kept: images by their name alone, and without what we wrote before it ourselves."""
    return [(name, value) for name, value in cells.items() if not isinstance(value, bytes) and name not in (REFUSED_AS, REFUSED_BECAUSE)]


def _ahead(batches: Iterator[Read]) -> Iterator[Read]:
    """Read the next batch on a second thread while one is stored: reading is Python's work, storing the database's."""
    with ThreadPoolExecutor(1) as reader:
        following = reader.submit(next, batches, None)
        while found := following.result():
            following = reader.submit(next, batches, None)
            yield found


def _analyse(kind: Filing) -> None:
    """Have PostgreSQL count what this file has brought so far: nobody else sees it yet, and it would look each row up by reading all."""
    with connection.cursor() as cursor:
        for model in kind.filled:
            cursor.execute(f"ANALYZE {connection.ops.quote_name(model._meta.db_table)}")


def _say_nothing(read: int, refused: int, step: str) -> None:
    pass


def reach(county: County, kind: str, day: date) -> set[int]:
    """Note that a kind of record is on file through a day; return the parcels of which something becomes known by it."""
    _, is_first = Coverage.objects.update_or_create(county=county, kind=kind, defaults={"recorded_through": day})
    return affected_by_reach(county, kind, is_first=is_first)


def take_in(path: Path, options: IntakeOptions, *, progress: Progress = _say_nothing, name: str = "") -> SourceFile:
    """Take in one file, whole or not at all, and derive the facts of the parcels it affected.

    Rows that can't be read are refused and kept; all others go in. Raises IntakeError.
    """
    began = time.monotonic()
    with transaction.atomic():
        wait_for_turn()
        file, affected, counties = record(path, options, progress=progress, name=name)
        progress(file.read, file.refused, f"deriving what {len(affected):,} parcels are known for")
        written = derive(affected, counties if KINDS[options.kind].model in TELLS_OF_AREAS else ())
        for county in County.objects.filter(id__in=[pk for pk, rows in written.items() if rows]):
            measure_fill(county)
        file.seconds = time.monotonic() - began
        file.save(update_fields=["seconds"])
    return file


def _check_days(options: IntakeOptions, name: str) -> None:
    if fault := fault_of_day(options.as_of, today()):
        raise IntakeError(f"{name} is said to speak of {options.as_of}, which {fault}.")
    reached = options.county and Coverage.objects.filter(county=options.county, kind=options.kind).first()
    if reached and options.as_of < reached.recorded_through:
        raise IntakeError(
            f"{name} speaks of {options.as_of}, but {options.county}'s {options.kind} are on record through "
            f"{reached.recorded_through}. An older file would bring back what has changed since."
        )


def record(
    path: Path, options: IntakeOptions, *, progress: Progress = _say_nothing, name: str = ""
) -> tuple[SourceFile, set[int], list[County]]:
    """Take in one file as ``take_in`` does, but only return the parcels whose facts are then to be derived, and their counties."""
    name = name or path.name
    _check_days(options, name)
    began = time.monotonic()
    try:
        with transaction.atomic():
            file = SourceFile.objects.create(
                county=options.county, kind=options.kind, name=name[:255], sha256=_sha256(path), as_of=options.as_of,
                is_complete=options.is_complete, taken_in_at=now(), columns=options.columns.as_json(),
            )  # fmt: skip
            intake = _Intake(path, options, file, progress)
            intake.take_rows()
            if not file.read:
                raise IntakeError(f"{name} holds no rows.")
            went_in = file.refused < file.read
            if options.is_complete and went_in:
                intake.retire()
            intake.settle()
            counties = [county_intake.county for county_intake in intake.county_intakes] if went_in else []
            affected = set().union(*(county_intake.affected for county_intake in intake.county_intakes))
            if counties:
                affected = with_dependents(affected | affected_by(file, intake.kind.model, counties), intake.kind.model)
            for county in counties:
                if intake.kind.model is RollEntry:
                    affected |= find_columns(county)
                affected |= reach(county, options.kind, options.as_of)
            file.seconds = time.monotonic() - began
            file.save()
    except UnreadableFileError as error:
        raise IntakeError(error.of(name)) from error
    except OSError as error:
        raise IntakeError(f"{path} can't be opened: {error.strerror}.") from error
    return file, affected, counties
