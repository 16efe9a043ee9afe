"""Marks on the table's rows: what an app has to say of a parcel at a glance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.results import Row
from jaded_ledger.plugins import hooks


def with_marks(rows: Sequence[Row], scope: Scope) -> list[Row]:
    """Return a page's rows with their marks."""
    ids = [row.parcel_id for row in rows]
    by_app = hooks.row_marks(parcel_ids=ids, scope=scope) if ids else []
    return [replace(row, marks=tuple(mark for marks in by_app for mark in marks.get(row.parcel_id, ()))) for row in rows]
