"""What the worker does for comps: computes the ranges of lists, and reads a county's sales before somebody asks for them."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.comps.list_ranges import COMPUTE, ask_for_nightly
from jaded_ledger.comps.sales_on_record import county_sales
from jaded_ledger.records import jobs
from jaded_ledger.records.clock import today
from jaded_ledger.records.models import County
from jaded_ledger.records.rounds import go_round


@jobs.task(COMPUTE, lock="deals.compute_ranges")
def compute_ranges(list_id: int) -> None:
    """Compute the ranges of one list. The lock has workers take them one after another."""
    # Every command finds the tasks when it starts; only the worker computes.
    from jaded_ledger.comps.list_ranges import compute

    compute(list_id)


# The day changes once a night; looking every few minutes costs one indexed question. What is asked is queued by what waits.
@app.periodic(cron="*/5 * * * *")
@jobs.task("deals.ask_for_nightly", queueing_lock="deals.ask_for_nightly")
def ask_by_night(timestamp: int) -> None:
    """Have the ranges of lists that are marked so be computed anew when a day has passed."""
    ask_for_nightly()


# A large county's take some ten seconds, which nobody who opens comps should wait for; as long as nothing was derived since, none.
@app.periodic(cron="*/2 * * * *")
@jobs.task("deals.read_sales", queueing_lock="deals.read_sales")
def read_sales(timestamp: int) -> None:
    """Read each county's sales, if facts have changed since they were read."""
    go_round("sales of counties", County.objects.order_by("pk"), lambda county: county_sales(county, today()))
