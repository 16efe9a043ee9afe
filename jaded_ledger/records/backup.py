"""The whole database as one file, and back: PostgreSQL's own pg_dump and pg_restore, each in one transaction."""

from __future__ import annotations

import os
import subprocess
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
from django.db import connection
from psycopg import sql


class BackupError(Exception):
    """A backup that could not be made or brought back; the message says why and what to do."""


def _environment() -> dict[str, str]:
    """Return how PostgreSQL's programs reach the database; a password is no argument, which others could see."""
    settings = connection.settings_dict
    named = {"PGHOST": "HOST", "PGPORT": "PORT", "PGUSER": "USER", "PGPASSWORD": "PASSWORD", "PGDATABASE": "NAME"}
    options = {variable: str(settings[name]) for variable, name in named.items() if settings.get(name)}
    if mode := settings.get("OPTIONS", {}).get("sslmode"):
        options["PGSSLMODE"] = str(mode)
    return {**os.environ, **options}


def _call(program: str, *words: str) -> None:
    try:
        done = subprocess.run(  # noqa: S603 - one of two programs, and no shell
            [program, *words], env=_environment(), stdin=subprocess.DEVNULL, capture_output=True, text=True, check=False
        )
    except FileNotFoundError:
        raise BackupError(f"{program} is not on this machine: apt-get install postgresql-client") from None
    if done.returncode:
        raise BackupError(f"{program}: {done.stderr.strip() or f'ended with {done.returncode}'}")


def back_up(path: Path) -> None:
    """Write the database as it stands at this moment to a file that only its owner may read. Raises BackupError."""
    if path.exists():
        raise BackupError(f"{path} is there already; name another file, or move that one away.")
    # Only a whole backup gets the name.
    unfinished = path.with_name(f"{path.name}.unfinished")
    try:
        unfinished.unlink(missing_ok=True)
        unfinished.touch(mode=0o600)
        _call("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={unfinished}")
        unfinished.rename(path)
    except OSError as error:
        raise BackupError(f"{path} can't be written: {error.strerror}.") from error
    finally:
        unfinished.unlink(missing_ok=True)


_NAME = "ledger-%Y-%m-%d-%H%M%S.backup"


def back_up_into(folder: Path, keep: int) -> Path:
    """Write a backup named by the moment into a folder, and remove all but the newest ``keep`` of them. Raises BackupError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise BackupError(f"{folder} can't be made: {error.strerror}.") from error
    path = folder / f"{datetime.now(UTC):{_NAME}}"
    back_up(path)
    for old in backups_in(folder)[keep:]:
        old.unlink()
    return path


def backups_in(folder: Path) -> list[Path]:
    """Return the backups in a folder, the newest first."""
    return sorted(folder.glob("ledger-*.backup"), reverse=True)


@dataclass(frozen=True)
class Rehearsed:
    """What a backup brought back: rows by table, and the tables of the running database that it has not."""

    rows: dict[str, int]
    missing: tuple[str, ...]


def rehearse(path: Path) -> Rehearsed:
    """Bring a backup back into a database of its own beside the running one, look at it, and throw it away. Raises BackupError."""
    running, name = tables(), f"{connection.settings_dict['NAME']}_rehearsal"
    quoted = sql.Identifier(name)
    with psycopg.connect(**_beside(), autocommit=True) as server:
        server.execute(sql.SQL("DROP DATABASE IF EXISTS {}").format(quoted))
        server.execute(sql.SQL("CREATE DATABASE {} TEMPLATE template0").format(quoted))
        try:
            _fill(name, path)
            with psycopg.connect(**{**_beside(), "dbname": name}) as rehearsal:
                there = [table for (table,) in rehearsal.execute(_TABLES)]
                counted = {table: rehearsal.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))) for table in there}
                rows = {table: found.fetchone()[0] for table, found in counted.items()}  # type: ignore[index]
        finally:
            server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(quoted))
    return Rehearsed(rows, tuple(table for table in running if table not in rows))


def _beside() -> dict[str, Any]:
    """Return how the running database's server is reached."""
    options = connection.get_connection_params()
    return {name: options[name] for name in ("dbname", "host", "port", "user", "password", "sslmode") if options.get(name)}


_TABLES = """
    SELECT c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
     WHERE n.nspname = 'public' AND c.relkind = 'r'
       AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype = 'e')
     ORDER BY c.relname"""


def tables() -> list[str]:
    """Return the names of the database's tables, extensions' own not among them."""
    with connection.cursor() as cursor:
        cursor.execute(_TABLES)
        return [name for (name,) in cursor.fetchall()]


def restore(path: Path, *, may_replace: bool) -> None:
    """Fill the database from a backup, all of it or nothing. Raises BackupError for one that is not empty unless it may be replaced."""
    if not path.is_file():
        raise BackupError(f"{path} is no file.")
    if (held := tables()) and not may_replace:
        raise BackupError(
            f"The database {connection.settings_dict['NAME']} is not empty ({len(held)} tables). "
            "Restore into an empty one (DATABASE_URL names it), or say --replace to throw away what is in it."
        )
    connection.close()
    clean = ("--clean", "--if-exists") if held else ()
    _fill(str(connection.settings_dict["NAME"]), path, *clean)


def _fill(name: str, path: Path, *words: str) -> None:
    _call("pg_restore", "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", *words, f"--dbname={name}", str(path))
