"""Django's ``migrate``, which first looks whether the database is of a version that this one can bring up to date."""

from __future__ import annotations

from typing import Any

from django.core.management.base import CommandError
from django.core.management.commands.migrate import Command as Migrate
from django.db import connections
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder

# The last version that carries the migrations one by one (docs/decisions/0030-migrations-squashed.md).
LAST_ONE_BY_ONE = "c48b14e"


def missing_steps(database: str) -> list[str]:
    """Return the steps that a database of an earlier version lacks, of those that this version has squashed."""
    done = set(MigrationRecorder(connections[database]).applied_migrations())
    missing = []
    for migration in MigrationLoader(None).disk_migrations.values():
        steps = [step for step in migration.replaces if step not in done]
        was_begun = len(steps) < len(migration.replaces)
        if was_begun and (migration.app_label, migration.name) not in done:
            missing += [f"{label}.{name}" for label, name in steps]
    return missing


class Command(Migrate):
    def handle(self, *args: Any, **options: Any) -> None:
        if missing := missing_steps(options["database"]):
            more = len(missing) - 1
            others = f" and {more} more step{'' if more == 1 else 's'}" if more else ""
            raise CommandError(
                f"This database is of an earlier version of Jaded Ledger: it lacks {missing[0]}{others}, and this version no longer has "
                f"the steps one by one. Check out commit {LAST_ONE_BY_ONE}, run bin/manage migrate there with this database, and start "
                "this version again. Nothing was changed."
            )
        super().handle(*args, **options)
