"""``bin/manage COMMAND``: Django's commands and ours. Ours find the database up to date, and end quietly when nobody reads on."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import django
from django.core.management import call_command, execute_from_command_line, get_commands
from django.db import connection
from django.db.utils import OperationalError

_UPDATING = 7_301_441_906
"""The number of the lock under which the database is brought up to date: two commands at once do it once."""
_CLOSED_PIPE = 141
"""What a shell says of a command that ended because nobody read on."""


def _is_behind() -> bool:
    """Return whether a migration of ours was never applied. The files tell: Django's own check imports every one of them."""
    wanted = {
        (file.parts[-3], file.stem) for file in Path(__file__).parent.glob("*/migrations/*.py") if file.stem != "__init__"
    }  # fmt: skip
    with connection.cursor() as cursor:
        if "django_migrations" not in connection.introspection.table_names(cursor):
            return True
        cursor.execute("SELECT app, name FROM django_migrations")
        return not wanted <= set(cursor.fetchall())


def _bring_up_to_date() -> None:
    """Apply what is missing of the database."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s)", [_UPDATING])
        try:
            if _is_behind():
                sys.stderr.write("Bringing the database up to date.\n")
                call_command("migrate", verbosity=0)
                call_command("createcachetable", verbosity=0)
        finally:
            cursor.execute("SELECT pg_advisory_unlock(%s)", [_UPDATING])


def main(words: list[str]) -> int:
    """Run a command. Return its status."""
    try:
        django.setup()
        if (
            len(words) > 1
            and not {"-h", "--help"} & set(words)
            and str(get_commands().get(words[1], "")).startswith("jaded_ledger.")
            and words[1] != "migrate"
        ):
            try:
                if _is_behind():
                    _bring_up_to_date()
            except OperationalError as error:
                sys.stderr.write(f"The database can't be reached: {str(error).strip().splitlines()[0]}. Is DATABASE_URL right?\n")
                return 1
        execute_from_command_line(words)
        sys.stdout.flush()
    except BrokenPipeError:
        # What is still buffered has no reader either.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return _CLOSED_PIPE
    return 0


if __name__ == "__main__":
    sys.exit(main(["bin/manage", *sys.argv[1:]]))
