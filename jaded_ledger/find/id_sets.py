"""Sets of ids that PostgreSQL finds and the reading copy is handed: read as one block, and remembered for the next edit."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.db import connection
from django.db.models import BigIntegerField, QuerySet
from django.db.models.functions import Cast

from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.remembered_arrays import RememberedArrays

_REMEMBERED = RememberedArrays(32 << 20)
# PostgreSQL's binary COPY of one bigint a row: how many columns, how many bytes, the value; a header before them and a trailer after.
_ROW = np.dtype([("columns", ">i2"), ("length", ">i4"), ("id", ">i8")])
_HEADER, _TRAILER = 19, 2


def ids_of(compiled: Compiled, rows: QuerySet[Any]) -> np.ndarray:
    """Return the ids that a query of one column finds, for a search's team, day and state of the facts. Nulls are left out."""
    (name,) = rows.query.values_select or rows.query.annotation_select
    whole = rows.order_by().annotate(asked_id=Cast(name, BigIntegerField())).filter(asked_id__isnull=False).values("asked_id")
    statement = connection.ops.compose_sql(*whole.query.sql_with_params())  # type: ignore[attr-defined]
    key = (str(connection.settings_dict["NAME"]), compiled.state, statement)
    found = _REMEMBERED.get(key)
    if found is None:
        with connection.cursor() as cursor, cursor.copy(f"COPY ({statement}) TO STDOUT (FORMAT binary)") as copy:
            block = b"".join(bytes(part) for part in copy)
        found = np.frombuffer(block[_HEADER : len(block) - _TRAILER], dtype=_ROW)["id"].astype(np.int64)
        _REMEMBERED.put(key, found)
    return found
