"""Taking in a file: one transaction, harmless to repeat."""

from __future__ import annotations

import hashlib
from datetime import date
from itertools import islice
from pathlib import Path

from django.db import transaction

from jaded_ledger.intake.batches import Line, Taking
from jaded_ledger.intake.cells import Cells
from jaded_ledger.intake.kinds import KINDS, Kind
from jaded_ledger.intake.models import Refusal
from jaded_ledger.intake.readers import UnreadableFileError, read
from jaded_ledger.records.clock import now
from jaded_ledger.records.derivation import derive, measure_fill
from jaded_ledger.records.models import County, Coverage, Parcel, ParcelFacts, SourceFile

BATCH = 5000


class IntakeError(Exception):
    """The file can't be taken in; the message says why and what to do."""


def _sha256(path: Path) -> str:
    with path.open("rb") as handle:
        return hashlib.file_digest(handle, "sha256").hexdigest()


def _retire_missing(taking: Taking) -> None:
    """A complete file of parcels retires those it no longer holds."""
    held = Parcel.objects.filter(county=taking.county, retired_on=None).values_list("id", flat=True)
    gone = [pk for pk in held.iterator() if pk not in taking.seen]
    Parcel.objects.filter(id__in=gone).update(retired_on=taking.as_of)
    ParcelFacts.objects.filter(parcel_id__in=gone).delete()
    taking.touched.difference_update(gone)


def _check(taking: Taking, kind: Kind, columns: set[str]) -> None:
    if missing := [column for column in kind.required if column not in columns]:
        raise IntakeError(f"{taking.file.name} has no column {', '.join(missing)}. A {kind.name} file has: {', '.join(kind.columns)}.")


def _take_rows(taking: Taking, kind: Kind, path: Path) -> None:
    rows = read(path)
    while batch := list(islice(rows, BATCH)):
        if not taking.file.read:
            _check(taking, kind, set(batch[0][1]))
        lines = [Line(line, Cells(cells)) for line, cells in batch]
        taking.file.read += len(lines)
        refused = kind.take(taking, lines)
        taking.file.refused += len(refused)
        Refusal.objects.bulk_create(
            Refusal(
                source_file=taking.file,
                line=line.number,
                column=reason.column,
                value=reason.value[:2000],
                reason=reason.reason,
                row=line.cells.raw,
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
            if kind.retires and is_complete:
                _retire_missing(taking)
            file.save()
            Coverage.objects.update_or_create(county=county, kind=kind.name, defaults={"recorded_through": as_of})
    except UnreadableFileError as error:
        raise IntakeError(str(error)) from error
    except OSError as error:
        raise IntakeError(f"{path} can't be opened: {error.strerror}.") from error
    return file, taking.touched
