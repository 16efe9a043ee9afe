"""What the worker does for watched searches: it tells those that are due, and sends the mails."""

from __future__ import annotations

from contextlib import suppress

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from jaded_ledger.records import jobs
from jaded_ledger.records.clock import now
from jaded_ledger.watch.telling import run_due


# What is due is found by the clock; where nothing is, it is one question.
@app.periodic(cron="*/5 * * * *")
@jobs.task("watch.tell", queueing_lock="watch.tell")
def tell(timestamp: int) -> None:
    """Run the watched searches that are due, and mail what is new."""
    run_due()


def tell_soon() -> None:
    """Have what is due told now, not with the next round of the clock."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        jobs.defer("watch.tell", timestamp=int(now().timestamp()))
