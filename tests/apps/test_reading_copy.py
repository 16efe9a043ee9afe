"""The files of the reading copy: written when facts change, removed when they are of others, written anew when they are broken."""

from __future__ import annotations

import contextlib
import os
import resource
import shutil
import tempfile
import time
from pathlib import Path
from unittest import mock
from uuid import uuid4

import duckdb
import numpy as np
from django.db import connections
from django.db.models import F
from django.test import override_settings

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import balance, count_matches
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.line_answers import TRUE, answers_of, parcels_of
from jaded_ledger.find.reading_copy import in_copy
from jaded_ledger.plugins import hooks
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import AreaFigures, County, CountyFactsVersion, ParcelFacts, RecordedName, RollEntry
from jaded_ledger.records.reading_copy import writing
from jaded_ledger.records.reading_copy.columns import CopiedColumn, facts_columns, tables_beside
from jaded_ledger.records.reading_copy.files import file_of, folder, missing, versions
from jaded_ledger.records.reading_copy.opened import OPENED, NoCopyError, Opened
from jaded_ledger.records.reading_copy.writing import WRITE_COPY, write_copy
from jaded_ledger.records.tasks import write_reading_copy
from jaded_ledger.records.versions import put_up_version
from tests.support.demo import DemoTestCase
from tests.support.tiers import thorough


class Files(DemoTestCase):
    databases = {"default", "reading_copy"}

    def setUp(self) -> None:
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        elsewhere = override_settings(READING_COPIES=held.name)
        elsewhere.enable()
        self.addCleanup(elsewhere.disable)
        self.addCleanup(OPENED.close)
        self.county = County.objects.get(name="Odell Marsh")
        self.asked = compile(parse("county: Odell Marsh\nbeds: 3..\nowner-name: llc"), self.scope)

    def version(self) -> str:
        return versions([self.county.pk])[self.county.pk]

    def written(self) -> Path:
        path = write_copy(self.county)
        assert path is not None
        return path

    def test_written_once_for_a_version_and_found_by_it(self) -> None:
        self.assertIn(self.county.pk, missing())
        with self.assertRaises(NoCopyError):
            in_copy(self.asked)
        path = self.written()
        self.assertEqual(path, file_of(self.county.pk, self.version()))
        self.assertNotIn(self.county.pk, missing())
        was = path.stat().st_mtime_ns
        self.assertEqual(write_copy(self.county), path)
        self.assertEqual(path.stat().st_mtime_ns, was, "never written twice")
        self.assertEqual(in_copy(self.asked).matches.count(), self.asked.matches.count())

    def test_all_chosen_counties_must_have_one(self) -> None:
        self.written()
        with self.assertRaises(NoCopyError):
            in_copy(compile(parse("beds: 3.."), self.scope))

    def test_what_changes_is_asked_of_postgresql_until_it_is_written_again(self) -> None:
        first = self.written()
        before = count_matches(self.asked)
        entry = RollEntry.objects.filter(parcel__facts__in=self.asked.matches, superseded_at=None).first()
        assert entry is not None
        entry.beds = 2
        entry.save()
        derive([entry.parcel_id])
        self.assertIn(self.county.pk, missing())
        self.assertEqual(count_matches(self.asked), before - 1)
        second = self.written()
        self.assertEqual((first.exists(), second.exists()), (False, True))
        self.assertEqual(in_copy(self.asked).matches.count(), before - 1)

    def test_what_changes_nothing_leaves_it(self) -> None:
        path = self.written()
        derive([], [self.county])
        self.assertEqual(file_of(self.county.pk, self.version()), path, "counted anew, and nothing differs")
        AreaFigures.objects.filter(area__county=self.county).update(population=F("population") + 1)
        derive([], [self.county])
        self.assertNotEqual(file_of(self.county.pk, self.version()), path, "a figure differs on which no fact rests")

    def test_who_has_one_open_goes_on_reading_it(self) -> None:
        self.written()
        opened = in_copy(self.asked).matches
        before = opened.count()
        put_up_version([self.county.pk])
        self.written()
        self.assertEqual(opened.count(), before)

    def test_a_broken_file_is_answered_by_postgresql_and_written_anew(self) -> None:
        for broken in (b"", b"not a database at all", None):
            with self.subTest(broken):
                path = self.written()
                path.write_bytes(path.read_bytes()[:-200_000] if broken is None else broken)
                OPENED.close()
                self.assertEqual(count_matches(self.asked), self.asked.matches.count())
                OPENED.close()
                path.unlink(missing_ok=True)

    def test_a_file_of_other_facts_is_not_believed(self) -> None:
        other = County.objects.get(name="Pike Hollow")
        theirs = write_copy(other)
        path = file_of(self.county.pk, self.version())
        shutil.copyfile(theirs, path)
        with self.assertRaisesRegex(NoCopyError, "holds other facts"):
            in_copy(self.asked)
        self.assertFalse(path.exists(), "the worker finds it missing")
        self.assertEqual(count_matches(self.asked), self.asked.matches.count())
        # Nor one of the same county in another version, or one that does not say.
        right, put = self.written(), folder() / "kept"
        right.rename(put)
        put_up_version([self.county.pk])
        shutil.copyfile(put, file_of(self.county.pk, self.version()))
        with self.assertRaisesRegex(NoCopyError, "holds other facts"):
            in_copy(self.asked)
        with duckdb.connect(file_of(self.county.pk, self.version())) as file:
            file.execute("CREATE TABLE nothing (x INT)")
        with self.assertRaisesRegex(NoCopyError, "can't be read"):
            in_copy(self.asked)
        self.assertFalse(file_of(self.county.pk, self.version()).exists())

    def test_a_good_file_stays_where_the_machine_has_no_room(self) -> None:
        path = self.written()
        spent: list[int] = []
        most = resource.getrlimit(resource.RLIMIT_NOFILE)
        OPENED.connect()
        try:
            resource.setrlimit(resource.RLIMIT_NOFILE, (max(map(int, os.listdir("/proc/self/fd"))) + 2, most[1]))
            with contextlib.suppress(OSError):
                while True:
                    spent.append(os.dup(0))
            with self.assertRaises(NoCopyError):
                OPENED.schema_of({self.county.pk: self.version()})
        finally:
            for one in spent:
                os.close(one)
            resource.setrlimit(resource.RLIMIT_NOFILE, most)
        self.assertTrue(path.exists())
        with (
            mock.patch.object(Opened, "_opened", return_value=mock.Mock(**{"execute.side_effect": duckdb.OutOfMemoryException("full")})),
            self.assertRaisesRegex(NoCopyError, "no memory left"),
        ):
            OPENED.schema_of({self.county.pk: self.version()})
        self.assertTrue(path.exists())
        self.assertEqual(in_copy(self.asked).matches.count(), self.asked.matches.count())

    def test_an_unfinished_file_is_not_read_and_soon_gone(self) -> None:
        folder().mkdir(parents=True, exist_ok=True)
        killed = folder() / f"{self.county.pk}-{self.version()}.duckdb.4711"
        killed.write_bytes(b"half of it")
        self.assertIn(self.county.pk, missing())
        self.written()
        self.assertFalse(killed.exists())

    def test_a_writing_that_fails_leaves_nothing(self) -> None:
        def fail(path: Path, *told: object) -> None:
            path.with_name(f"{path.name}.wal").write_bytes(b"what is not in the file yet")
            raise duckdb.IOException("no space left")

        with override_settings(READING_COPY_MEMORY="1MB"), self.assertRaises(Exception):  # noqa: B017 - DuckDB's own
            write_copy(self.county)
        with mock.patch.object(writing, "_fill", fail), self.assertRaises(duckdb.IOException):
            write_copy(self.county)
        self.assertEqual(list(folder().glob(f"{self.county.pk}-*")), [])
        self.assertIn(self.county.pk, missing())

    def test_the_worker_is_told_what_is_missing_and_writes_it(self) -> None:
        (waiting,) = [one for several in hooks.waiting_rows() for one in several if one.task == WRITE_COPY]
        self.assertEqual(set(waiting.ids()), set(County.objects.values_list("pk", flat=True)))
        write_reading_copy(county=self.county.pk)
        self.assertNotIn(self.county.pk, waiting.ids())
        write_reading_copy(county=0)

    def test_a_county_without_facts_has_none(self) -> None:
        CountyFactsVersion.objects.filter(county=self.county).delete()
        self.assertIsNone(write_copy(self.county))
        self.assertNotIn(self.county.pk, missing())
        with self.assertRaises(NoCopyError):
            in_copy(self.asked)

    def test_no_parcel_at_all(self) -> None:
        ParcelFacts.objects.filter(county=self.county).delete()
        self.written()
        found = balance(compile(parse("county: Odell Marsh\nbeds: 3.."), self.scope))
        self.assertEqual((found.opening, found.matches), (0, 0))

    def test_what_takes_too_long_is_broken_off(self) -> None:
        self.written()
        in_copy(self.asked)
        began = time.monotonic()
        soon = override_settings(STATEMENT_SECONDS={"read": 0.3, "act": 60})
        with soon, connections["reading_copy"].cursor() as cursor, self.assertRaisesRegex(Exception, "(?i)interrupt"):
            cursor.execute("SELECT count(*) FROM range(100000) a, range(100000) b WHERE a.range * b.range % 7 = 3")
        self.assertLess(time.monotonic() - began, 3)

    @thorough
    @override_settings(READING_COPY_THREADS=4)
    def test_answers_are_in_one_order_whatever_threads_do(self) -> None:
        """DuckDB gives each thread 122,880 rows at once."""
        rows, county = 600_000, County.objects.create(name="Large", state="WI", parcel_number_mask="*", assessment_ratio=1)
        version = uuid4()
        # Who has the name is told by a set of ids, to which DuckDB joins.
        name = RecordedName.objects.create(text="ZZZ PERSON", folded="zzz person", words="zzz person", kind="individual")
        CountyFactsVersion.objects.create(county=county, version=version)
        folder().mkdir(parents=True, exist_ok=True)
        with duckdb.connect(file_of(county.pk, version.hex)) as file:
            file.execute(f"CREATE TABLE {writing.WRITTEN_OF} AS SELECT {county.pk}::BIGINT AS county_id, '{version.hex}' AS version")
            writing._make(file, writing.TABLE, facts_columns())
            key = (CopiedColumn("county_id", F("pk"), "BIGINT"), CopiedColumn("id", F("pk"), "BIGINT"))
            for beside in tables_beside():
                writing._make(file, beside.name, (*key, *beside.columns))
            file.execute(f"""
                INSERT INTO {writing.TABLE} (parcel_id, county_id, beds, year_built, owner_name_id)
                SELECT range, {county.pk}, range % 7, 1900 + range % 100, {name.pk} + range % 5 FROM range({rows})
            """)
        asked = in_copy(compile(parse('county: Large\nbeds: 3..\nyear-built: 1950..\nowner-name: = "zzz person"'), self.scope))
        parcels = parcels_of(asked)
        self.assertEqual(np.unique(parcels).size, rows)
        beds, built, named = answers_of(asked)
        self.assertTrue(np.array_equal(beds, parcels % 7 >= 3))
        self.assertTrue(np.array_equal(built, parcels % 100 >= 50))
        self.assertTrue(np.array_equal(named == TRUE, parcels % 5 == 0))

    @thorough
    def test_sets_of_counties_asked_long_ago_are_closed(self) -> None:
        self.written()
        for _ in range(20):
            put_up_version([self.county.pk])
            self.written()
            in_copy(self.asked)
        self.assertLessEqual(len(OPENED._views), 16)
        with connections["reading_copy"].cursor() as cursor:
            cursor.execute("SELECT count(*) FROM duckdb_databases() WHERE database_name LIKE 'county_%'")
            self.assertLessEqual(cursor.fetchone()[0], 16)
        self.assertEqual(in_copy(self.asked).matches.count(), self.asked.matches.count())
