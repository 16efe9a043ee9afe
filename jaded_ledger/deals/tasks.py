"""What the worker does for deals: computes the ranges of lists."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.deals.list_ranges import COMPUTE, ask_for_nightly
from jaded_ledger.records import jobs


@jobs.task(COMPUTE, lock="deals.compute_ranges")
def compute_ranges(list_id: int) -> None:
    """Compute the ranges of one list. The lock has workers take them one after another."""
    # Every command finds the tasks when it starts; only the worker computes.
    from jaded_ledger.deals.list_ranges import compute

    compute(list_id)


# The day changes once a night; looking every few minutes costs one indexed question. What is asked is queued by what waits.
@app.periodic(cron="*/5 * * * *")
@jobs.task("deals.ask_for_nightly", queueing_lock="deals.ask_for_nightly")
def ask_by_night(timestamp: int) -> None:
    """Have the ranges of lists that are marked so be computed anew when a day has passed."""
    ask_for_nightly()
