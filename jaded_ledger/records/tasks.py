"""What the worker does for records, and for its own jobs: derives what a new day changes, and has every job recover."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.records import jobs
from jaded_ledger.records.derivation import let_time_pass
from jaded_ledger.records.models import County
from jaded_ledger.records.reading_copy.writing import WRITE_COPY, write_copy


# The day changes once a night; looking every few minutes costs one indexed question, and finds a day that came while nobody ran.
@app.periodic(cron="*/5 * * * *")
@jobs.task("records.derive_due", queueing_lock="records.derive_due", lock="intake")
def derive_what_is_due(timestamp: int) -> None:
    """Derive the facts that have changed by themselves."""
    let_time_pass()


# Every five seconds: the sixth place is that of the seconds.
@app.periodic(cron="* * * * * */5")
@jobs.task("records.retry_stalled", queueing_lock="records.retry_stalled")
async def retry_stalled(timestamp: int) -> None:
    """Put back into the queue what a worker had begun that is no longer there."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=jobs.DEAD_AFTER):
        await app.job_manager.retry_job(job)


@app.periodic(cron="* * * * * */10")
@jobs.task("records.queue_again", queueing_lock="records.queue_again")
def queue_again(timestamp: int) -> None:
    """Queue what waits for a job and has none."""
    jobs.queue_again()


@jobs.task(WRITE_COPY, lock=WRITE_COPY)
def write_reading_copy(county: int) -> None:
    """Write a county's facts as they stand to its reading copy."""
    if found := County.objects.filter(pk=county).first():
        write_copy(found)
