"""What the worker does: takes in uploads one at a time, and runs again what another worker was killed at."""

from __future__ import annotations

from procrastinate.contrib.django import app

from jaded_ledger.intake.uploads import run

DEAD_AFTER = 15.0
"""Seconds without a sign of life after which a worker is given up; it gives one every few (settings)."""


@app.task(name="intake.take_in_upload", lock="intake")
def take_in_upload(upload_id: int) -> None:
    """Take in one upload. The lock has workers take them one after another."""
    run(upload_id)


# Every five seconds: the sixth place is that of the seconds.
@app.periodic(cron="* * * * * */5")
@app.task(name="intake.run_again", queueing_lock="intake.run_again")
async def run_again(timestamp: int) -> None:
    """Put back into the queue what a worker had begun that is no longer there."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_AFTER):
        await app.job_manager.retry_job(job)
