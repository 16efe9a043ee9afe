"""The copies that this process has open: one DuckDB for all its threads, a file attached for each county, read-only."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from threading import Lock

import duckdb

from jaded_ledger.records.reading_copy.columns import tables_beside
from jaded_ledger.records.reading_copy.files import file_of
from jaded_ledger.records.reading_copy.writing import TABLE, WRITTEN_OF, limits

_MOST_VIEWS = 16
"""So many sets of counties are kept open, those asked last."""


POSITION = "row_in_copy"
"""The column that tells where a parcel stands among all of a schema: answers come in whatever order threads give them."""


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
            attached = dict(self._attach(database, *one) for one in wanted)
            self._numbered += 1
            name = f"counties_{self._numbered}"
            database.execute(f"CREATE SCHEMA {name}")
            for table in (beside.name for beside in tables_beside()):
                every = " UNION ALL ".join(f"SELECT * FROM {one}.{table}" for one in attached)
                database.execute(f"CREATE VIEW {name}.{table} AS {every}")
            first, facts = 0, []
            for one, rows in attached.items():
                facts.append(f"SELECT *, rowid + {first} AS {POSITION} FROM {one}.{TABLE}")
                first += rows
            database.execute(f"CREATE VIEW {name}.{TABLE} AS {' UNION ALL '.join(facts)}")
            self._views[wanted] = name
            while len(self._views) > _MOST_VIEWS:
                self._drop(database, self._views.popitem(last=False)[1])
            return name

    def _attach(self, database: duckdb.DuckDBPyConnection, county: int, version: str) -> tuple[str, int]:
        """Return by which name a county's file is attached, and how many rows of facts it has. Raises NoCopyError."""
        name, path = f"county_{county}_{version}", file_of(county, version)
        if not path.exists():
            raise NoCopyError(f"county {county} has no copy of its facts in version {version}")
        try:
            database.execute(f"ATTACH IF NOT EXISTS '{path}' AS {name} (READ_ONLY)")
            held = database.execute(f"SELECT county_id, version FROM {name}.{WRITTEN_OF}").fetchall()
            rows = database.execute(f"SELECT count(*) FROM {name}.{TABLE}").fetchall()[0][0]
        except duckdb.OutOfMemoryException as error:
            raise NoCopyError(f"there is no memory left for the copy of county {county}") from error
        except duckdb.Error as error:
            _throw_away_if_it_opens(path)
            raise NoCopyError(f"the copy of county {county} can't be read") from error
        if held != [(county, version)]:
            database.execute(f"DETACH {name}")
            _throw_away_if_it_opens(path)
            raise NoCopyError(f"the file of county {county} holds other facts")
        return name, rows

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


def _throw_away_if_it_opens(path: Path) -> None:
    """Throw away a copy that is no good, so that the worker finds it missing and writes it anew.

    One that the system does not open now, as when a process has too many files open, may be as good as any.
    """
    with suppress(OSError), path.open("rb"):
        path.unlink(missing_ok=True)


OPENED = Opened()
