"""The worker's jobs: how every kind is declared, and the one rule by which each recovers.

A job that loses the database is tried again. One whose worker was killed is given to another. What waits for a job that is neither to
do nor being done any more, however that came about, is queued again. How often is for what waits to count.
See docs/decisions/0026-jobs-that-recover.md.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass
from itertools import chain
from typing import Any, cast

from django.conf import settings
from django.db import InterfaceError, OperationalError, transaction
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from jaded_ledger.plugins import hooks

DEAD_AFTER: float = cast("dict[str, Any]", settings.PROCRASTINATE_WORKER_DEFAULTS)["stalled_worker_timeout"]
"""Seconds without a sign of life after which a worker is given up; it gives one every few."""
LOST_CONNECTION = (OperationalError, InterfaceError)
"""What Django raises when the database is gone, or had to break off: nothing of it was done, and it may go better the next time."""
AGAIN = RetryStrategy(max_attempts=5, wait=2, linear_wait=5, retry_exceptions=LOST_CONNECTION)


def task(name: str, **options: Any) -> Callable[[Callable[..., Any]], Any]:
    """Declare a kind of job; use it in place of the queue's own decorator."""
    return app.task(name=name, retry=AGAIN, **options)


def defer(name: str, **arguments: int) -> None:
    """Queue a job of a kind, within the transaction that is open."""
    app.configure_task(name).defer(**arguments)


@dataclass(frozen=True)
class Waiting:
    """Rows that a kind of job is done for: the argument that names one, and the ids of those that wait or are being worked on."""

    task: str
    argument: str
    ids: Callable[[], Collection[int]]

    def without_job(self) -> list[int]:
        """Return the ids for which no job is to do or being done."""
        waiting = self.ids()
        if not waiting:
            return []
        jobs = ProcrastinateJob.objects.filter(task_name=self.task, status__in=["todo", "doing"])
        return sorted({*waiting} - {args.get(self.argument) for args in jobs.values_list("args", flat=True)})


def queue_again() -> int:
    """Queue a job for everything that waits and has none; return how many."""
    count = 0
    for waiting in chain.from_iterable(hooks.waiting_rows()):
        with transaction.atomic():
            for pk in waiting.without_job():
                # A job that ended just now left nothing to do; running it once more does no harm.
                defer(waiting.task, **{waiting.argument: pk})
                count += 1
    return count
