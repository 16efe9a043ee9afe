"""How an upload will be read, before it is: each of its columns with where it goes, and its first rows as they would go in."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any

from django.contrib.gis.geos import GEOSGeometry

from jaded_ledger.core.criteria.display import day_text
from jaded_ledger.intake.batches import CountyIntake, SourceLine
from jaded_ledger.intake.cells import RefusedRowError, UnreadableValueError, plain_word
from jaded_ledger.intake.columns import Column
from jaded_ledger.intake.counties import Belonging
from jaded_ledger.intake.drafts import COUNTY, Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.guessing import readable
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.mapping import OWN, ColumnMap, Translator, month_first
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.sources import columns_of_file
from jaded_ledger.intake.units import Doubt, doubts_about
from jaded_ledger.intake.uploads import sample_kept
from jaded_ledger.records.clock import now
from jaded_ledger.records.models import County, SourceFile

SHOWN = 15
_MOST_WORDS = 40
_LONGEST = 60
FIGURES = ("an amount", "a number", "a whole number", "a number of acres")


@dataclass(frozen=True)
class Word:
    """A word of the file's that our vocabulary has not, how often it stands in the first rows, and what it is taken for."""

    place: int
    theirs: str
    count: int
    ours: str


@dataclass(frozen=True)
class FileColumn:
    """One of the file's columns: what stands in it, where it goes, and how much of it can be read there (percent)."""

    place: int
    name: str
    examples: tuple[str, ...]
    target: str | None
    column: Column | None
    read: int | None
    words: tuple[Word, ...]
    times: str
    is_day_first: bool

    @property
    def is_figure(self) -> bool:
        return self.column is not None and self.column.takes in FIGURES


@dataclass(frozen=True)
class PreviewRow:
    """A row as it would be read: a text for each column, or what is wrong with it and where."""

    line: int
    cells: tuple[str, ...]
    wrong_at: int | None = None
    reason: str = ""
    is_doubtful: bool = False
    """Whether it goes in all the same, the value left unknown."""


@dataclass
class Preview:
    """What is shown of an upload before it is taken in."""

    columns: list[FileColumn]
    missing: list[tuple[Column, str, str]]
    """Columns that must be there and are filled by none of the file's, with the value fixed for them and the column that would do."""
    fixed: list[tuple[Column, str]] = field(default_factory=list)
    """What else is the same in all rows, or stands where a row says nothing."""
    header: list[str] = field(default_factory=list)
    rows: list[PreviewRow] = field(default_factory=list)
    looked_at: int = 0
    refused: int = 0
    doubtful: int = 0
    unknown_parcels: int = 0
    doubts: list[Doubt] = field(default_factory=list)
    """Columns whose unit is doubtful by their values."""

    @property
    def is_ready(self) -> bool:
        return all(fixed for _, fixed, _ in self.missing)


def _shown(column: Column, value: Any) -> str:
    match value:
        case None | "":
            return "·"
        case bool():
            return "yes" if value else "no"
        case date():
            return day_text(value)
        case Decimal():
            return f"{value:,.2f}".removesuffix(".00")
        case GEOSGeometry():
            return f"{value.geom_type}, {value.num_coords} points"
        case list():
            return "; ".join(map(str, value))
        case int() if column.words:
            # A class is kept as its code.
            return column.words[value - 1] if 0 < value <= len(column.words) else str(value)
    return str(value)


def _words(column: Column, cells: Iterable[str], said: dict[str, str]) -> tuple[Word, ...]:
    """Return a column's words that our vocabulary has not."""
    if not column.words:
        return ()
    counted = Counter(" ".join(cell.split()) for cell in cells if cell.strip())
    found = []
    for theirs, count in counted.most_common():
        ours = said.get(plain_word(theirs), "")
        if not ours:
            try:
                column.read(theirs)
            except UnreadableValueError:
                pass
            else:
                continue
        found.append((theirs, count, ours))
    return tuple(Word(place, *one) for place, one in enumerate(found[:_MOST_WORDS]))


def _file_columns(upload: Upload, kind: Filing, column_map: ColumnMap) -> list[FileColumn]:
    cells = sample_kept(upload).cells()
    described = {column.name: column for column in kind.described}
    mask = upload.county.mask if upload.county else None
    file_columns = []
    own = set(columns_of_file(upload.header))
    for place, name in enumerate(upload.header):
        if name not in own:
            continue
        held = [row[name] for row in cells]
        target = column_map.target(name)
        column = described.get(target or "")
        words = _words(column, held, dict(column_map.words.get(target or "", {}))) if column else ()
        written = [month_first(str(cell or "")) for cell in held] if target in column_map.day_first else held
        share = readable(column, written, mask) if column and not words else None
        file_columns.append(
            FileColumn(
                place, name, tuple(text[:40] for text in list(dict.fromkeys(cell for cell in held if cell.strip()))[:3]),
                target, column, None if share is None else int(share * 100), words, column_map.times.get(target or "", ""),
                target in column_map.day_first,
            )
        )  # fmt: skip
    return file_columns


def _taking(upload: Upload, county: County) -> CountyIntake:
    return CountyIntake(SourceFile(county=county, kind=upload.kind, name=upload.name, as_of=upload.as_of), county, now())


def _required(upload: Upload, kind: Filing, filled: set[str]) -> list[Column]:
    """Return the columns that a row needs and no column of the file fills."""
    missing = kind.missing(filled)
    required = [column for column in kind.described if column.name in missing]
    if upload.county is None and COUNTY not in filled:
        required.insert(0, Column(COUNTY, "", str, "", is_required=True, takes="the county's name"))
    return required


def preview_of(upload: Upload, column_map: ColumnMap) -> Preview:
    """Return how an upload would be read with a mapping."""
    kind = KINDS[upload.kind]
    columns = _file_columns(upload, kind, column_map)
    filled = {one.target for one in columns if one.target}
    required = _required(upload, kind, filled)
    found = Preview(columns, [
        (column, column_map.fixed.get(column.name, ""), kind.or_else.get(column.name, "")) for column in required
    ])  # fmt: skip
    asked = {column.name for column in required}
    found.fixed = [(column, column_map.fixed[column.name]) for column in kind.described if column.name in column_map.fixed.keys() - asked]
    cells = sample_kept(upload).cells()
    held = {name: [row.get(name) for row in cells] for name in upload.header}
    found.doubts = doubts_about(kind.name, {column.name: column for column in kind.described}, column_map, held)
    if found.is_ready:
        shown = [column for column in kind.described if column.name in filled | column_map.fixed.keys() and column.name != COUNTY]
        own = [one.name for one in columns if one.target in (OWN, one.name) and one.column is None]
        _FirstRows(upload, found, kind, shown, own).read(Translator(kind, column_map))
    return found


class _FirstRows:
    """Reads the first rows of an upload into its preview."""

    def __init__(self, upload: Upload, found: Preview, kind: Filing, shown: Sequence[Column], own: Sequence[str]) -> None:
        self.upload, self.found, self.kind, self.shown, self.own = upload, found, kind, shown, own
        self.belonging = Belonging(upload.county)
        self.county_intakes = {pk: _taking(upload, county) for pk, county in self.belonging.counties.items()}
        self.drafts: dict[int, list[Draft]] = {}
        found.header = [column.name for column in shown] + list(own)

    def read(self, translator: Translator) -> None:
        for raw in sample_kept(self.upload).raw_rows():
            line = SourceLine(raw.number, translator.cells(raw.cells, raw.number), raw.fault, raw.cells)
            self.found.looked_at += 1
            try:
                self._take(line)
            except RefusedRowError as reason:
                self._refuse(line, reason)
        self._count_unknown_parcels()

    def _take(self, line: SourceLine) -> None:
        county_intake = self.county_intakes[self.belonging.county_of(line).pk]
        if line.fault:
            raise line.refuse("", line.fault)
        draft = _read_one(self.kind, county_intake, line)
        self.drafts.setdefault(county_intake.county.pk, []).append(draft)
        self.found.doubtful += bool(draft.doubts)
        if len(self.found.rows) < SHOWN:
            texts = [_cut(_text_of(column, draft, county_intake)) for column in self.shown]
            doubt = next(iter(draft.doubts), None)
            place = self.found.header.index(doubt.column) if doubt and doubt.column in self.found.header else None
            why = f"{doubt.column} {_cut(doubt.value)} {doubt.reason}" if doubt else ""
            cells = (*texts, *(_cut(line.text(name)) or "·" for name in self.own))
            self.found.rows.append(PreviewRow(line.number, cells, place, why, is_doubtful=bool(doubt)))

    def _refuse(self, line: SourceLine, reason: RefusedRowError) -> None:
        found = self.found
        found.refused += 1
        if len(found.rows) < SHOWN or found.refused <= 3:
            place = found.header.index(reason.column) if reason.column in found.header else None
            texts = [_cut(line.text(name)) for name in found.header]
            found.rows.append(PreviewRow(line.number, tuple(texts), place, f"{reason.column} {reason.reason}".strip()))

    def _count_unknown_parcels(self) -> None:
        """Count the rows of parcels that are not on record; a file of parcels brings its own."""
        if not self.kind.needs_parcel or self.kind.name == "parcels":
            return
        for pk, read in self.drafts.items():
            known = self.kind.find_parcels(self.county_intakes[pk], read)
            self.found.unknown_parcels += sum(1 for draft in read if not known.keys() >= set(draft.keys))


def _read_one(kind: Filing, county_intake: CountyIntake, line: SourceLine) -> Draft:
    # Pictures and papers stand for themselves; the first rows hold their names alone.
    if kind.name in ("photographs", "case-papers"):
        return Draft(line, {name: line.text(name) for name in kind.columns if name not in ("folder", "image", "paper")})
    return kind.read(county_intake, line)


def _text_of(column: Column, draft: Draft, county_intake: CountyIntake) -> str:
    if "parcel number" in column.takes and draft.keys:
        return "; ".join(county_intake.county.mask.format(key) for key in draft.keys)
    if not column.field:
        return draft.line.text(column.name) or "·"
    return _shown(column, draft.texts.get(column.field) or draft.values.get(column.field))


def _cut(text: str) -> str:
    return text if len(text) <= _LONGEST else f"{text[:_LONGEST]}…"
