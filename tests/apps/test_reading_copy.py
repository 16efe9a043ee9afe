"""The files of the reading copy: written when facts change, removed when they are of others, written anew when they are broken."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from django.db import connections
from django.db.models import F
from django.test import override_settings

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import balance, count_matches
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.reading_copy import in_copy
from jaded_ledger.plugins import hooks
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import AreaFigures, County, CountyFactsVersion, ParcelFacts, RollEntry
from jaded_ledger.records.reading_copy.files import file_of, folder, missing, versions
from jaded_ledger.records.reading_copy.opened import OPENED, NoCopyError
from jaded_ledger.records.reading_copy.writing import WRITE_COPY, write_copy
from jaded_ledger.records.tasks import write_reading_copy
from jaded_ledger.records.versions import put_up_version
from tests.demo import DemoTestCase


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

    def test_an_unfinished_file_is_not_read_and_soon_gone(self) -> None:
        folder().mkdir(parents=True, exist_ok=True)
        killed = folder() / f"{self.county.pk}-{self.version()}.duckdb.4711"
        killed.write_bytes(b"half of it")
        self.assertIn(self.county.pk, missing())
        self.written()
        self.assertFalse(killed.exists())

    def test_a_writing_that_fails_leaves_nothing(self) -> None:
        with override_settings(READING_COPY_MEMORY="1MB"), self.assertRaises(Exception):  # noqa: B017 - DuckDB's own
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
