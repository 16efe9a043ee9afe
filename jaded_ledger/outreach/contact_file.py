"""Parcels and their owners as CSV: RFC 4180, streamed, safe to open in a spreadsheet."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from datetime import date

from django.db.models import Q, QuerySet

from jaded_ledger.accounts.roles import require_contacts
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.display import NONE
from jaded_ledger.core.mail.pieces import ASKED_FOR_NONE
from jaded_ledger.core.spreadsheets import guarded
from jaded_ledger.find.hits import asked_phrases
from jaded_ledger.find.named_things import search_from
from jaded_ledger.find.results import Plain, in_order, value_of, with_values
from jaded_ledger.outreach.export_log import log_export
from jaded_ledger.outreach.models import ContactExport
from jaded_ledger.records.models import ParcelFacts

BOM = "\ufeff"
"""What tells some spreadsheets that a file is UTF-8."""
DEFAULT_COLUMNS = ("county", "parcel-number", "address", "owner-name", "mailing-address")


class _Echo:
    """A file that hands back what is written to it, for streaming."""

    def write(self, text: str) -> str:
        return text


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
            return guarded(", ".join(value) or NONE)
        case str():
            return guarded(value)
    return str(value)


def lines(ordered: QuerySet[ParcelFacts], columns: Sequence[str], *, bom: bool, keys: bool) -> Iterator[str]:
    """Yield the file of parcels, which are in their order, line by line. ``keys`` heads the columns with keys, not labels."""
    traits = [CATALOGUE[column] for column in columns]
    writer = csv.writer(_Echo(), lineterminator="\r\n")
    yield (BOM if bom else "") + writer.writerow([trait.key if keys else trait.label for trait in traits])
    for facts in with_values(ordered, traits).iterator(chunk_size=2000):
        yield writer.writerow([cell(value_of(facts, trait)) for trait in traits])


def allowed(parcels: QuerySet[ParcelFacts]) -> QuerySet[ParcelFacts]:
    """Return the parcels that a file may hold: all but those whose owner asked not to be contacted. Nobody can have it otherwise."""
    return parcels.filter(Q(do_not_contact=False) | Q(do_not_contact=None))


def start(
    parcels: QuerySet[ParcelFacts], columns: Sequence[str], sort: str, scope: Scope, search: str, *, bom: bool, keys: bool
) -> Iterator[str]:
    """Log an export and return its lines, of the parcels that a file may hold. Raises PermissionDenied for a reader."""
    require_contacts(scope)
    ids = list(allowed(parcels).values_list("parcel_id", flat=True))
    details = {"columns": list(columns), "refused": {ASKED_FOR_NONE: parcels.count() - len(ids)}}
    log_export(scope, ContactExport.Form.CSV, search=search, count=len(ids), parcel_ids=ids, details=details)
    return lines(in_order(allowed(parcels), sort, asked_phrases(search_from(search, scope.team))), columns, bom=bom, keys=keys)
