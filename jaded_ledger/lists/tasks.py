"""What the worker does for lists: what became of signs is counted before somebody looks."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.lists.lifts import lifts_on_record
from jaded_ledger.records import jobs


# Over a million parcels it takes a while; as long as nothing was derived since, it is one question to what is remembered.
@app.periodic(cron="*/5 * * * *")
@jobs.task("lists.count_lifts", queueing_lock="lists.count_lifts")
def count_lifts(timestamp: int) -> None:
    """Count the lift of every sign, if facts have changed since it was counted."""
    lifts_on_record()
