"""Taking in a file: one transaction, harmless to repeat."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from itertools import islice
from pathlib import Path
from typing import Any

from django.db import connection, transaction

from jaded_ledger.intake.batches import Line, Refused, Taking
from jaded_ledger.intake.filing import Draft, Filing
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.models import Refusal
from jaded_ledger.intake.readers import UnreadableFileError, read
from jaded_ledger.records.clock import now
from jaded_ledger.records.derivation import derive, measure_fill
from jaded_ledger.records.models import County, Coverage, RollEntry, SourceFile
from jaded_ledger.records.own_columns import find_columns

BATCH = 5000


class IntakeError(Exception):
    """The file can't be taken in; the message says why and what to do."""


def _sha256(path: Path) -> str:
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def _check(taking: Taking, kind: Filing, columns: set[str]) -> None:
    if missing := [column for column in kind.required if column not in columns]:
        raise IntakeError(f"{taking.file.name} has no column {', '.join(missing)}. A {kind.name} file has: {', '.join(kind.columns)}.")


def _kept(cells: Mapping[str, Any]) -> dict[str, Any]:
    """Return a refused row as it is kept: images by their name alone."""
    return {name: value for name, value in cells.items() if not isinstance(value, bytes)}


Read = tuple[int, list[Draft], Refused]


def _batches(taking: Taking, kind: Filing, path: Path) -> Iterator[Read]:
    """Yield how many rows were read, what they say, and those that can't be read."""
    rows, is_first = read(path), True
    while batch := list(islice(rows, BATCH)):
        if is_first:
            _check(taking, kind, set(batch[0][1]))
            is_first = False
        yield len(batch), *kind.read_all(taking, [Line(number, cells) for number, cells in batch])


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


def _take_rows(taking: Taking, kind: Filing, path: Path) -> None:
    next_analysis = 1
    for number, (count, drafts, unread) in enumerate(_ahead(_batches(taking, kind, path)), start=1):
        refused = unread + kind.take(taking, drafts)
        if number == next_analysis and count == BATCH:
            _analyse(kind)
            next_analysis *= 4
        taking.file.read += count
        taking.file.refused += len(refused)
        Refusal.objects.bulk_create(
            Refusal(
                source_file=taking.file,
                line=line.number,
                column=reason.column,
                value=reason.value[:2000],
                reason=reason.reason,
                row=_kept(line.cells),
            )
            for line, reason in refused
        )


def take_in(path: Path, kind_name: str, county: County, *, as_of: date, is_complete: bool) -> SourceFile:
    """Take in one file, whole or not at all, and derive the facts of the parcels it touched.

    ``as_of`` is the day the file speaks of; ``is_complete`` says whether it holds everything of its kind in the county.
    Rows that can't be read are refused and kept; all others go in. Raises IntakeError.
    """
    with transaction.atomic():
        file, touched = record(path, kind_name, county, as_of=as_of, is_complete=is_complete)
        derive(touched)
        measure_fill(county)
    return file


def record(path: Path, kind_name: str, county: County, *, as_of: date, is_complete: bool) -> tuple[SourceFile, set[int]]:
    """Take in one file as ``take_in`` does, but only return the parcels whose facts are then to be derived."""
    kind = KINDS[kind_name]
    reached = Coverage.objects.filter(county=county, kind=kind.name).first()
    if reached and as_of < reached.recorded_through:
        raise IntakeError(
            f"{path.name} speaks of {as_of}, but {county.name}'s {kind.name} are on record through "
            f"{reached.recorded_through}. An older file would bring back what has changed since."
        )
    try:
        with transaction.atomic():
            moment = now()
            file = SourceFile.objects.create(
                county=county, kind=kind.name, name=path.name, sha256=_sha256(path), as_of=as_of,
                is_complete=is_complete, taken_in_at=moment,
            )  # fmt: skip
            taking = Taking(file, county, moment)
            _take_rows(taking, kind, path)
            if is_complete:
                kind.retire(taking)
            file.save()
            if kind.model is RollEntry:
                taking.touched |= find_columns(county)
            Coverage.objects.update_or_create(county=county, kind=kind.name, defaults={"recorded_through": as_of})
    except UnreadableFileError as error:
        raise IntakeError(str(error)) from error
    except OSError as error:
        raise IntakeError(f"{path} can't be opened: {error.strerror}.") from error
    return file, taking.touched
