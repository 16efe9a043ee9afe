"""A worker killed in the midst of an intake, twice: nothing is half done, it is noticed, and the end is as if undisturbed."""

from __future__ import annotations

import csv
import io
from datetime import date

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from jaded_ledger.accounts.models import User
from jaded_ledger.intake import uploads
from jaded_ledger.intake.models import Upload
from jaded_ledger.records.models import County, RollEntry, SourceFile
from tests.support import worker
from tests.support.demo import DemoServerCase
from tests.support.tiers import thorough

DAY = date(2026, 11, 24)
REFUSED = 12_000
_OF_A_RUN = ("id", "version", "digest", "source_file_id", "recorded_at", "superseded_at", "taken_in_at", "seconds")
"""Columns that two runs may differ in."""


def changed_roll(county: County) -> bytes:
    """Return a roll in which every parcel's land is worth a dollar more, and of which many rows are refused: that takes its time."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(["parcel_number", "land_value", "owner", "Harbour Dist", "Note of the day"])
    for entry in RollEntry.objects.filter(county=county, superseded_at=None).select_related("parcel", "owner_name").order_by("natural_key"):
        owner = entry.owner_name.text if entry.owner_name else ""
        rows.writerow([entry.parcel.number, (entry.land_value or 0) + 1, owner, "inner", f"{entry.pk % 7} o’clock"])
    for number in range(REFUSED):
        rows.writerow(["999999999", number, "NOBODY", "", ""])
    return out.getvalue().encode()


def everything() -> dict[str, tuple[int, str]]:
    """Return for all tables of the records how many rows they have and a digest of what these say, but for what two runs may differ in."""
    found = {}
    with connection.cursor() as cursor:
        cursor.execute("SELECT relname FROM pg_class WHERE relkind = 'r' AND (relname LIKE 'records\\_%' OR relname = 'intake_refusal')")
        for (table,) in cursor.fetchall():
            cursor.execute(f'SELECT * FROM "{table}" LIMIT 0')
            names = [column.name for column in cursor.description]
            # What another table names by its number is told by the key it has there.
            kept = [name for name in names if name not in _OF_A_RUN and (not name.endswith("_id") or name in ("county_id", "parcel_id"))]
            said = [f'"{name}"::text' for name in kept]
            if "superseded_at" in names:
                said.append("(superseded_at IS NULL)::text")
            # A function takes no more than a hundred arguments, and facts have more columns.
            rows = f"""SELECT md5(ROW({", ".join(said)})::text) AS row FROM "{table}\""""
            cursor.execute(f"SELECT count(*), md5(string_agg(row, '' ORDER BY row)) FROM ({rows}) AS rows")
            found[table] = cursor.fetchone()
    return found


@thorough
class Killed(DemoServerCase):
    """On a copy of the demo, for the worker has a connection of its own."""

    def setUp(self) -> None:
        self._switch_to_a_fresh_copy()

    def waiting(self) -> Upload:
        """Bring a changed roll, map it, and hand it to the worker."""
        county = County.objects.get(name="Odell Marsh")
        brought = SimpleUploadedFile("roll of the day.csv", changed_roll(county))
        upload = uploads.receive(brought, User.objects.get(username="nora"))
        self.assertEqual(upload.kind, "roll")
        upload.county, upload.as_of = county, DAY
        uploads.queue(upload)
        return upload

    def state(self, upload: Upload) -> Upload:
        upload.refresh_from_db()
        return upload

    def test_killed_twice_and_then_left_alone(self) -> None:
        before = everything()
        upload = self.waiting()
        for attempt in (1, 2):
            doomed = worker.begin()
            try:
                # On another connection it shows how far it has come, while none of it is on record.
                worker.wait_until(lambda n=attempt: self.state(upload).attempts == n and upload.read > 0, f"rows of attempt {attempt}")
                self.assertEqual(upload.state, Upload.State.RUNNING)
                self.assertEqual(SourceFile.objects.filter(name=upload.name).count(), 0)
            finally:
                worker.kill(doomed)
            self.assertEqual(self.state(upload).state, Upload.State.RUNNING)
            self.assertEqual(everything(), before)
        with worker.working():
            worker.wait_until(lambda: self.state(upload).state == Upload.State.DONE, "the end")
            worker.wait_until(lambda: not ProcrastinateJob.objects.filter(task_name="intake.take_in_upload").exists(), "the job's end")
        self.assertEqual((upload.attempts, upload.source_file.refused), (3, REFUSED))
        self.assertEqual(SourceFile.objects.filter(name=upload.name).count(), 1)
        disturbed = everything()
        self.assertNotEqual(disturbed["records_rollentry"], before["records_rollentry"])
        # The same on another copy, with nobody in the way; and once more, which changes nothing.
        self._switch_to_a_fresh_copy()
        again = self.waiting()
        uploads.run(again.pk)
        self.assertEqual(self.state(again).state, Upload.State.DONE)
        undisturbed = everything()
        for table, rows in undisturbed.items():
            self.assertEqual(rows, disturbed[table], table)
        uploads.run(again.pk)
        self.assertEqual(everything(), undisturbed)

    def test_the_database_s_backend_dies_and_the_file_goes_in_all_the_same(self) -> None:
        upload = self.waiting()
        with worker.working():
            worker.wait_until(lambda: self.state(upload).attempts == 1 and upload.read > 0, "rows of the first attempt")
            with connection.cursor() as cursor:
                # The intake's own: it has been within its transaction for a while.
                cursor.execute(
                    "SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity WHERE datname = current_database() "
                    "AND pid <> pg_backend_pid() AND xact_start < now() - interval '0.2 s'"
                )
                self.assertGreater(cursor.fetchone()[0], 0)
            worker.wait_until(lambda: self.state(upload).state == Upload.State.DONE, "the end")
        self.assertEqual((upload.attempts, upload.source_file.refused, upload.error), (2, REFUSED, ""))
        self.assertEqual(SourceFile.objects.filter(name=upload.name).count(), 1)

    def test_a_file_that_no_worker_survives_is_given_up(self) -> None:
        upload = self.waiting()
        Upload.objects.filter(pk=upload.pk).update(attempts=uploads.MOST_ATTEMPTS, state=Upload.State.RUNNING)
        uploads.run(upload.pk)
        self.assertEqual(self.state(upload).state, Upload.State.FAILED)
        self.assertIn("begun 5 times", upload.error)
        # It is kept, and can be tried again by hand.
        uploads.queue(upload)
        self.assertEqual((self.state(upload).state, upload.attempts), (Upload.State.WAITING, 0))
        uploads.run(upload.pk)
        self.assertEqual(self.state(upload).state, Upload.State.DONE)
