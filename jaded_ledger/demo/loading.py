"""Taking the demo's files in, on two processes: one for the files that hold names, one for those that hold none.

Two intakes that store the same new name would wait for each other; files without names never do.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from jaded_ledger.demo import files, world
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.services import IntakeOptions, record
from jaded_ledger.records.models import County, Coverage

ADDITIONAL = (
    "layers", "photographs", "deeds", "loans", "loan-events", "liens", "lien-releases", "cases", "case-parties", "case-documents",
    "case-papers",
)  # fmt: skip
"""Files of these kinds add to what is on record; all others hold everything of their kind."""
FIRST = ("parcels", "roll")
NAMELESS = (
    "areas", "layers", "projects", "buildings", "units", "tax-years", "tax-rates", "exemptions", "case-documents", "case-papers",
    "violations", "vacancies", "listing-events",
)  # fmt: skip
NAMED = tuple(kind for kind in KINDS if kind not in (*FIRST, *NAMELESS))


@dataclass(frozen=True)
class Taken:
    """What came of some files: rows read and refused, and a line for each file."""

    read: int
    refused: int
    lines: tuple[str, ...]

    def __add__(self, other: Taken) -> Taken:
        return Taken(self.read + other.read, self.refused + other.refused, self.lines + other.lines)


def _files_of(folder: Path, county: world.County, kinds: tuple[str, ...]) -> Iterator[tuple[str, Path, date]]:
    """Yield kind, file and the day it speaks of, in the order in which they build on each other."""
    for kind in kinds:
        if kind == "roll":
            yield kind, folder / files.EARLIER_ROLL, files.EARLIER_ROLL_AS_OF
        for path in sorted(folder.iterdir()):
            if path.stem == kind or (kind == "layers" and path.stem.startswith("layers-")):
                yield kind, path, county.recorded_through


def take(folder: Path, key: str, kinds: tuple[str, ...]) -> Taken:
    """Take in a county's files of some kinds, without deriving what they touch."""
    county = world.county(key)
    on_record = County.objects.get(fips=county.fips)
    taken = Taken(0, 0, ())
    for kind, path, as_of in _files_of(folder, county, kinds):
        # An interrupted load came further than this.
        if Coverage.objects.filter(county=on_record, kind=kind, recorded_through__gt=as_of).exists():
            continue
        started = time.monotonic()
        is_complete = kind not in ADDITIONAL and as_of == county.recorded_through
        file, *_ = record(path, IntakeOptions(kind, on_record, as_of, is_complete=is_complete))
        line = f"  {path.name}: {file.read:,} read, {file.refused:,} refused, {time.monotonic() - started:.1f} s"
        taken += Taken(file.read, file.refused, (line,))
    return taken
