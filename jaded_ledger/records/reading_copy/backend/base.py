"""A database backend for the reading copy: querysets are compiled as for PostgreSQL, and DuckDB is asked.

Both understand the statements that searches are compiled to, and answer the same; tests hold them to it. It only reads. Sets of ids
that PostgreSQL found are handed over as tables of one column.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from threading import Timer
from typing import Any, TypeVar

import duckdb
import numpy as np
from django.conf import settings
from django.contrib.gis.db.backends.postgis.base import DatabaseWrapper as PostGIS
from django.contrib.gis.db.backends.postgis.features import DatabaseFeatures as PostGISFeatures
from django.db.backends.postgresql.creation import DatabaseCreation
from django.db.models import BigIntegerField, Expression, QuerySet

from jaded_ledger.records.reading_copy.opened import OPENED, POSITION

Read = TypeVar("Read")


def _ask(
    connection: duckdb.DuckDBPyConnection, sql: str, params: Sequence[Any] | None, read: Callable[[duckdb.DuckDBPyConnection], Read]
) -> Read:
    """Return what ``read`` takes from the answer to a statement, within the time that statements have."""
    # Where there may be values, a literal percent sign is written twice, as for psycopg.
    statement = sql if params is None else sql % (("?",) * len(params))
    overdue = Timer(settings.STATEMENT_SECONDS["read"], connection.interrupt)
    overdue.start()
    try:
        return read(connection.execute(statement, list(params or ())))
    finally:
        overdue.cancel()


class _Position(Expression):
    """Where a parcel stands among all of its schema."""

    output_field = BigIntegerField()

    def as_sql(self, compiler: Any, connection: Any) -> tuple[str, tuple[str | int, ...]]:
        return POSITION, ()


class Cursor:
    """A cursor as Django's backends expect one."""

    def __init__(self, connection: duckdb.DuckDBPyConnection) -> None:
        self._connection = connection
        self._rows: Iterator[tuple[Any, ...]] = iter(())

    def execute(self, sql: str, params: Sequence[Any] | None = None) -> None:
        # To the end: DuckDB takes no other statement before.
        self._rows = iter(_ask(self._connection, sql, params, lambda answer: answer.fetchall()))

    def fetchone(self) -> tuple[Any, ...] | None:
        return next(self._rows, None)

    def fetchmany(self, size: int = 100) -> list[tuple[Any, ...]]:
        return list(islice(self._rows, size))

    def fetchall(self) -> list[tuple[Any, ...]]:
        return list(self._rows)

    def __iter__(self) -> Iterator[tuple[Any, ...]]:
        return self._rows

    def close(self) -> None:
        """Nothing is held beside the connection."""


class NothingToMake(DatabaseCreation):
    """Tests make no database for it: a copy is a file that is written when a test needs one."""

    def create_test_db(self, *args: Any, **options: Any) -> str:
        return str(self.connection.settings_dict["NAME"])

    def destroy_test_db(self, *args: Any, **options: Any) -> None:
        """There is none."""

    def clone_test_db(self, *args: Any, **options: Any) -> None:
        """There is none."""


class Features(PostGISFeatures):
    """What differs from PostgreSQL as far as expressions of ours must know it."""

    has_width_bucket = False


class DatabaseWrapper(PostGIS):
    """The copies as a database of Django's."""

    # A figure's digits all find room in 64 bits, with which DuckDB computes much sooner than with more.
    data_types = PostGIS.data_types | {"DecimalField": "DECIMAL(18, 6)"}
    features_class = Features
    creation_class = NothingToMake
    pg_version = 150000

    def get_connection_params(self) -> dict[str, Any]:
        return {}

    def get_new_connection(self, conn_params: dict[str, Any]) -> duckdb.DuckDBPyConnection:
        self.schema, self._sets, self._opening = "", 0, OPENED.opening
        return OPENED.connect()

    def check_database_version_supported(self) -> None:
        """Django asks for PostgreSQL's."""

    def init_connection_state(self) -> None:
        """No time zone and no role are to be set."""

    def create_cursor(self, name: str | None = None) -> Cursor:
        return Cursor(self.connection)

    def chunked_cursor(self) -> Any:
        return self.cursor()

    def read_from(self, schema: str) -> None:
        """Have the statements that follow read one of the schemas that ``OPENED`` holds. The sets of ids before them are let go."""
        self.ensure_connection()
        if self._opening != OPENED.opening:
            self.connection = self.get_new_connection({})
        for number in range(self._sets):
            self.connection.unregister(f"ids_{number}")
        self._sets = 0
        if schema != self.schema:
            self.connection.execute(f"SET schema = '{schema}'")
            self.schema = schema

    def hold(self, ids: np.ndarray) -> str:
        """Return the name of a table that has some ids, in the column ``id``."""
        self.ensure_connection()
        name = f"ids_{self._sets}"
        self.connection.register(name, {"id": ids})
        self._sets += 1
        return name

    def arrays(self, rows: QuerySet[Any, Any]) -> dict[str, np.ndarray]:
        """Return the columns of a query of parcels' facts, each as one array over all rows, in the order of the files.

        Each answer carries its parcel's position, for the order in which DuckDB gives rows holds for one thread only.
        """
        self.ensure_connection()
        sql, params = rows.annotate(**{POSITION: _Position()}).query.get_compiler(connection=self).as_sql()
        columns = _ask(self.connection, sql, params, lambda answer: answer.fetchnumpy())
        positions = columns.pop(POSITION)
        if np.any(positions[1:] < positions[:-1]):
            order = np.argsort(positions)
            columns = {name: column[order] for name, column in columns.items()}
        return columns

    def check_constraints(self, table_names: Any = None) -> None:
        """It only reads."""

    def is_usable(self) -> bool:
        return True

    def _set_autocommit(self, autocommit: bool) -> None:
        """Every statement stands alone: nothing is written."""

    def _savepoint(self, sid: str) -> None:
        """There is nothing to go back to."""

    _savepoint_rollback = _savepoint_commit = _savepoint

    def _commit(self) -> None:
        """Nothing is written."""

    _rollback = _commit
