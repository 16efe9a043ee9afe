"""Files that users bring: kept, examined, mapped, run by a worker, and what came of them."""

from __future__ import annotations

import threading
from contextlib import AbstractContextManager, suppress
from datetime import date
from pathlib import Path
from types import TracebackType
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from django.db import connection, transaction

from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.intake.counties import counties_by_key
from jaded_ledger.intake.guessing import guess, likely_kinds
from jaded_ledger.intake.kinds import KINDS
from jaded_ledger.intake.layouts import Form, Layout, find_layout
from jaded_ledger.intake.limits import LIMITS, UnreadableFileError
from jaded_ledger.intake.mapping import ColumnMap, MappingError, column_map_from
from jaded_ledger.intake.models import Source, Upload, UploadPart
from jaded_ledger.intake.on_disk import on_disk
from jaded_ledger.intake.readers import REFUSED_AS
from jaded_ledger.intake.samples import Sample, rows_about, sample_of
from jaded_ledger.intake.services import IntakeError, IntakeOptions, begins_parcels, take_in
from jaded_ledger.intake.sources import column_map_of, recall, remember
from jaded_ledger.intake.waiting_uploads import TAKE_IN, UNDER_WAY
from jaded_ledger.records import jobs
from jaded_ledger.records.bulk import wait_for_turn
from jaded_ledger.records.clock import fault_of_day, now, today
from jaded_ledger.records.models import County, Coverage, SourceFile

_PART = 1 << 20
MOST_ATTEMPTS = 5
"""A file that a worker did not survive so often is not tried again by itself."""


def receive(file: UploadedFile, user: Any) -> Upload:
    """Keep an uploaded file with what it seems to be. Raises IntakeError."""
    name = (file.name or "file")[:255]
    if not file.size:
        raise IntakeError(f"{name} is empty.")
    if file.size > LIMITS.size:
        raise IntakeError(f"{name} has {file.size / 1e6:,.0f} MB; at most {LIMITS.size / 1e6:,.0f} MB are taken. Split it.")
    with on_disk(name, file.chunks()) as path:
        upload = Upload(uploaded_by=user, uploaded_at=now(), name=name, size=file.size, as_of=today())
        examine(upload, path)
        with transaction.atomic():
            upload.save()
            with path.open("rb") as handle:
                for number, content in enumerate(iter(lambda: handle.read(_PART), b"")):
                    UploadPart.objects.create(upload=upload, number=number, content=content)
    return upload


def as_file(upload: Upload) -> AbstractContextManager[Path]:
    """Give an upload's bytes as a file for the length of a block."""
    parts = upload.parts.order_by("number").values_list("content", flat=True).iterator(chunk_size=8)
    return on_disk(upload.name, map(bytes, parts))


def _said(upload: Upload, path: Path) -> Layout:
    try:
        return find_layout(path).corrected(upload.layout)
    except UnreadableFileError as error:
        raise IntakeError(error.of(upload.name)) from error
    except ValueError as error:
        raise IntakeError(f"{upload.name}: {error}.") from error


def _read_top(upload: Upload, path: Path) -> Sample:
    layout = _said(upload, path)
    try:
        sample = sample_of(path, layout)
    except UnreadableFileError as error:
        raise IntakeError(error.of(upload.name)) from error
    if not sample.rows:
        raise IntakeError(f"{upload.name} holds no rows.")
    upload.form, upload.header, upload.sample = layout.form, list(sample.header), [[*row] for row in sample.rows]
    upload.layout = {**layout.as_said(), "sheets": list(layout.sheets)}
    upload.rows_about = rows_about(path, layout, sample.rows)
    return sample


def examine(upload: Upload, path: Path) -> None:
    """Find out how a new file is laid out, what it is and where it comes from. Raises IntakeError."""
    sample = _read_top(upload, path)
    source = recall(sample.header)
    for layout in [] if source else _remembered_layouts(upload):
        # Somebody may have had to say where the table of such a file begins.
        trial = Upload(name=upload.name, layout=layout)
        with suppress(IntakeError):
            found = recall(_read_top(trial, path).header)
            if found:
                upload.layout = layout
                sample, source = _read_top(upload, path), found
                break
    if corrected := _file_corrected(sample):
        _correct(upload, corrected)
        return
    upload.county = County.objects.get() if County.objects.count() == 1 else None
    if source:
        upload.kind, upload.county, upload.is_complete = source.kind, source.county, source.is_complete
        with suppress(MappingError):
            upload.columns = column_map_of(source).as_json()
            return
    likely = likely_kinds(Layout(Form(upload.form)).form, sample.header)
    upload.kind = likely[0].kind if likely else ""
    guess_columns(upload)


def _file_corrected(sample: Sample) -> SourceFile | None:
    """Return the file whose refused rows these are."""
    if REFUSED_AS not in sample.header:
        return None
    numbers = (row[REFUSED_AS].partition(":")[0] for row in sample.cells())
    pk = next((number for text in numbers if (number := whole_number(text))), None)
    return SourceFile.objects.filter(pk=pk).first() if pk else None


def _correct(upload: Upload, file: SourceFile) -> None:
    """Have corrected rows taken in as their file was, as of its day or of the latest day since."""
    upload.kind, upload.county = file.kind, file.county
    reached = Coverage.objects.filter(kind=file.kind, **({"county": file.county} if file.county else {}))
    upload.as_of = max([file.as_of, *reached.values_list("recorded_through", flat=True)])
    upload.columns = file.columns


def _remembered_layouts(upload: Upload) -> list[dict[str, Any]]:
    found = Source.objects.exclude(layout={}).order_by("-used_at").values_list("layout", flat=True)[:20]
    return [layout for layout in found if {name for name in layout if name != "sheets"} & {"header_line", "sheet", "encoding", "delimiter"}]


def sample_kept(upload: Upload) -> Sample:
    """Return the sample that was kept of an upload."""
    return Sample(tuple(upload.header), tuple((number, tuple(cells), fault) for number, cells, fault in upload.sample))


def guess_columns(upload: Upload) -> None:
    """Map an upload's columns: as its source's last file was, else by guessing."""
    if not upload.kind:
        upload.columns = {}
        return
    if source := recall(upload.header, upload.kind, upload.county):
        with suppress(MappingError):
            upload.columns = column_map_of(source).as_json()
            return
    counties = counties_by_key()
    mask = upload.county.mask if upload.county else None
    cells = sample_kept(upload).cells()
    upload.columns = guess(KINDS[upload.kind], upload.header, cells, mask, counties, begins=begins(upload)).as_json()


def begins(upload: Upload) -> bool:
    """Return whether an upload begins parcels that are not on record."""
    if upload.county is None or not KINDS[upload.kind].may_begin:
        return bool(upload.begins)
    return begins_parcels(IntakeOptions(upload.kind, upload.county, upload.as_of, begins=upload.begins), upload.county)


def column_map(upload: Upload) -> ColumnMap:
    """Return an upload's mapping. Raises MappingError."""
    return column_map_from(upload.columns, KINDS[upload.kind])


def options_of(upload: Upload, layout: Layout | None = None) -> IntakeOptions:
    """Return what an upload is to be taken in as. Raises MappingError."""
    return IntakeOptions(
        upload.kind, upload.county, upload.as_of, is_complete=upload.is_complete, may_end_most=upload.may_end_most,
        columns=column_map(upload), layout=layout, begins=upload.begins,
    )  # fmt: skip


def read_anew(upload: Upload) -> None:
    """Read the first rows again, after the layout was corrected. Raises IntakeError and leaves the upload as it was."""
    with as_file(upload) as path:
        _read_top(upload, path)
    guess_columns(upload)


def queue(upload: Upload) -> None:
    """Hand an upload to the worker and remember how its source's files are read. Raises IntakeError."""
    if upload.state not in (Upload.State.NEW, Upload.State.FAILED):
        raise IntakeError(f"{upload.name} is {upload.get_state_display()} already.")
    with transaction.atomic():
        upload.state, upload.attempts, upload.error = Upload.State.WAITING, 0, ""
        upload.read = upload.refused = 0
        upload.save()
        layout = {name: value for name, value in upload.layout.items() if name != "sheets"}
        remember(upload.header, upload.kind, upload.county, column_map(upload), layout=layout, is_complete=upload.is_complete)
        jobs.defer(TAKE_IN, upload_id=upload.pk)


@transaction.atomic
def discard(upload: Upload) -> None:
    """Throw away a file that is not on record, also one under way: the worker then drops what it has of it. Raises IntakeError."""
    # A worker that is just putting it on record is waited for.
    current = Upload.objects.select_for_update().filter(pk=upload.pk).first()
    if current is None:
        return
    if current.state == Upload.State.DONE:
        raise IntakeError(f"{upload.name} is {current.get_state_display()}; what is on record stays.")
    current.delete()


class DiscardedError(Exception):
    """The upload was thrown away while it was being taken in."""


class Reporter:
    """Writes how far an upload has come, on a connection of its own: the intake's is within its transaction until the end."""

    EVERY = 1.0

    def __init__(self, upload_id: int) -> None:
        self._upload_id = upload_id
        self._latest: dict[str, Any] = {"step": "beginning"}
        self._is_gone = False
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._write, name=f"progress of upload {upload_id}")

    def __call__(self, read: int, refused: int, step: str) -> None:
        if self._is_gone:
            raise DiscardedError
        self._latest = {"read": read, "refused": refused, "step": step}

    def _write(self) -> None:
        try:
            while not self._ended.wait(self.EVERY):
                if not Upload.objects.filter(pk=self._upload_id).update(**self._latest, stirred_at=now()):
                    self._is_gone = True
                    return
        except jobs.LOST_CONNECTION:
            # How far it has come is not worth failing for; if the database is gone, the intake finds out by itself.
            return
        finally:
            connection.close()

    def __enter__(self) -> Reporter:
        self._thread.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self._ended.set()
        self._thread.join()


def run(upload_id: int) -> None:
    """Take in an upload; what a worker does. Harmless to repeat, also after a worker was killed in the midst of it.

    Raises what breaks the connection to the database: then the job is tried again.
    """
    upload = Upload.objects.filter(pk=upload_id, state__in=UNDER_WAY).first()
    if upload is None:
        return
    attempts = upload.attempts + 1
    if attempts > MOST_ATTEMPTS:
        _fail(
            upload_id,
            f"It was begun {MOST_ATTEMPTS} times, and each time the worker was stopped or the database was lost. Nothing of it went in. "
            "Is it too large for the machine?",
        )
        return
    began = {"state": Upload.State.RUNNING, "attempts": attempts, "started_at": now(), "stirred_at": now(), "read": 0, "refused": 0}
    if not Upload.objects.filter(pk=upload_id).update(**began):
        return
    try:
        _take(upload)
    except DiscardedError:
        return
    except jobs.LOST_CONNECTION:
        raise
    except (IntakeError, MappingError) as error:
        _fail(upload_id, str(error))
    except Exception as error:
        _fail(upload_id, f"Something went wrong on our side ({type(error).__name__}). Nothing of the file went in, and it is kept.")
        raise


def _take(upload: Upload) -> None:
    with as_file(upload) as path, transaction.atomic():
        wait_for_turn()
        # A worker that was given up for dead may have finished in the meantime, or somebody may have thrown the file away.
        if not Upload.objects.filter(pk=upload.pk, state=Upload.State.RUNNING).exists():
            raise DiscardedError
        with Reporter(upload.pk) as progress:
            file = take_in(path, options_of(upload, _said(upload, path)), progress=progress, name=upload.name)
        ended = {"state": Upload.State.DONE, "source_file": file, "ended_at": now(), "step": "", "sample": []}
        if not Upload.objects.filter(pk=upload.pk).update(**ended, read=file.read, refused=file.refused):
            raise DiscardedError
        upload.parts.all().delete()


def _fail(upload_id: int, reason: str) -> None:
    Upload.objects.filter(pk=upload_id).update(state=Upload.State.FAILED, error=reason, ended_at=now(), step="")


def day_of(text: str) -> date:
    """Return the day a file is said to speak of. Raises IntakeError."""
    try:
        day = date.fromisoformat(text)
    except ValueError:
        raise IntakeError(f"The day the file speaks of, {text[:20]!r}, is not a date such as 2026-11-24.") from None
    if fault := fault_of_day(day, today()):
        raise IntakeError(f"The day the file speaks of, {day}, {fault}.")
    return day
