"""What the worker does for intake: takes in uploads, one at a time."""

from __future__ import annotations

from jaded_ledger.intake.waiting_uploads import TAKE_IN
from jaded_ledger.records import jobs


@jobs.task(TAKE_IN, lock="intake")
def take_in_upload(upload_id: int) -> None:
    """Take in one upload. The lock has workers take them one after another."""
    # Every command finds the tasks when it starts; only the worker reads files.
    from jaded_ledger.intake.uploads import run

    run(upload_id)
