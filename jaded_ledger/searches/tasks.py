"""What the worker does for saved searches: what came, went and changed is noted by the day, though nobody opens them."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.records import jobs
from jaded_ledger.searches.matching import reckon_all


# As long as the records, the day and the team's lists are the same, it is one question for each search.
@app.periodic(cron="*/5 * * * *")
@jobs.task("searches.reckon", queueing_lock="searches.reckon")
def reckon(timestamp: int) -> None:
    """Bring the matches of saved searches, and the lists that follow them, up to date."""
    reckon_all()
