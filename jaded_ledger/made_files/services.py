"""Files are asked for, made, and thrown away. What makes one is harmless to repeat, also after a worker was killed in the midst of it."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from typing import Any

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.db.models import QuerySet

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.made_files.kinds import MakingError, kind_called
from jaded_ledger.made_files.models import MadeFile, MadeFilePart
from jaded_ledger.records import jobs
from jaded_ledger.records.clock import now, today
from jaded_ledger.web.sentences import sentence_of

MAKE = "made_files.make"
"""The kind of job that makes a file."""
MOST_ATTEMPTS = 5
_PART = 1 << 20
_REPORT_EVERY = 0.5


class _ThrownAwayError(Exception):
    """The file was thrown away while it was made."""


def files_of(scope: Scope) -> QuerySet[MadeFile]:
    """Return the files that a user asked for, the newest first."""
    return MadeFile.objects.filter(team=scope.team, user=scope.user)


def ask(scope: Scope, kind: str, arguments: Mapping[str, Any], *, name: str, content_type: str, rows: int, about: str = "") -> MadeFile:
    """Return a file that somebody asks for: ready where it has few rows, else waiting for the worker.

    Raises MakingError, and PermissionDenied where they may not have it.
    """
    assert scope.user is not None
    kind_called(kind).require(scope, rows)
    # All or nothing: what is made here must not be taken for waiting, and be made by the worker as well.
    with transaction.atomic():
        file = MadeFile.objects.create(
            team=scope.team, user=scope.user, kind=kind, name=name, content_type=content_type, about=about[:200],
            arguments=dict(arguments), rows=rows, asked_at=now(),
        )  # fmt: skip
        if rows > kind_called(kind).at_once:
            jobs.defer(MAKE, file_id=file.pk)
        else:
            _make(file, scope)
    return file


def under_way() -> set[int]:
    """Return the ids of the files that wait for the worker, or that it has begun."""
    return set(MadeFile.objects.filter(state__in=[MadeFile.State.WAITING, MadeFile.State.MAKING]).values_list("pk", flat=True))


def content_of(file: MadeFile) -> Iterator[bytes]:
    """Yield the bytes of a file, part by part."""
    for content in file.parts.order_by("number").values_list("content", flat=True).iterator(chunk_size=4):
        yield bytes(content)


def run(file_id: int) -> None:
    """Make a file; what the worker does. Raises what breaks the connection to the database: then the job is tried again."""
    file = MadeFile.objects.select_related("team", "user").filter(pk=file_id, pk__in=under_way()).first()
    if file is None:
        return
    if file.attempts >= MOST_ATTEMPTS:
        _fail(
            file, f"It was begun {MOST_ATTEMPTS} times, and each time the worker was stopped or the database was lost. Ask for fewer rows."
        )
        return
    try:
        _make(file, Scope(file.team, file.user, today(file.team.time_zone)))
    except _ThrownAwayError:
        return
    except jobs.LOST_CONNECTION:
        raise
    except (MakingError, PermissionDenied) as error:
        _fail(file, sentence_of(error))
    except Exception as error:
        _fail(file, f"Something went wrong on our side ({type(error).__name__}). Ask for it once more.")
        raise


def _make(file: MadeFile, scope: Scope) -> None:
    reported_at = time.monotonic()

    def report(done: int) -> None:
        nonlocal reported_at
        if time.monotonic() - reported_at >= _REPORT_EVERY:
            reported_at = time.monotonic()
            _change(file, done=done)

    _change(file, state=MadeFile.State.MAKING, attempts=file.attempts + 1, done=0)
    file.parts.all().delete()
    making = kind_called(file.kind).make(scope, file.arguments, report)
    size = 0
    for number, content in enumerate(_in_parts(making.parts)):
        size += len(content)
        with transaction.atomic():
            if not MadeFile.objects.select_for_update().filter(pk=file.pk).exists():
                raise _ThrownAwayError
            MadeFilePart.objects.create(file=file, number=number, content=content)
    with transaction.atomic():
        _change(file, state=MadeFile.State.READY, size=size, ready_at=now())
        making.note()


def _in_parts(pieces: Iterator[bytes]) -> Iterator[bytes]:
    """Yield bytes in pieces of a size that the database keeps well."""
    held = bytearray()
    for piece in pieces:
        held += piece
        while len(held) >= _PART:
            yield bytes(held[:_PART])
            del held[:_PART]
    if held:
        yield bytes(held)


def _change(file: MadeFile, **values: Any) -> None:
    """Write how far a file has come. Raises _ThrownAwayError where it is gone."""
    if not MadeFile.objects.filter(pk=file.pk).update(**values):
        raise _ThrownAwayError
    for name, value in values.items():
        setattr(file, name, value)


def _fail(file: MadeFile, reason: str) -> None:
    file.parts.all().delete()
    MadeFile.objects.filter(pk=file.pk).update(state=MadeFile.State.FAILED, error=reason)
