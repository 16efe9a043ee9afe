"""``bin/bench [--parcels N] [WORK …]``: load a world of N parcels unless one is there, measure, print ratios.

``load`` is measured on the demo as it is, and only when it is named: nothing else may run beside it. ``scale`` measures nothing: it
reckons what more counties would need.
"""

from __future__ import annotations

import argparse
import os
import sys
from importlib import import_module

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "jaded_ledger.settings")


WORKS = (
    "find",
    "results",
    "maps",
    "comps",
    "deals",
    "frames",
    "box",
    "phrases",
    "lists",
    "derivation",
    "labels",
    "exports",
    "intake",
    "watch",
    "stores",
)
ALONE = "load"
RECKONED = "scale"


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/bench", description="Measure the budgets as ratios.")
    parser.add_argument("--parcels", type=int)
    parser.add_argument("works", nargs="*", metavar="WORK", help=f"only these: {', '.join(WORKS)}; or {ALONE}, or {RECKONED}")
    wanted = parser.parse_args()
    if unknown := set(wanted.works) - {*WORKS, ALONE, RECKONED}:
        parser.error(f"{', '.join(sorted(unknown))} is none of {', '.join(WORKS)}")

    if wanted.works == [RECKONED]:
        from tests.benchmarks.scale import table

        print(table())
        return

    import django

    django.setup()
    from tests.benchmarks import world

    world.load(wanted.parcels or (1 if wanted.works == [ALONE] else 1_000_000))
    is_missed = False
    for work in wanted.works or WORKS:
        for row in import_module(f"tests.benchmarks.{work}").rows():
            is_missed |= row.ratio > row.target
            met = "" if row.ratio <= row.target else "  missed"
            print(f"{row.work:100}  {row.ours:>8.0f} ms  {row.theirs:>8.0f} ms  {row.ratio:>6.2f}  {row.target:>5.2f}{met}", flush=True)
    sys.exit(is_missed)


if __name__ == "__main__":
    main()
