"""A small database of this version, with something of every kind that a team makes, for the next version to upgrade.

    setup/cluster.py run --temporary -- python -m tests.version_before

writes ``tests/data/version-before.backup``, how many rows each of its tables holds, and the names that are kept outside the code, as JSON.
Run it when a version is done.
"""

from __future__ import annotations

import json
import os
import sys
from itertools import chain
from pathlib import Path

DATA = Path(__file__).resolve().parent / "data"
BACKUP, HOLDS, NAMES = DATA / "version-before.backup", DATA / "version-before.json", DATA / "version-before-names.json"
PARCELS = 600
SEARCHES = {
    "Absentee": "owner-occupied: no\nclass: single-family, duplex",
    "Long held": "county: Tamarack\nlast-sale: before 10 years ago, or unknown\n~ beds: 3..",
    "Any of two": "any of:\n  tax-years-delinquent: 1..\n  equity-pct: 60..",
}


def fill() -> None:
    """Load a small demo, and add what its user would make in a week."""
    from django.core.management import call_command

    from jaded_ledger.accounts.models import User
    from jaded_ledger.accounts.scope import Scope
    from jaded_ledger.clients import clients, mails
    from jaded_ledger.core.criteria.text import parse
    from jaded_ledger.find.search_page import SearchPage
    from jaded_ledger.find.selections import keep
    from jaded_ledger.mailings.mailing_terms import change
    from jaded_ledger.mailings.mailings import begin, make, planned
    from jaded_ledger.records.clock import today
    from jaded_ledger.searches import services
    from jaded_ledger.watch.telling import run_due
    from jaded_ledger.watch.watching import watch

    call_command("migrate", verbosity=0)
    call_command("createcachetable", verbosity=0)
    call_command("demo", parcels=PARCELS, verbosity=0)
    user = User.objects.get(username="nora")
    user.email = "nora@lantern.example"
    user.save()
    mine = Scope(user.team, user, today())
    saved = {name: services.save(mine, SearchPage(parse(text)), name) for name, text in SEARCHES.items()}
    watch(mine, saved["Absentee"], "morning", by_mail=True)
    run_due(every=True)
    imre = clients.keep_client(mine, {"name": "Imre Solvang", "email": "imre@solvang.example"})
    covering = {"subject": "New for you", "message": "Good morning {name}", "rhythm": "morning", "days": []}
    of = clients.give_search(mine, imre, saved["Any of two"], covering | {"is_reviewed": True, "copy_to_agent": False, "edit_note": ""})
    mails.write_now(mine, of)
    mailing = begin(mine, keep(mine, SearchPage(parse(SEARCHES["Absentee"])), [], is_all=True))
    change(mine, mailing, {"to": "owner-mailing"}, [])
    make(mailing, mine, planned(mailing, mine))


def rows() -> dict[str, int]:
    """Return how many rows each table holds."""
    from django.db import connection

    from jaded_ledger.records.backup import tables

    found = {}
    with connection.cursor() as cursor:
        for table in tables():
            cursor.execute(f'SELECT count(*) FROM "{table}"')
            (found[table],) = cursor.fetchone()
    return found


def names() -> dict[str, list[str]]:
    """Return the names that stand in bookmarks, queues, rows and settings: a later version must know each of them."""
    from procrastinate.contrib.django import app

    from jaded_ledger.plugins import hooks
    from tests.support.addresses import patterns

    return {
        "addresses": sorted(patterns()),
        "jobs": sorted(name for name in app.tasks if not name.startswith(("builtin", "procrastinate"))),
        "acts": sorted(act.key for act in chain.from_iterable(hooks.acts())),
        "file_kinds": sorted(kind.key for kind in chain.from_iterable(hooks.file_kinds())),
    }


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
    import django

    django.setup()
    from django.core.cache import caches

    from jaded_ledger.records.backup import back_up

    fill()
    caches["tallies"].clear()
    BACKUP.unlink(missing_ok=True)
    back_up(BACKUP)
    NAMES.write_text(json.dumps(names(), indent=1) + "\n")
    HOLDS.write_text(json.dumps({name: count for name, count in rows().items() if count}, indent=1) + "\n")
    return 0


if __name__ == "__main__":
    sys.exit(main())
