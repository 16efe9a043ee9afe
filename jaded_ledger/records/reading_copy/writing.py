"""Writing a county's copy: what PostgreSQL holds of it at one moment, into a file that gets its name when it is whole."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import duckdb
import numpy as np
from django.conf import settings
from django.db import connection, transaction
from django.db.models import F, QuerySet, Value

from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import County, ParcelFacts
from jaded_ledger.records.reading_copy.columns import Beside, CopiedColumn, facts_columns, tables_beside
from jaded_ledger.records.reading_copy.files import file_of, folder, outdated, versions

WRITE_COPY = "records.write_copy"
"""The job that writes a county's copy."""
TABLE = ParcelFacts._meta.db_table
WRITTEN_OF = "written_of"
"""The table in a file that says of which county's facts it is, and in which version: a file's name may be wrong."""


def limits() -> dict[str, str | bool | int | float | list[str]]:
    """Return what one process's DuckDB may use; what it has no room for it puts on the disk. It would fetch what it lacks."""
    return {
        "threads": settings.READING_COPY_THREADS, "memory_limit": settings.READING_COPY_MEMORY, "temp_directory": str(folder() / "spilled"),
        "autoinstall_known_extensions": "false", "autoload_known_extensions": "false",
    }  # fmt: skip


def write_copy(county: County) -> Path | None:
    """Write a county's copy unless there is one of its facts as they stand; return its file, None where there are no facts."""
    with _one_moment():
        version = versions([county.pk]).get(county.pk)
        if version is None:
            return None
        path = file_of(county.pk, version)
        if not path.exists():
            folder().mkdir(parents=True, exist_ok=True)
            unfinished = path.with_name(f"{path.name}.{os.getpid()}")
            try:
                _fill(unfinished, county, version)
                unfinished.rename(path)
            finally:
                unfinished.unlink(missing_ok=True)
                # What DuckDB had not put into the file yet.
                unfinished.with_name(f"{unfinished.name}.wal").unlink(missing_ok=True)
    # Who has one of them open goes on reading it.
    for other in outdated(county.pk, version):
        other.unlink(missing_ok=True)
    return path


@contextmanager
def _one_moment() -> Iterator[None]:
    """Have the version and the rows be those of one moment."""
    is_outermost = not connection.in_atomic_block
    with transaction.atomic():
        if is_outermost:
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        yield


_IDS_AT_ONCE = 100_000


def _fill(path: Path, county: County, version: str) -> None:
    with duckdb.connect(path, config=limits()) as file:
        file.execute(f"CREATE TABLE {WRITTEN_OF} (county_id BIGINT, version VARCHAR)")
        file.execute(f"INSERT INTO {WRITTEN_OF} VALUES (?, ?)", [county.pk, version])
        facts = ParcelFacts.objects.filter(county=county).order_by("parcel_number")
        _make(file, TABLE, facts_columns())
        _copy(file, TABLE, facts, facts_columns())
        for beside in tables_beside():
            # Two counties may have the same row.
            columns = (CopiedColumn("county_id", Value(county.pk), "BIGINT"), CopiedColumn("id", F("pk"), "BIGINT"), *beside.columns)
            _make(file, beside.name, columns)
            ids = _pointed_at(file, beside)
            for start in range(0, len(ids), _IDS_AT_ONCE):
                some = among_ids(ids[start : start + _IDS_AT_ONCE].tolist())
                _copy(file, beside.name, beside.model._default_manager.filter(pk__in=some).order_by("pk"), columns)


def _make(file: duckdb.DuckDBPyConnection, table: str, columns: Sequence[CopiedColumn]) -> None:
    declared = ", ".join(f'"{column.name}" {column.type}' for column in columns)
    file.execute(f"CREATE TABLE {table} ({declared})")


def _pointed_at(file: duckdb.DuckDBPyConnection, beside: Beside) -> np.ndarray:
    every = " UNION ALL ".join(f"SELECT {pointer} AS id FROM {TABLE}" for pointer in beside.pointers)
    return file.execute(f"SELECT DISTINCT id FROM ({every}) WHERE id IS NOT NULL ORDER BY id").fetchnumpy()["id"]


def _as_csv(sql: str, values: Sequence[Any]) -> Iterator[Any]:
    with connection.cursor() as cursor, cursor.copy(f"COPY ({sql}) TO STDOUT CSV", values) as copy:
        yield from copy


_CSV = "header=false, auto_detect=false, parallel=false, delim=',', quote='\"', escape='\"', nullstr='', allow_quoted_nulls=false"


def _copy(file: duckdb.DuckDBPyConnection, table: str, rows: QuerySet[Any], columns: Sequence[CopiedColumn]) -> None:
    """Have PostgreSQL write rows into a pipe that DuckDB reads from: nothing of them is kept in between."""
    sql, values = rows.values_list(*(column.source for column in columns)).query.sql_with_params()  # type: ignore[arg-type]
    types = ", ".join(f"'{column.name}': '{'VARCHAR' if column.is_array else column.type}'" for column in columns)
    read = ", ".join(
        f'CAST(CAST("{column.name}" AS JSON) AS {column.type})' if column.is_array else f'"{column.name}"' for column in columns
    )
    out, into = os.pipe()

    def take() -> None:
        try:
            file.execute(f"INSERT INTO {table} SELECT {read} FROM read_csv('/dev/fd/{out}', columns={{{types}}}, {_CSV})")
        finally:
            # Who writes into it then hears that nobody reads, and does not wait.
            os.close(out)

    with ThreadPoolExecutor(1) as beside:
        taking = beside.submit(take)
        with suppress(BrokenPipeError), open(into, "wb") as pipe:
            for block in _as_csv(sql, values):
                pipe.write(block)
        taking.result()
