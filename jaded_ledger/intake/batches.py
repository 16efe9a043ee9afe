"""How a batch of checked rows becomes current: new rows added, changed ones superseding, the same left alone."""

from __future__ import annotations

import hashlib
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime

from jaded_ledger.intake.cells import Cells
from jaded_ledger.records.bulk import copy_in
from jaded_ledger.records.models import County, SourceFile
from jaded_ledger.records.models.provenance import Recorded


@dataclass(frozen=True)
class Line:
    """A row on its way in: where it stood and its cells."""

    number: int
    cells: Cells


@dataclass
class Taking:
    """One file being taken in, and what came of its rows so far."""

    file: SourceFile
    county: County
    now: datetime
    touched: set[int] = field(default_factory=set)
    """Parcels whose facts must be derived again."""
    seen: set[int] = field(default_factory=set)
    """Parcels that the file holds, changed or not."""

    @property
    def as_of(self) -> date:
        return self.file.as_of

    def provenance(self, line: Line, digest: str) -> dict[str, object]:
        """Return the columns that every recorded row has."""
        return {
            "source_file": self.file,
            "source_line": line.number,
            "valid_from": self.as_of,
            "recorded_at": self.now,
            "digest": digest,
        }

    def supersede(self, model: type[Recorded], rows: Sequence[tuple[Hashable, Recorded]], key: str) -> set[Hashable]:
        """Store rows by natural key; return the keys of those that were new or said something else than before."""
        current = {
            row[key]: row
            for row in model.objects.filter(
                **{f"{key}__in": [natural for natural, _ in rows]}, superseded_at=None, **self._within(model)
            ).values("id", "digest", key)
        }
        fresh, outdated = [], []
        for natural, row in rows:
            before = current.get(natural)
            if before is None:
                self.file.new += 1
            elif before["digest"] == row.digest:
                self.file.same += 1
                continue
            else:
                self.file.changed += 1
                outdated.append(before["id"])
            fresh.append((natural, row))
        model.objects.filter(id__in=outdated).update(superseded_at=self.now)
        copy_in(row for _, row in fresh)
        return {natural for natural, _ in fresh}

    def _within(self, model: type[Recorded]) -> dict[str, object]:
        """A document number is the county's own; a parcel's id is one across all."""
        return {"county": self.county} if any(f.name == "county" for f in model._meta.fields) else {}


def digest_of(*values: object) -> str:
    """Return what tells two versions of a row apart."""
    return hashlib.md5(repr(values).encode(), usedforsecurity=False).hexdigest()
