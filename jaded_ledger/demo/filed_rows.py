"""A record as its file would have it again: what a feed starts from when a row has changed."""

from __future__ import annotations

from typing import Any

from jaded_ledger.intake.columns import SEVERAL
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.records.models import Filed


def cells_of(kind: str, row: Filed) -> dict[str, Any]:
    """Return a record's cells by the columns of its kind."""
    cells: dict[str, Any] = {}
    for column in KINDS[kind].described:
        if not column.field:
            cells[column.name] = _parcel_numbers(row)
            continue
        value = getattr(row, column.field)
        if column.field.endswith("_id") and value is not None and hasattr(row, column.field.removesuffix("_id")):
            linked = getattr(row, column.field.removesuffix("_id"))
            value = getattr(linked, "text", value)
        cells[column.name] = value
    return cells


def _parcel_numbers(row: Any) -> str:
    if hasattr(row, "parcels"):
        return SEVERAL.join(sorted(row.parcels.values_list("number", flat=True)))
    if row.parcel_id is None:
        return str(getattr(row, "parcel_number", ""))
    return str(row.parcel.number)
