"""A parcel's recorded rows of one kind, set as a table or as sheets, each with the file and line it came from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from urllib.parse import quote

from django.contrib.gis.db.models import GeometryField
from django.db import models

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.phone_numbers import national
from jaded_ledger.core.several_parcels import listed_numbers
from jaded_ledger.properties.cells import is_figure, label_of, reads
from jaded_ledger.properties.record_kinds import PropertyRecord, RecordKind, Section, covers_several
from jaded_ledger.records.models import Contact, Filed, Owner, Parcel, SourceFile, StoredImage, StoredPaper
from jaded_ledger.records.models.contacts import ContactKind
from jaded_ledger.records.models.filed import own_fields

FURTHER = "further"
"""The file's own further columns, which have no fields of their own."""
_LINKED = (Owner, Parcel, StoredImage, StoredPaper)
_WRAPPED = 22
"""Texts longer than this are wrapped in a table."""


@dataclass(frozen=True)
class Cell:
    """One value under its heading; blank when it is not known."""

    label: str
    text: str
    is_figure: bool = False
    is_prose: bool = False
    """Whether it is running text, which a sheet sets as a paragraph."""
    link: str = ""
    """Where it leads, such as a call to a phone number."""

    @property
    def is_wrapped(self) -> bool:
        return len(self.text) > _WRAPPED


@dataclass(frozen=True)
class Entry:
    """One recorded row: its values, where they came from, and from when to when they stood."""

    row: Filed
    cells: tuple[Cell, ...]

    @property
    def source_file(self) -> SourceFile:
        return self.row.source_file

    @property
    def known(self) -> list[Cell]:
        return [cell for cell in self.cells if cell.text]

    @property
    def unknown(self) -> list[str]:
        return [cell.label for cell in self.cells if not cell.text]

    @property
    def valid_until(self) -> date | None:
        return self.row.valid_until


@dataclass(frozen=True)
class Table:
    """A kind's rows; ``earlier`` are those that were corrected or ended."""

    kind: RecordKind
    headings: tuple[Cell, ...]
    entries: tuple[Entry, ...]
    earlier: tuple[Entry, ...]

    @property
    def has_anchors(self) -> bool:
        """Whether its rows are found by a name: the roll's stand in several sections, and are found in the first."""
        return not self.kind.fields or "owner_name" in self.kind.fields


@dataclass(frozen=True)
class SectionTables:
    """A section with its rows."""

    section: Section
    tables: tuple[Table, ...]

    @property
    def count(self) -> int:
        return sum(len(table.entries) for table in self.tables)


def shown_fields(kind: RecordKind) -> list[models.Field]:
    """Return the fields of a kind that are shown; what links a row to this page is not."""
    if kind.fields:
        fields = {field.name: field for field in kind.model._meta.fields}
        return [fields[name] for name in kind.fields if name != FURTHER]
    return [field for field in own_fields(kind.model) if field.related_model not in _LINKED and not isinstance(field, GeometryField)]


def doubts_text(row: Filed) -> str:
    """Return what of a row could not be so, in words."""
    return "; ".join(f"{name} “{said}” {reason}" for name, (said, reason) in row.doubts.items())


def _cells(kind: RecordKind, row: Any, fields: Sequence[models.Field], parcel: Parcel) -> tuple[Cell, ...]:
    found = [
        Cell(label_of(field), _text(row, field), is_figure(field), isinstance(field, models.TextField), _link(row, field))
        for field in fields
    ]
    if covers_several(kind.model):
        found.append(Cell("with", listed_numbers(sorted(one.number for one in row.parcels.all() if one != parcel))))
    if row.doubts:
        found.append(Cell("doubtful", doubts_text(row)))
    if not kind.fields or FURTHER in kind.fields:
        found += [Cell(name, in_reading_case(str(value))) for name, value in row.further.items()]
    return tuple(found)


def _is_phone(row: Filed, field: models.Field) -> bool:
    return isinstance(row, Contact) and field.name == "value" and row.kind == ContactKind.TELEPHONE


def _link(row: Filed, field: models.Field) -> str:
    """Return how to call a phone number or write to an email address (RFC 3966, RFC 6068), unless its owner asked for neither."""
    if not isinstance(row, Contact) or field.name != "value" or row.do_not_contact:
        return ""
    return f"tel:{row.value}" if _is_phone(row, field) else f"mailto:{quote(row.value, safe='@')}"


def _text(row: Filed, field: models.Field) -> str:
    value = getattr(row, field.name)
    if _is_phone(row, field):
        return national(value)
    if isinstance(field, GeometryField):
        return f"{sum(len(ring) - 1 for part in value for ring in part)} corners" if value else ""
    return reads(field, value)


def table_of(kind: RecordKind, record: PropertyRecord) -> Table:
    """Return a kind's rows on a record."""
    fields = shown_fields(kind)
    rows = record.versions(kind)
    standing = [Entry(row, _cells(kind, row, fields, record.parcel)) for row in rows if record.stands(row)]
    earlier: list[Entry] = []
    if record.day is None:
        said = {entry.cells for entry in standing}
        # A row of which another part was corrected says the same here.
        ended = (Entry(row, _cells(kind, row, fields, record.parcel)) for row in rows if not record.stands(row))
        earlier = [entry for entry in ended if entry.cells not in said]
    if kind.as_sheet:
        return Table(kind, (), tuple(standing), tuple(earlier))
    labels = list(dict.fromkeys(cell.label for entry in (*standing, *earlier) for cell in entry.known))
    figures = {cell.label for entry in (*standing, *earlier) for cell in entry.cells if cell.is_figure}
    headings = tuple(Cell(label, label, label in figures) for label in labels)
    return Table(kind, headings, tuple(_under(entry, headings) for entry in standing), tuple(_under(entry, headings) for entry in earlier))


def _under(entry: Entry, headings: Sequence[Cell]) -> Entry:
    """Return a row with a cell under each heading."""
    # A field of ours comes before a column of the file that is called the same.
    by_label = {cell.label: cell for cell in reversed(entry.cells)}
    inside = [by_label.get(heading.label, Cell(heading.label, "", heading.is_figure)) for heading in headings]
    return Entry(entry.row, tuple(inside))


def section_tables(section: Section, record: PropertyRecord) -> SectionTables:
    """Return a section with its rows; kinds without any are left out."""
    tables = (table_of(kind, record) for kind in section.kinds if not kind.is_private)
    return SectionTables(section, tuple(table for table in tables if table.entries or table.earlier))
