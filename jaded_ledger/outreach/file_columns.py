"""Columns of files under a name: a team's own for files, and those that are kept for the table in Find."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from django.db.models import QuerySet

from jaded_ledger.accounts.roles import require
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.column_sets import column_sets
from jaded_ledger.outreach.acts import CONTACTS
from jaded_ledger.outreach.models import FileColumns
from jaded_ledger.records.clock import now

LONGEST_NAME = 60


class FileColumnsError(ValueError):
    """A name that columns can't have; the message says why."""


class Offered(NamedTuple):
    """Columns that are offered for a file; ``kept`` where they are the team's for files, and not the table's."""

    key: str
    name: str
    columns: tuple[str, ...]
    kept: FileColumns | None = None


def kept_columns(scope: Scope) -> QuerySet[FileColumns]:
    """Return the columns that the team keeps for files, by name."""
    return FileColumns.objects.filter(team=scope.team, removed_at=None)


def offered(scope: Scope) -> dict[str, Offered]:
    """Return what is offered, by key: first what is kept for files."""
    files = [Offered(f"file-{one.pk}", one.name, tuple(one.columns), one) for one in kept_columns(scope)]
    tables = [Offered(f"table-{one.pk}", one.name, tuple(one.columns)) for one in column_sets(scope)]
    return {one.key: one for one in (*files, *tables)}


def keep(scope: Scope, name: str, columns: Sequence[str]) -> FileColumns:
    """Keep columns under a name, in the place of what it held. Raises FileColumnsError and PermissionDenied."""
    require(scope, CONTACTS)
    called = " ".join(name.split())
    if not 0 < len(called) <= LONGEST_NAME:
        raise FileColumnsError(f"columns are kept under a name of 1 to {LONGEST_NAME} characters")
    found, _ = FileColumns.objects.update_or_create(team=scope.team, name=called, removed_at=None, defaults={"columns": list(columns)})
    return found


def remove(scope: Scope, kept: FileColumns) -> None:
    """Take kept columns away. Raises PermissionDenied."""
    require(scope, CONTACTS)
    FileColumns.objects.filter(pk=kept.pk).update(removed_at=now())


def put_back(scope: Scope, kept: FileColumns) -> None:
    """Undo that columns were taken away. Raises FileColumnsError where others have the name by now, and PermissionDenied."""
    require(scope, CONTACTS)
    if kept_columns(scope).filter(name=kept.name).exists():
        raise FileColumnsError(f"others are kept as “{kept.name}” by now; keep those under another name first")
    FileColumns.objects.filter(pk=kept.pk).update(removed_at=None)
