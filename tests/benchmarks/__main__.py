"""``bin/bench [--parcels N]``: load a world of N parcels unless one is there, measure, print ratios."""

from __future__ import annotations

import argparse
import os
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "jaded_ledger.settings")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/bench", description="Measure the budgets as ratios.")
    parser.add_argument("--parcels", type=int, default=1_000_000)
    wanted = parser.parse_args()

    import django

    django.setup()
    from tests.benchmarks import derivation, find, intake, labels, world

    world.load(wanted.parcels)
    rows = [*find.rows(), *derivation.rows(), *labels.rows(), *intake.rows()]
    width = max(len(row.work) for row in rows)
    print(f"\n{'':{width}}  {'ours':>10}  {'by hand':>10}  {'ratio':>6}  {'target':>6}")
    for row in rows:
        met = "" if row.ratio <= row.target else "  missed"
        print(f"{row.work:{width}}  {row.ours:>7.0f} ms  {row.theirs:>7.0f} ms  {row.ratio:>6.2f}  {row.target:>6.2f}{met}")
    sys.exit(any(row.ratio > row.target for row in rows))


if __name__ == "__main__":
    main()
