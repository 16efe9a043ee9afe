"""What the worker does for outreach: asks mail houses what became of mailings."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.mailings.mail_orders import catch_up_all
from jaded_ledger.records import jobs


# A mail house reports by the day; looking every few minutes costs one question where nothing is on its way.
@app.periodic(cron="*/5 * * * *")
@jobs.task("outreach.catch_up", queueing_lock="outreach.catch_up")
def catch_up(timestamp: int) -> None:
    """Take in what mail houses report."""
    catch_up_all()
