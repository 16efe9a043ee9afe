"""Columns of files under a name: the last ones used, those shipped for common purposes, a team's own, and those of the table in Find."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any, NamedTuple

from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.contacts.acts import CONTACTS
from jaded_ledger.contacts.models import FileColumns
from jaded_ledger.find.column_sets import column_sets

LONGEST_NAME = 60


class FileColumnsError(ValueError):
    """A name that columns can't have; the message says why."""


class Offered(NamedTuple):
    """Columns that are offered for a file, with how the rest of its form begins; ``kept`` where they are the team's for files."""

    key: str
    name: str
    columns: tuple[str, ...]
    kept: FileColumns | None = None
    begins: Mapping[str, object] = MappingProxyType({})


LAST = "last"
SHIPPED = (
    Offered(
        "mail-house", "mail house",
        (
            "envelope-name", "in-care-of", "mail-street", "mail-city", "mail-state", "mail-zip-4", "property-street", "property-city",
            "property-state", "property-zip", "parcel-number",
        ),
        begins={"per": "owner", "reading_case": True},
    ),
    Offered(
        "phone-list", "phone list", ("telephone", "first-name", "last-name", "property-street", "property-city", "parcel-number", "e-mail"),
        begins={"per": "telephone", "reading_case": True},
    ),
    Offered(
        "spreadsheet", "spreadsheet",
        (
            "county", "parcel-number", "address", "class", "owner-name", "mailing-address", "owner-occupied", "last-sale",
            "last-sale-price", "estimated-value", "equity", "loan-balance",
        ),
        begins={"form": "xlsx"},
    ),
)  # fmt: skip
"""What a mail house merges, what somebody calls from, and what is sorted and summed."""


def used(columns: Sequence[str], form: Mapping[str, object]) -> dict[str, object]:
    """Return what is remembered of the last file that somebody made."""
    kept = {name: form[name] for name in ("form", "per", "dialing", "reading_case", "a_column_a_list") if form.get(name)}
    return {"columns": list(columns), "begins": kept}


def _last(remembered: Any) -> Iterator[Offered]:
    """Yield what was used last, as far as it is still there."""
    if isinstance(remembered, dict) and isinstance(remembered.get("columns"), list):
        yield Offered(LAST, "last used", tuple(map(str, remembered["columns"])), begins=dict(remembered.get("begins") or {}))


def kept_columns(scope: Scope) -> QuerySet[FileColumns]:
    """Return the columns that the team keeps for files, by name."""
    return FileColumns.objects.filter(team=scope.team, deleted_at=None)


def offered(scope: Scope, remembered: Any = None) -> dict[str, Offered]:
    """Return what is offered, by key: first what was used last, as ``used`` told it, then what is shipped and what is kept for files."""
    files = [Offered(f"file-{one.pk}", one.name, tuple(one.columns), one) for one in kept_columns(scope)]
    tables = [Offered(f"table-{one.pk}", one.name, tuple(one.columns)) for one in column_sets(scope)]
    return {one.key: one for one in (*_last(remembered), *SHIPPED, *files, *tables)}


def keep(scope: Scope, name: str, columns: Sequence[str]) -> FileColumns:
    """Keep columns under a name, in the place of what it held. Raises FileColumnsError and PermissionDenied."""
    require(scope, CONTACTS)
    called = " ".join(name.split())
    if not 0 < len(called) <= LONGEST_NAME:
        raise FileColumnsError(f"columns are kept under a name of 1 to {LONGEST_NAME} characters")
    found, _ = FileColumns.objects.update_or_create(team=scope.team, name=called, deleted_at=None, defaults={"columns": list(columns)})
    return found
