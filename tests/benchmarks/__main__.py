"""``bin/bench [--parcels N]``: load a world of N parcels unless one is there, measure, print ratios."""

from __future__ import annotations

import argparse
import os
import sys
import time

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "jaded_ledger.settings")


def load(parcels: int) -> None:
    from django.core.management import call_command
    from django.db import connection

    from jaded_ledger.records.models import ParcelFacts

    call_command("migrate", verbosity=0)
    if ParcelFacts.objects.count() < parcels:
        started = time.perf_counter()
        call_command("demo", parcels=parcels)
        print(f"Loaded in {time.perf_counter() - started:,.0f} s.")
    with connection.cursor() as cursor:
        cursor.execute("VACUUM ANALYZE")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/bench", description="Measure the budgets as ratios.")
    parser.add_argument("--parcels", type=int, default=1_000_000)
    wanted = parser.parse_args()

    import django

    django.setup()
    load(wanted.parcels)
    from tests.benchmarks import find, intake, labels

    rows = [*find.rows(), *labels.rows(), *intake.rows()]
    width = max(len(row.work) for row in rows)
    print(f"\n{'':{width}}  {'ours':>10}  {'by hand':>10}  {'ratio':>6}  {'target':>6}")
    for row in rows:
        met = "" if row.ratio <= row.target else "  missed"
        print(f"{row.work:{width}}  {row.ours:>7.0f} ms  {row.theirs:>7.0f} ms  {row.ratio:>6.2f}  {row.target:>6.2f}{met}")
    sys.exit(any(row.ratio > row.target for row in rows))


if __name__ == "__main__":
    main()
