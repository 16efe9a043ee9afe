"""The whole database as one file, and back: PostgreSQL's own pg_dump and pg_restore, each in one transaction."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

from django.db import connection


class BackupError(Exception):
    """A backup that could not be made or brought back; the message says why and what to do."""


def _environment() -> dict[str, str]:
    """Return how PostgreSQL's programs reach the database; a password is no argument, which others could see."""
    settings = connection.settings_dict
    named = {"PGHOST": "HOST", "PGPORT": "PORT", "PGUSER": "USER", "PGPASSWORD": "PASSWORD", "PGDATABASE": "NAME"}
    told = {variable: str(settings[name]) for variable, name in named.items() if settings.get(name)}
    if mode := settings.get("OPTIONS", {}).get("sslmode"):
        told["PGSSLMODE"] = str(mode)
    return {**os.environ, **told}


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


def tables() -> list[str]:
    """Return the names of the database's tables, extensions' own not among them."""
    with connection.cursor() as cursor:
        cursor.execute(
            """SELECT c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
                WHERE n.nspname = 'public' AND c.relkind = 'r'
                  AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype = 'e')
                ORDER BY c.relname"""
        )
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
    name = str(connection.settings_dict["NAME"])
    _call("pg_restore", "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", *clean, f"--dbname={name}", str(path))
