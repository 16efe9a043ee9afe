"""Django's ``migrate``, which first looks whether the database is of a version that this one can bring up to date."""

from __future__ import annotations

from typing import Any

from django.core.management.base import CommandError
from django.core.management.commands.migrate import Command as Migrate

from jaded_ledger.records.earlier_version import LAST_ONE_BY_ONE, bring_over, missing_steps


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
        bring_over(options["database"])
        super().handle(*args, **options)
