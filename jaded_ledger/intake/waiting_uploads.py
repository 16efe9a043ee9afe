"""Which uploads wait for the worker. What takes them in is imported when one is: commands that ask a search need none of it."""

from __future__ import annotations

from jaded_ledger.intake.models import Upload

TAKE_IN = "intake.take_in_upload"
"""The kind of job that takes in an upload."""
UNDER_WAY = (Upload.State.WAITING, Upload.State.RUNNING)


def under_way() -> set[int]:
    """Return the ids of the uploads that wait for the worker, or that it has begun."""
    return set(Upload.objects.filter(state__in=UNDER_WAY).values_list("pk", flat=True))
