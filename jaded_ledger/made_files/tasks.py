"""What the worker does for files: makes them, and forgets old ones."""

from __future__ import annotations

from datetime import timedelta

from procrastinate.contrib.django import app

from jaded_ledger.made_files.models import MadeFile
from jaded_ledger.made_files.services import MAKE, run
from jaded_ledger.records import jobs
from jaded_ledger.records.clock import now

KEPT_FOR = timedelta(days=7)


@jobs.task(MAKE, lock="made_files")
def make(file_id: int) -> None:
    """Make a file. The lock leaves the worker's other hand to what people wait for more."""
    run(file_id)


@app.periodic(cron="37 3 * * *")
@jobs.task("made_files.forget", queueing_lock="made_files.forget")
def forget(timestamp: int) -> None:
    """Forget files that were asked for some days ago. What was taken out with them is told by the log."""
    MadeFile.objects.filter(asked_at__lt=now() - KEPT_FOR).delete()
