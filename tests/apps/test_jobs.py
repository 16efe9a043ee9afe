"""How jobs recover: what waits and has no job is queued again, a lost connection is tried again, what was thrown away stays so."""

from __future__ import annotations

from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import DataError, InterfaceError, OperationalError
from django.urls import reverse
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.jobs import Job

from jaded_ledger.intake import uploads
from jaded_ledger.intake.models import Upload
from jaded_ledger.intake.services import IntakeError
from jaded_ledger.records import jobs
from jaded_ledger.records.models import County, Permit, SourceFile
from tests.support.demo import DemoTestCase


class JobCase(DemoTestCase):
    def setUp(self) -> None:
        self.client.force_login(self.user, backend="django.contrib.auth.backends.ModelBackend")

    def brought(self, name: str = "permits.csv") -> Upload:
        """Return an upload that waits for the worker."""
        file = SimpleUploadedFile(name, b"parcel_number,number,issued_on,work\n12-001-001,P-1,2026-11-02,roof\n")
        upload = uploads.receive(file, self.user)
        upload.kind, upload.county = "permits", County.objects.get(name="Tamarack")
        upload.save()
        uploads.guess_columns(upload)
        uploads.queue(upload)
        return upload

    def jobs_of(self, upload: Upload) -> list[ProcrastinateJob]:
        return [job for job in ProcrastinateJob.objects.filter(task_name=uploads.TAKE_IN) if job.args == {"upload_id": upload.pk}]

    def end(self, upload: Upload, status: str) -> None:
        """End an upload's jobs as the queue would; its own rules let a job that is to do be begun first."""
        for job in self.jobs_of(upload):
            app.job_manager.connector.get_sync_connector().execute_query(
                "UPDATE procrastinate_jobs SET status = 'doing' WHERE id = %(id)s", id=job.pk
            )
            app.job_manager.connector.get_sync_connector().execute_query(
                "UPDATE procrastinate_jobs SET status = %(status)s::procrastinate_job_status WHERE id = %(id)s", id=job.pk, status=status
            )

    def state(self, upload: Upload) -> tuple[str, int]:
        upload.refresh_from_db()
        return upload.state, upload.attempts


class Recovery(JobCase):
    def test_what_waits_and_has_no_job_is_queued_again(self) -> None:
        upload = self.brought()
        # Reading copies wait as well: of those other tests tell.
        copied = mock.patch("jaded_ledger.records.reading_copy.files.file_of")
        copied.start()
        self.addCleanup(copied.stop)
        for status in ("todo", "doing"):
            if status == "doing":
                self.end(upload, status)
            self.assertEqual(jobs.queue_again(), 0, status)
        for state in uploads.UNDER_WAY:
            Upload.objects.filter(pk=upload.pk).update(state=state)
            self.end(upload, "failed")
            self.assertEqual(jobs.queue_again(), 1, state)
            self.assertEqual([job.status for job in self.jobs_of(upload)].count("todo"), 1)
            self.assertEqual(jobs.queue_again(), 0)
        for state in (Upload.State.NEW, Upload.State.FAILED):
            Upload.objects.filter(pk=upload.pk).update(state=state)
            self.end(upload, "failed")
            self.assertEqual(jobs.queue_again(), 0, state)

    def test_a_lost_connection_is_tried_again_as_often_as_is_bearable(self) -> None:
        upload = self.brought()
        for attempt in range(1, uploads.MOST_ATTEMPTS + 1):
            with (
                mock.patch.object(uploads, "take_in", side_effect=OperationalError("the connection is closed")),
                self.assertRaises(OperationalError),
            ):
                uploads.run(upload.pk)
            self.assertEqual(self.state(upload), (Upload.State.RUNNING, attempt))
        uploads.run(upload.pk)
        self.assertEqual(self.state(upload), (Upload.State.FAILED, uploads.MOST_ATTEMPTS))
        self.assertIn("begun 5 times", upload.error)
        # It is kept, and goes in when the database is there.
        uploads.queue(upload)
        uploads.run(upload.pk)
        self.assertEqual(self.state(upload), (Upload.State.DONE, 1))

    def test_what_went_wrong_otherwise_fails_at_once(self) -> None:
        upload = self.brought()
        with mock.patch.object(uploads, "take_in", side_effect=DataError("no such figure")), self.assertRaises(DataError):
            uploads.run(upload.pk)
        self.assertEqual(self.state(upload), (Upload.State.FAILED, 1))
        self.assertIn("DataError", upload.error)

    def test_every_kind_of_job_is_declared_so(self) -> None:
        ours = {name: task for name, task in app.tasks.items() if task.func.__module__.startswith("jaded_ledger")}
        self.assertGreaterEqual(len(ours), 5)
        job = Job(id=1, queue="default", lock=None, queueing_lock=None, task_name="x", attempts=1)
        for name, task in ours.items():
            with self.subTest(name):
                for error in (OperationalError("gone"), InterfaceError("closed")):
                    self.assertIsNotNone(task.get_retry_exception(error, job))
                self.assertIsNone(task.get_retry_exception(ValueError("ours"), job))


class ThrownAway(JobCase):
    def test_at_any_time_but_when_it_is_on_record(self) -> None:
        for state in (Upload.State.NEW, Upload.State.WAITING, Upload.State.RUNNING, Upload.State.FAILED):
            with self.subTest(state):
                upload = self.brought()
                Upload.objects.filter(pk=upload.pk).update(state=state)
                address = reverse("intake:upload", args=[upload.pk])
                if state in uploads.UNDER_WAY:
                    self.assertContains(self.client.get(address), "Throw it away")
                self.assertContains(self.client.post(address, {"do": "discard"}, follow=True), "thrown away")
                self.assertFalse(Upload.objects.filter(pk=upload.pk).exists())
                # Its job finds nothing, and the page that watched it leads away.
                uploads.run(upload.pk)
                self.assertEqual(self.client.get(f"{address}progress")["HX-Redirect"], reverse("intake:records"))
        upload = self.brought()
        uploads.run(upload.pk)
        with self.assertRaisesRegex(IntakeError, "stays"):
            uploads.discard(upload)

    def test_while_it_is_taken_in_nothing_of_it_stays(self) -> None:
        upload, before = self.brought(), (Permit.objects.count(), SourceFile.objects.count())
        really = uploads.take_in

        def meanwhile(*args: object, **kwargs: object) -> SourceFile:
            file = really(*args, **kwargs)
            Upload.objects.filter(pk=upload.pk).delete()
            return file

        with mock.patch.object(uploads, "take_in", side_effect=meanwhile):
            uploads.run(upload.pk)
        self.assertEqual((Permit.objects.count(), SourceFile.objects.count()), before)

    def test_the_worker_stops_when_it_notices(self) -> None:
        upload = self.brought()
        progress = uploads.Reporter(upload.pk)
        progress(1, 0, "reading")
        with mock.patch.object(progress._ended, "wait", side_effect=[False, True]), mock.patch.object(uploads, "connection"):
            Upload.objects.filter(pk=upload.pk).delete()
            progress._write()
        with self.assertRaises(uploads.DiscardedError):
            progress(2, 0, "reading")
