"""Marks on the table's rows: what an app that stands above this one has to say of a parcel at a glance."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.results import Mark, Row

Marker = Callable[[Collection[int], Scope], Mapping[int, Sequence[Mark]]]
_markers: list[Marker] = []


def register(marker: Marker) -> None:
    """Have rows marked by an app that stands above this one."""
    _markers.append(marker)


def with_marks(rows: Sequence[Row], scope: Scope) -> list[Row]:
    """Return a page's rows with their marks."""
    ids = [row.parcel_id for row in rows]
    found = [marker(ids, scope) for marker in _markers] if ids else []
    return [replace(row, marks=tuple(mark for marks in found for mark in marks.get(row.parcel_id, ()))) for row in rows]
