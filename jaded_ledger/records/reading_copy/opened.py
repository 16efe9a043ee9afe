"""The copies that this process has open: one DuckDB for all its threads, a file attached for each county, read-only."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock

import duckdb

from jaded_ledger.records.reading_copy.columns import tables_beside
from jaded_ledger.records.reading_copy.files import file_of
from jaded_ledger.records.reading_copy.writing import TABLE, limits

_MOST_VIEWS = 16
"""So many sets of counties are kept open, those asked last."""


class NoCopyError(Exception):
    """There is no copy of some county's facts as they stand, or it can't be read."""


class Opened:
    """The counties' copies as schemas of one DuckDB: each holds the facts of some counties, in some versions, as one table."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._database: duckdb.DuckDBPyConnection | None = None
        self._views: OrderedDict[tuple[tuple[int, str], ...], str] = OrderedDict()
        self._numbered = 0
        self.opening = 0
        """How often all was closed: connections of an earlier opening lead nowhere."""

    def connect(self) -> duckdb.DuckDBPyConnection:
        """Return a connection of a thread's own."""
        with self._lock:
            return self._opened().cursor()

    def _opened(self) -> duckdb.DuckDBPyConnection:
        if self._database is None:
            self._database = duckdb.connect(":memory:", config=limits())
        return self._database

    def schema_of(self, versions: Mapping[int, str]) -> str:
        """Return the schema that holds some counties' facts, by county in a version. Raises NoCopyError."""
        wanted = tuple(sorted(versions.items()))
        with self._lock:
            if wanted in self._views:
                self._views.move_to_end(wanted)
                return self._views[wanted]
            database = self._opened()
            attached = [self._attach(database, *one) for one in wanted]
            self._numbered += 1
            name = f"counties_{self._numbered}"
            database.execute(f"CREATE SCHEMA {name}")
            for table in (TABLE, *(beside.name for beside in tables_beside())):
                every = " UNION ALL ".join(f"SELECT * FROM {one}.{table}" for one in attached)
                database.execute(f"CREATE VIEW {name}.{table} AS {every}")
            self._views[wanted] = name
            while len(self._views) > _MOST_VIEWS:
                self._drop(database, self._views.popitem(last=False)[1])
            return name

    def _attach(self, database: duckdb.DuckDBPyConnection, county: int, version: str) -> str:
        name, path = f"county_{county}_{version}", file_of(county, version)
        if not path.exists():
            raise NoCopyError(f"county {county} has no copy of its facts in version {version}")
        try:
            database.execute(f"ATTACH IF NOT EXISTS '{path}' AS {name} (READ_ONLY)")
            database.execute(f"SELECT count(*) FROM {name}.{TABLE}")
        except duckdb.Error as error:
            # It is written anew by the worker, which finds it missing.
            path.unlink(missing_ok=True)
            raise NoCopyError(f"the copy of county {county} can't be read") from error
        return name

    def _drop(self, database: duckdb.DuckDBPyConnection, schema: str) -> None:
        """Close a set of counties, and those files of it that no other set has."""
        database.execute(f"DROP SCHEMA {schema} CASCADE")
        kept = {f"county_{county}_{version}" for counties in self._views for county, version in counties}
        names = [name for (name,) in database.execute("SELECT database_name FROM duckdb_databases()").fetchall()]
        for name in names:
            if name.startswith("county_") and name not in kept:
                database.execute(f"DETACH {name}")

    def close(self) -> None:
        """Close all that is open; whoever asks next opens it again."""
        with self._lock:
            if self._database is not None:
                self._database.close()
            self._database, self._views = None, OrderedDict()
            self.opening += 1


OPENED = Opened()
