"""Parcels and their owners as CSV: RFC 4180, streamed, safe to open in a spreadsheet."""

from __future__ import annotations

import csv
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from django.db.models import Count, QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.core.mail.pieces import Reason
from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.find.hits import asked_phrases
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.results import Plain, joined_with, value_of, with_values
from jaded_ledger.find.search_page import columns_of
from jaded_ledger.find.sorting import in_order
from jaded_ledger.lists.counts import lists_of
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.outreach.acts import CONTACTS
from jaded_ledger.outreach.contact_columns import CONTACT_COLUMNS, Beside, contacts_of
from jaded_ledger.outreach.do_not_contact import may_be_contacted, refused_by
from jaded_ledger.outreach.export_log import log_export
from jaded_ledger.outreach.models import ContactExport
from jaded_ledger.records.models import ParcelFacts

BOM = "\ufeff"
"""What tells some spreadsheets that a file is UTF-8."""
_AT_ONCE = 2000
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


@dataclass(frozen=True)
class FileLayout:
    """What a contact file holds: traits and contact columns by their keys, a row a parcel or a row an owner, and its form.

    ``keys`` heads the columns with keys, not labels; ``a_column_a_list`` adds a column of yes and no for each of the team's lists.
    """

    columns: tuple[str, ...] = DEFAULT_COLUMNS
    one_per_owner: bool = False
    a_column_a_list: bool = False
    bom: bool = False
    keys: bool = False
    reading_case: bool = False
    """Whether names and addresses recorded in capitals are written as people read them."""

    @property
    def traits(self) -> list[Trait]:
        return [CATALOGUE[key] for key in self.columns if key in CATALOGUE]

    @property
    def reads(self) -> set[str]:
        """What of a row's facts the contact columns read."""
        return {name for key in self.columns if key in CONTACT_COLUMNS for name in CONTACT_COLUMNS[key].reads}

    def cased(self, key: str, value: Plain) -> Plain:
        """Return a value in the case that the file has it in."""
        is_name = key in CONTACT_COLUMNS or CATALOGUE[key].kind in (Kind.NAME, Kind.PLACE)
        return in_reading_case(value) if self.reading_case and is_name and isinstance(value, str) else value

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


def _in_batches(ordered: QuerySet[ParcelFacts], *, one_per_owner: bool) -> Iterator[list[ParcelFacts]]:
    """Yield the rows of a file, so many at once: each parcel, or of each owner the first."""
    seen: set[int] = set()
    batch: list[ParcelFacts] = []
    for facts in ordered.iterator(chunk_size=_AT_ONCE):
        if one_per_owner and facts.owner_id:
            if facts.owner_id in seen:
                continue
            seen.add(facts.owner_id)
        batch.append(facts)
        if len(batch) == _AT_ONCE:
            yield batch
            batch = []
    if batch:
        yield batch


def _beside(ordered: QuerySet[ParcelFacts], layout: FileLayout) -> Beside:
    """Return how many of the parcels each owner has, and which, where the file tells."""
    beside = Beside()
    if {"parcels-here", "parcel-numbers"} & set(layout.columns):
        for owner, number in ordered.values_list("owner_id", "parcel__number"):
            if owner:
                beside.parcels[owner] += 1
                beside.numbers.setdefault(owner, []).append(number)
    return beside


def lines(ordered: QuerySet[ParcelFacts], layout: FileLayout, scope: Scope) -> Iterator[str]:
    """Yield the file of parcels, which are in their order, line by line."""
    writer = csv.writer(_Echo(), lineterminator="\r\n")
    lists = list(lists_of(scope.team)) if layout.a_column_a_list else []
    headings = [layout.heading(key) for key in layout.columns] + [guarded(one.name) for one in lists]
    yield (BOM if layout.bom else "") + writer.writerow(headings)
    beside, refused = _beside(ordered, layout), refused_by(scope)
    rows = with_values(ordered, layout.traits)
    if layout.reads:
        rows = rows.select_related(*sorted({*layout.reads, *joined_with(layout.traits)}))
    for batch in _in_batches(rows, one_per_owner=layout.one_per_owner):
        beside.contacts = contacts_of(batch, refused.lines)
        on = _lists_of(batch, scope) if lists else {}
        for facts in batch:
            values = (
                (key, CONTACT_COLUMNS[key].value(facts, beside) if key in CONTACT_COLUMNS else value_of(facts, CATALOGUE[key]))
                for key in layout.columns
            )
            cells = [layout.cased(key, value) for key, value in values]
            marks = ["yes" if one.pk in on.get(facts.parcel_id, ()) else "no" for one in lists]
            yield writer.writerow([*map(cell, cells), *marks])


def _lists_of(batch: Sequence[ParcelFacts], scope: Scope) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {}
    for parcel, on in memberships(scope).filter(parcel__in=[facts.parcel_id for facts in batch]).values_list("parcel_id", "list_id"):
        found.setdefault(parcel, set()).add(on)
    return found


def saved_by_owner(parcels: QuerySet[ParcelFacts]) -> int:
    """Return how many rows fewer a file has with one row an owner."""
    found = parcels.filter(owner__isnull=False).aggregate(parcels=Count("pk"), owners=Count("owner", distinct=True))
    return int(found["parcels"] - found["owners"])


@dataclass(frozen=True)
class ContactFile:
    """A contact file: its lines, which are written as they are asked for, and the note that is kept of it."""

    lines: Iterator[str]
    log: Callable[[], ContactExport]


def contact_file(parcels: QuerySet[ParcelFacts], layout: FileLayout, sort: str, scope: Scope, search: str) -> ContactFile:
    """Return the file of the parcels that one may hold. Raises PermissionDenied for a reader."""
    require(scope, CONTACTS)
    may = may_be_contacted(parcels, scope)
    ids = list(may.values_list("parcel_id", flat=True))
    details = {
        "columns": list(layout.columns),
        "one_per_owner": layout.one_per_owner,
        "refused": {Reason.DO_NOT_MAIL: parcels.count() - len(ids)},
    }
    rows = len(ids) - (saved_by_owner(may) if layout.one_per_owner else 0)

    def log() -> ContactExport:
        return log_export(scope, ContactExport.Form.CSV, search=search, count=rows, parcel_ids=ids, details=details)

    return ContactFile(lines(in_order(may, sort, asked_phrases(search_from(search, scope.team))), layout, scope), log)


def start(parcels: QuerySet[ParcelFacts], layout: FileLayout, sort: str, scope: Scope, search: str) -> Iterator[str]:
    """Log an export and return its lines. Raises PermissionDenied for a reader."""
    made = contact_file(parcels, layout, sort, scope, search)
    made.log()
    return made.lines
