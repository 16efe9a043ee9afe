"""What the worker does for clients: it writes to those whose searches are due."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.clients.mails import run_due
from jaded_ledger.records import jobs


# What is due is found by the clock; where nothing is, it is one question.
@app.periodic(cron="*/5 * * * *")
@jobs.task("clients.write", queueing_lock="clients.write")
def write(timestamp: int) -> None:
    """Write to clients what is new in their searches, and send what waits for nobody."""
    run_due()
