"""How a batch of checked rows becomes current: new rows added, changed ones superseding, the same left alone."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from django.contrib.gis.geos import GEOSGeometry
from django.db import IntegrityError, transaction
from django.db.models import CheckConstraint

from jaded_ledger.intake.cells import RefusedRowError
from jaded_ledger.records.bulk import allot_ids, among, broken_rules, copy_rows
from jaded_ledger.records.clock import not_before
from jaded_ledger.records.models import County, Filed, SourceFile


@dataclass(frozen=True)
class SourceLine:
    """A row on its way in: where it stood, its cells by our columns' names, and why it can't be split into cells."""

    number: int
    cells: Mapping[str, Any]
    fault: str = ""
    filed: Mapping[str, Any] = field(default_factory=dict)
    """The cells as the file has them, by its own names."""

    def text(self, column: str) -> str:
        return str(self.cells.get(column) or "")

    def refuse(self, column: str, reason: str) -> RefusedRowError:
        return RefusedRowError(column, self.text(column)[:200], reason)


Refused = list[tuple[SourceLine, RefusedRowError]]


@dataclass
class CheckedRow:
    """A checked row: the natural key it is known by, and its values by attribute name."""

    line: SourceLine
    key: str
    values: dict[str, Any]
    digest: str = ""
    doubts: list[RefusedRowError] = field(default_factory=list)
    """What of it can't be so, and was left unknown."""
    corrects: str = ""
    """The digest of the doubtful row that it corrects; blank where it corrects none."""

    @property
    def said_of_doubts(self) -> dict[str, list[str]]:
        """What of it can't be so, as it is kept with the row: what was said and why that can't be, by column."""
        return {doubt.column: [doubt.value, doubt.reason] for doubt in self.doubts}


Spare = Callable[[CheckedRow, dict[str, Any], CheckConstraint], bool]
"""Leaves unknown the value by which a row breaks a rule, if it can do without, and returns whether it could."""


@dataclass
class CountyIntake:
    """One file being taken in, and what came of its rows so far."""

    file: SourceFile
    county: County
    now: datetime
    affected: set[int] = field(default_factory=set)
    """Parcels whose facts must be derived again."""
    seen: set[int] = field(default_factory=set)
    """Parcels that the file holds, changed or not."""
    held: set[int] = field(default_factory=set)
    """Ids of the rows on record that the file repeats."""
    spared: set[str] = field(default_factory=set)
    """Natural keys of rows that were refused: what is on record of them is not gone."""
    numbers: dict[str, list[str]] = field(default_factory=dict)
    """Keys of parcel numbers by the cell they stood in: the same parcel comes again and again."""
    begins: bool = False
    """Whether the file begins parcels that are not on record."""
    written: dict[str, str] = field(default_factory=dict)
    """How numbers that follow no form are written, by their keys."""
    unclear: int = 0
    """Refused rows that don't tell which record they are."""
    doubtful: Refused = field(default_factory=list)
    """What of the rows that went in can't be so."""

    @property
    def as_of(self) -> date:
        return self.file.as_of

    def supersede(self, model: type[Filed], rows: Sequence[CheckedRow], spare: Spare) -> tuple[dict[str, int], Refused]:
        """Store rows; return the ids of those that were new or said something else than before, by natural key.

        A row that breaks a rule of the table goes in without the value that does, where ``spare`` finds one that it can do
        without; else it is refused with what the rule says.
        """
        refused: Refused = []
        current = {
            key: rest
            for key, *rest in model._default_manager.filter(
                county=self.county, superseded_at=None, natural_key__in=among(row.key for row in rows)
            ).values_list("natural_key", "id", "digest", "corrects", "doubts", "source_file_id", *model.carried)
        }
        fresh: list[CheckedRow] = []
        outdated: dict[str, int] = {}
        corrected: set[str] = set()
        for row in rows:
            before = current.get(row.key)
            row.values |= dict.fromkeys(model.carried, self.as_of)
            if before is None:
                fresh.append(row)
                continue
            pk, digest, corrects, doubts, source_file, *carried = before
            row.values |= dict(zip(model.carried, carried, strict=True))
            if source_file == self.file.pk:
                refused.append((row.line, row.line.refuse("", "stands in this file more than once")))
            elif row.digest in (digest, corrects):
                # A doubtful row that was corrected since says nothing new when it comes again.
                self.file.same += 1
                self.held.add(pk)
                if row.digest != digest:
                    corrected.add(row.key)
            else:
                row.corrects = digest if doubts else corrects
                outdated[row.key] = pk
                fresh.append(row)
        stored, broken = self._stored(model, fresh, outdated, spare)
        faulty = {line.number for line, _ in refused + broken}
        self.doubtful += [
            (row.line, doubt) for row in rows if row.line.number not in faulty and row.key not in corrected for doubt in row.doubts
        ]
        self.file.changed += len(outdated.keys() & stored.keys())
        self.file.new += len(stored.keys() - outdated.keys())
        self.held |= {pk for key, pk in outdated.items() if key not in stored}
        return stored, refused + broken

    def _stored(
        self, model: type[Filed], rows: list[CheckedRow], outdated: Mapping[str, int], spare: Spare
    ) -> tuple[dict[str, int], Refused]:
        refused: Refused = []
        if not rows:
            return {}, refused
        written = [
            row.values
            | {
                "id": pk,
                "county_id": self.county.pk,
                "natural_key": row.key,
                "source_file_id": self.file.pk,
                "source_line": row.line.number,
                "valid_from": self.as_of,
                "valid_until": None,
                "recorded_at": self.now,
                "superseded_at": None,
                "digest": row.digest,
                "corrects": row.corrects,
                "doubts": row.said_of_doubts,
            }
            for pk, row in zip(allot_ids(model, len(rows)), rows, strict=True)
        ]
        try:
            with transaction.atomic():
                self._replace(model, written, outdated)
        except IntegrityError:
            broken = broken_rules(model, written)
            if not broken:
                raise
            while _spared(rows, written, broken, spare):
                broken = broken_rules(model, written)
            refused = [
                (row.line, row.line.refuse("", str(broken[values["id"]].violation_error_message)))
                for row, values in zip(rows, written, strict=True)
                if values["id"] in broken
            ]
            written = [values for values in written if values["id"] not in broken]
            self._replace(model, written, outdated)
        return {values["natural_key"]: values["id"] for values in written}, refused

    def _replace(self, model: type[Filed], written: list[dict[str, Any]], outdated: Mapping[str, int]) -> None:
        gone = [outdated[values["natural_key"]] for values in written if values["natural_key"] in outdated]
        if gone:
            model._default_manager.filter(pk__in=gone).update(superseded_at=not_before("recorded_at"), valid_until=self.as_of)
        copy_rows(model, written)


def _spared(rows: Sequence[CheckedRow], written: Sequence[dict[str, Any]], broken: Mapping[int, CheckConstraint], spare: Spare) -> bool:
    """Leave unknown in each row that breaks a rule a value that it can do without; return whether any row could."""
    at_fault = [(row, values) for row, values in zip(rows, written, strict=True) if values["id"] in broken]
    return bool(sum(spare(row, values, broken[values["id"]]) for row, values in at_fault))


def digest_of(*values: object) -> str:
    """Return what tells two versions of a row apart."""
    said = list(values)
    for place, value in enumerate(said):
        if isinstance(value, GEOSGeometry):
            said[place] = bytes(value.wkb)
    return hashlib.md5(repr(said).encode(), usedforsecurity=False).hexdigest()
