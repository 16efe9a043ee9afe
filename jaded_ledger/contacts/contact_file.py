"""Parcels and their owners as CSV (RFC 4180, safe to open in a spreadsheet), as a workbook, and as vCards."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum
from itertools import islice
from typing import Any, TypeVar

from django.db.models import Count, QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.contact_columns import CALLS, CONTACT_COLUMNS, ONE_TELEPHONE, TELEPHONES, Beside, contacts_of
from jaded_ledger.contacts.do_not_contact import may_be_contacted, refused_by
from jaded_ledger.contacts.exports import Export, allowed
from jaded_ledger.contacts.models import ContactExport
from jaded_ledger.contacts.workbook import workbook
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.mail.vcards import Contact as Card
from jaded_ledger.core.mail.vcards import card
from jaded_ledger.core.phone_numbers import Dialing, written
from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.find.hits import asked_phrases
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.results import Plain, paths_of, plain_value
from jaded_ledger.find.search_page import columns_of
from jaded_ledger.find.sorting import in_order
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.maps.geojson import collection, feature, json_value, outlines_of
from jaded_ledger.records.bulk import among
from jaded_ledger.records.models import Contact, ParcelFacts
from jaded_ledger.records.models.contacts import ContactKind
from jaded_ledger.records.trait_columns import with_computed

BOM = "\ufeff"
"""What tells some spreadsheets that a file is UTF-8."""
_AT_ONCE = 2000
_Row = TypeVar("_Row")
DEFAULT_COLUMNS = ("county", "parcel-number", "address", "owner-name", "mailing-address")


class _Echo:
    """A file that hands back what is written to it, for streaming."""

    def write(self, text: str) -> str:
        return text


def _member(name: str) -> str:
    """Return one of several names in a cell; in quotes where it holds a comma itself."""
    return '"{}"'.format(name.replace('"', '""')) if "," in name else name


def cell(value: Plain) -> str:
    """Return a value as a file has it: plain figures, ISO dates, yes or no, nothing for unknown."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case date():
            return value.isoformat()
        case float():
            return f"{value:.10g}"
        case tuple():
            return guarded(", ".join(map(_member, value)) or NONE)
        case str():
            return guarded(value)
    return str(value)


class Per(StrEnum):
    """What each row of a file is for."""

    PARCEL = "parcel"
    OWNER = "owner"
    TELEPHONE = "telephone"

    @property
    def words(self) -> str:
        return {Per.PARCEL: "each parcel", Per.OWNER: "each owner", Per.TELEPHONE: "each telephone number of an owner"}[self]


@dataclass(frozen=True)
class FileLayout:
    """What a contact file holds: traits and contact columns by their keys, what each row is for, and its form.

    ``keys`` heads the columns with keys, not labels; ``a_column_a_list`` adds a column of yes and no for each of the team's lists.
    """

    columns: tuple[str, ...] = DEFAULT_COLUMNS
    per: Per = Per.PARCEL
    a_column_a_list: bool = False
    bom: bool = False
    keys: bool = False
    dialing: Dialing = Dialing.NATIONAL
    """How phone numbers are written."""
    reading_case: bool = False
    """Whether names and addresses recorded in capitals are written as people read them."""

    @property
    def traits(self) -> list[Trait]:
        return [CATALOGUE[key] for key in self.columns if key in CATALOGUE]

    @property
    def has_contacts(self) -> bool:
        """Whether telephone numbers or e-mail addresses are read for it."""
        groups = {CONTACT_COLUMNS[key].group for key in self.columns if key in CONTACT_COLUMNS}
        return CALLS in groups or self.per is Per.TELEPHONE

    @staticmethod
    def is_text(key: str) -> bool:
        """Whether a column holds names or addresses."""
        return key in CONTACT_COLUMNS or CATALOGUE[key].kind in (Kind.NAME, Kind.PLACE)

    def heading(self, key: str) -> str:
        if self.keys:
            return key
        return CONTACT_COLUMNS[key].label if key in CONTACT_COLUMNS else CATALOGUE[key].label


def columns_from(text: str) -> tuple[str, ...]:
    """Return the columns that a text names: traits and contact columns, with commas between. Raises CriteriaError."""
    keys = [key.strip() for key in text.split(",") if key.strip()]
    for key in keys:
        if key not in CONTACT_COLUMNS:
            columns_of(key)
    return tuple(dict.fromkeys(keys))


_PARCEL, _OWNER = 0, 1
"""Where in a row that is read the parcel and its owner stand."""


@dataclass(frozen=True)
class Reading:
    """How the columns of a file are told: what is read of a row, as queries name it, and what each column is of it.

    Objects of the rows would take longer to make than the file.
    """

    paths: tuple[str, ...]
    columns: tuple[Callable[[Sequence[Any], Beside], Plain], ...]


def _reading(layout: FileLayout) -> Reading:
    places = {"parcel": _PARCEL, "owner": _OWNER}
    columns = []
    for key in layout.columns:
        reads = CONTACT_COLUMNS[key].reads if key in CONTACT_COLUMNS else paths_of(CATALOGUE[key])
        columns.append(_column(layout, key, [places.setdefault(path, len(places)) for path in reads]))
    return Reading(tuple(places), tuple(columns))


def _column(layout: FileLayout, key: str, places: Sequence[int]) -> Callable[[Sequence[Any], Beside], Plain]:
    """Return what tells a column from what stands in some places of a row."""
    value: Callable[[Sequence[Any], Beside], Plain]
    if column := CONTACT_COLUMNS.get(key):
        value = column.value
    else:
        trait = CATALOGUE[key]
        value = lambda values, _: plain_value(trait, values)  # noqa: E731 - either is one

    if key in (ONE_TELEPHONE, *TELEPHONES):
        return lambda row, beside: _dialed(value([row[place] for place in places], beside), layout.dialing)
    if layout.reading_case and layout.is_text(key):
        return lambda row, beside: _in_reading_case(value([row[place] for place in places], beside))
    return lambda row, beside: value([row[place] for place in places], beside)


def _dialed(value: Plain, dialing: Dialing) -> Plain:
    return written(value, dialing) if isinstance(value, str) else value


def _in_reading_case(value: Plain) -> Plain:
    return in_reading_case(value) if isinstance(value, str) else value


def _in_batches(rows: Iterator[Sequence[Any]], per: Per) -> Iterator[list[Sequence[Any]]]:
    """Yield the parcels of a file, so many at once: each, or of each owner the first."""
    yield from batches_of(rows if per is Per.PARCEL else _first_of_owners(rows), _AT_ONCE)


def _first_of_owners(rows: Iterator[Sequence[Any]]) -> Iterator[Sequence[Any]]:
    seen: set[int] = set()
    for row in rows:
        if owner := row[_OWNER]:
            if owner in seen:
                continue
            seen.add(owner)
        yield row


def _beside(ordered: QuerySet[ParcelFacts], layout: FileLayout) -> Beside:
    """Return how many of the parcels each owner has, and which, where the file tells."""
    beside = Beside()
    if {"parcels-here", "parcel-numbers"} & set(layout.columns):
        for owner, number in ordered.values_list("owner_id", "parcel__number"):
            if owner:
                beside.parcels[owner] += 1
                beside.numbers.setdefault(owner, []).append(number)
    return beside


def rows_of(ordered: QuerySet[ParcelFacts], layout: FileLayout, scope: Scope) -> Iterator[list[Plain]]:
    """Yield the headings of a file, and then the values of each row, of parcels that are in their order."""
    yield headings(layout, scope)
    for _, row in told_rows(ordered, layout, scope):
        yield row


def headings(layout: FileLayout, scope: Scope) -> list[Plain]:
    """Return what heads each column of a file."""
    lists = lists_of(scope.team) if layout.a_column_a_list else ()
    return [*(layout.heading(key) for key in layout.columns), *(one.name for one in lists)]


def told_rows(ordered: QuerySet[ParcelFacts], layout: FileLayout, scope: Scope) -> Iterator[tuple[int, list[Plain]]]:
    """Yield the values of each row of a file with the parcel that it is of."""
    lists = list(lists_of(scope.team)) if layout.a_column_a_list else []
    beside, refused = _beside(ordered, layout), refused_by(scope)
    reading = _reading(layout)
    rows = with_computed(ordered, layout.traits).values_list(*reading.paths).iterator(chunk_size=_AT_ONCE)
    for batch in _in_batches(rows, layout.per):
        beside.contacts = contacts_of({row[_OWNER] for row in batch if row[_OWNER]}, refused.lines) if layout.has_contacts else {}
        on = _lists_of([row[_PARCEL] for row in batch], scope) if lists else {}
        for row in batch:
            parcel = row[_PARCEL]
            on_lists = on.get(parcel, ())
            for telephone in _telephones(row[_OWNER], beside) if layout.per is Per.TELEPHONE else ("",):
                beside.telephone = telephone
                yield parcel, [*[column(row, beside) for column in reading.columns], *[one.pk in on_lists for one in lists]]


def _telephones(owner: int | None, beside: Beside) -> Sequence[str]:
    return beside.contacts.get((owner or 0, ContactKind.TELEPHONE.value), ())


def lines(ordered: QuerySet[ParcelFacts], layout: FileLayout, scope: Scope) -> Iterator[str]:
    """Yield the file of parcels, which are in their order, as CSV, line by line."""
    writer = csv.writer(_Echo(), lineterminator="\r\n")
    rows = rows_of(ordered, layout, scope)
    yield (BOM if layout.bom else "") + writer.writerow(map(cell, next(rows)))
    for row in rows:
        yield writer.writerow(map(cell, row))


def _lists_of(parcels: Sequence[int], scope: Scope) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {}
    for parcel, on in memberships(scope).filter(parcel__in=parcels).values_list("parcel_id", "list_id"):
        found.setdefault(parcel, set()).add(on)
    return found


def saved_by_owner(parcels: QuerySet[ParcelFacts]) -> int:
    """Return how many rows fewer a file has with one row an owner."""
    found = parcels.filter(owner__isnull=False).aggregate(parcels=Count("pk"), owners=Count("owner", distinct=True))
    return int(found["parcels"] - found["owners"])


def telephones_in(parcels: QuerySet[ParcelFacts], scope: Scope) -> int:
    """Return how many rows a file has with a row for each telephone number of an owner: owners without one have none."""
    owners = parcels.filter(owner__isnull=False).values("owner")
    usable = Contact.objects.filter(owner__in=owners, kind=ContactKind.TELEPHONE, superseded_at=None, do_not_contact=False)
    return usable.exclude(value__in=among(refused_by(scope).lines)).count()


class FileForm(StrEnum):
    """The forms of a contact file."""

    CSV = "csv"
    WORKBOOK = "xlsx"
    CARDS = "vcf"
    GEOJSON = "geojson"

    @property
    def words(self) -> str:
        return {
            FileForm.CSV: "CSV",
            FileForm.WORKBOOK: "Excel workbook",
            FileForm.CARDS: "vCards, one an owner",
            FileForm.GEOJSON: "GeoJSON, with the outlines",
        }[self]

    @property
    def content_type(self) -> str:
        return {
            FileForm.CSV: "text/csv; charset=utf-8",
            FileForm.WORKBOOK: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
            FileForm.CARDS: "text/vcard; charset=utf-8",
            FileForm.GEOJSON: "application/geo+json",
        }[self]


@dataclass(frozen=True)
class ContactFile:
    """A contact file: its bytes, which are written as they are asked for, and what is noted of it."""

    parts: Iterator[bytes]
    export: Export


def contact_file(
    parcels: QuerySet[ParcelFacts], layout: FileLayout, sort: str, scope: Scope, search: str, form: FileForm = FileForm.CSV
) -> ContactFile:
    """Return the file of the parcels that one may hold. Raises PermissionDenied for a reader, BeyondLimitError beyond one's limit."""
    layout = layout_for(layout, form)
    may = may_be_contacted(parcels, scope)
    ids = list(may.values_list("parcel_id", flat=True))
    details = {
        "columns": list(layout.columns),
        "per": layout.per,
        "form": form,
        "refused": {Reason.DO_NOT_MAIL: parcels.count() - len(ids)},
    }
    rows = rows_in(may, layout.per, scope)
    export = allowed(scope, ContactExport.Form.CSV, rows=rows, search=search, parcel_ids=ids, details=details)

    ordered = in_order(may, sort, asked_phrases(search_from(search, scope.team)))
    parts: Iterator[bytes]
    match form:
        case FileForm.CSV:
            parts = (line.encode() for line in lines(ordered, layout, scope))
        case FileForm.WORKBOOK:
            parts = workbook(rows_of(ordered, layout, scope))
        case FileForm.CARDS:
            parts = (card(_contact(row)).encode() for _, row in told_rows(ordered, layout, scope))
        case FileForm.GEOJSON:
            parts = (part.encode() for part in collection(_features(ordered, layout, scope)))
    return ContactFile(parts, export)


def _features(ordered: QuerySet[ParcelFacts], layout: FileLayout, scope: Scope) -> Iterator[str]:
    """Yield each row as a feature, with the outline of its parcel."""
    heads = headings(layout, scope)
    for batch in batches_of(told_rows(ordered, layout, scope), _AT_ONCE):
        outlines = outlines_of([parcel for parcel, _ in batch])
        for parcel, row in batch:
            properties = {str(head): json_value(value) for head, value in zip(heads, row, strict=True)}
            yield feature(parcel, outlines.get(parcel), properties)


def batches_of(rows: Iterator[_Row], size: int) -> Iterator[list[_Row]]:
    """Yield rows so many at once, as they come."""
    while batch := list(islice(rows, size)):
        yield batch


def layout_for(layout: FileLayout, form: FileForm) -> FileLayout:
    """Return what a file of a form holds: cards hold what cards do, and rows for telephone numbers say which."""
    if form is FileForm.CARDS:
        return CARD_LAYOUT
    if layout.per is Per.TELEPHONE and ONE_TELEPHONE not in layout.columns:
        return replace(layout, columns=(*layout.columns, ONE_TELEPHONE))
    return layout


def rows_in(may: QuerySet[ParcelFacts], per: Per, scope: Scope) -> int:
    """Return how many rows a file of some parcels has."""
    match per:
        case Per.OWNER:
            return may.count() - saved_by_owner(may)
        case Per.TELEPHONE:
            return telephones_in(may, scope)
    return may.count()


CARD_LAYOUT = FileLayout(
    (
        "envelope-name", "first-name", "last-name", "name-suffix", "mail-street", "mail-city", "mail-state", "mail-zip",
        *TELEPHONES, "e-mail", "parcel-numbers",
    ), per=Per.OWNER, dialing=Dialing.E164,
)  # fmt: skip
"""What a card is made of, a row an owner."""


def _contact(row: Sequence[Plain]) -> Card:
    name, given, surname, suffix, street, city, state, zip_code, *lines, email, numbers = (str(one or "") for one in row)
    return Card(
        name or numbers, surname, given, suffix, street, city, state, zip_code, [one for one in lines if one], [email] if email else [],
        f"Parcels: {numbers}",
    )  # fmt: skip


def start(parcels: QuerySet[ParcelFacts], layout: FileLayout, sort: str, scope: Scope, search: str) -> Iterator[str]:
    """Log an export and return its lines. Raises PermissionDenied for a reader."""
    made = contact_file(parcels, layout, sort, scope, search)
    made.export.note()
    return (part.decode() for part in made.parts)
