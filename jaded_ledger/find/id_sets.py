"""Sets of ids that PostgreSQL finds and the reading copy is handed: read as one block, and remembered for the next edit."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Any

import numpy as np
from django.db import connection
from django.db.models import BigIntegerField, QuerySet
from django.db.models.functions import Cast

from jaded_ledger.find.compiler import Compiled

_MOST_BYTES = 32 << 20
"""What a process remembers of them, the latest first."""
# PostgreSQL's binary COPY of one bigint a row: how many columns, how many bytes, the value; a header before them and a trailer after.
_ROW = np.dtype([("columns", ">i2"), ("length", ">i4"), ("id", ">i8")])
_HEADER, _TRAILER = 19, 2


class _Remembered:
    """Sets of ids by what they were asked of, as many as there is room for."""

    def __init__(self) -> None:
        self._lock, self._held = Lock(), OrderedDict[tuple[Any, ...], np.ndarray]()

    def get(self, key: tuple[Any, ...]) -> np.ndarray | None:
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
            return self._held.get(key)

    def put(self, key: tuple[Any, ...], ids: np.ndarray) -> None:
        with self._lock:
            self._held[key] = ids
            while sum(held.nbytes for held in self._held.values()) > _MOST_BYTES:
                self._held.popitem(last=False)


_REMEMBERED = _Remembered()


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
