"""Answers a parcel and line: counted as one by one, remembered within bounds, never taken for those of other facts."""

from __future__ import annotations

from collections import Counter
from unittest import mock

import numpy as np
from django.core.cache import caches
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find import line_answers
from jaded_ledger.find.balance import balance, count_owners
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.line_answers import FALSE, TRUE, UNKNOWN, answers_of, combinations
from jaded_ledger.find.reading_copy import ALIAS, in_copy
from jaded_ledger.find.remembered_arrays import RememberedArrays
from jaded_ledger.records.models import County, ParcelFacts
from jaded_ledger.records.reading_copy.backend.base import DatabaseWrapper
from jaded_ledger.records.reading_copy.writing import write_copy
from jaded_ledger.records.versions import put_up_version
from tests.support.copies import CopiesTestCase

SEARCH = "class: single-family, duplex\nowner-occupied: no\nbeds: 2.., or unknown\nassessed-value: 100000..400000"


class Combinations(SimpleTestCase):
    @given(st.integers(1, 45).flatmap(lambda lines: st.lists(st.binary(min_size=lines, max_size=lines), min_size=1, max_size=60)))
    def test_as_counted_one_by_one(self, rows: list[bytes]) -> None:
        answers = [bytes(byte % 3 for byte in row) for row in rows]
        columns = [np.array(column, np.uint8) for column in zip(*answers, strict=True)]
        self.assertEqual(dict(combinations(columns)), Counter(answers))

    def test_more_combinations_than_are_counted_at_once(self) -> None:
        # Nine lines of every answer: more than one step, and none of its steps may lose the order of the lines.
        answers = np.stack(np.meshgrid(*[np.array([FALSE, TRUE, UNKNOWN], np.uint8)] * 9, indexing="ij")).reshape(9, -1)
        with mock.patch.object(line_answers, "_MOST_CODES", 64):
            found = combinations(list(answers))
        self.assertEqual(found, tuple((bytes(answers[:, place].tolist()), 1) for place in range(3**9)))

    def test_no_parcels(self) -> None:
        self.assertEqual(combinations([np.zeros(0, np.uint8)] * 3), ())


class Remembered(SimpleTestCase):
    def test_what_was_asked_for_last_stays(self) -> None:
        held = RememberedArrays(30)
        for name in ("a", "b", "c"):
            held.put(name, np.zeros(10, np.uint8))
        self.assertIsNotNone(held.get("a"), "as many bytes as there is room for")
        held.put("d", np.zeros(10, np.uint8))
        self.assertEqual([name for name in "abcd" if held.get(name) is not None], ["a", "c", "d"])
        held.put("a", np.zeros(30, np.uint8))
        self.assertEqual([name for name in "abcd" if held.get(name) is not None], ["a"])


class Edits(CopiesTestCase):
    def asked(self, text: str) -> int:
        """Return how many statements with how many columns a balance from nothing but remembered answers reads."""
        caches["tallies"].clear()
        with mock.patch.object(DatabaseWrapper, "arrays", autospec=True, side_effect=DatabaseWrapper.arrays) as read:
            balance(compile(parse(text), self.scope))
        return sum(len(call.args[1].query.values_select or call.args[1].query.annotation_select) for call in read.call_args_list)

    def setUp(self) -> None:
        fresh = mock.patch.object(line_answers, "_REMEMBERED", RememberedArrays(48 << 20))
        fresh.start()
        self.addCleanup(fresh.stop)

    def test_a_new_value_asks_for_its_line_alone(self) -> None:
        self.assertEqual(self.asked(SEARCH), 4)
        self.assertEqual(self.asked(SEARCH), 0)
        self.assertEqual(self.asked(SEARCH.replace("400000", "410000")), 1)
        self.assertEqual(self.asked(f"{SEARCH}\nyear-built: not 1946..1960"), 1)
        self.assertEqual(self.asked(f"county: Tamarack\n{SEARCH}"), 4, "other parcels")

    def test_answers_are_of_the_facts_as_they_stand(self) -> None:
        compiled = compile(parse(f"county: Odell Marsh\n{SEARCH}"), self.scope)
        before, owners = balance(compiled), count_owners(compiled)
        self.assertEqual(answers_of(in_copy(compiled))[0].size, before.opening)
        county = County.objects.get(name="Odell Marsh")
        gone = ParcelFacts.objects.filter(pk__in=compiled.matches.values("pk")[:7])
        self.assertEqual(ParcelFacts.objects.filter(pk__in=list(gone.values_list("pk", flat=True))).delete()[0], 7)
        put_up_version([county.pk])
        write_copy(county)
        after = balance(compiled)
        self.assertEqual((after.opening, after.matches), (before.opening - 7, before.matches - 7))
        self.assertEqual(in_copy(compiled).opening.db, ALIAS)
        self.assertEqual(count_owners(compiled), compiled.matches.values("owner").distinct().exclude(owner=None).count())
        self.assertLessEqual(count_owners(compiled), owners)

    def test_owners_of_nothing_and_of_all(self) -> None:
        for text in ("", "beds: 9000..", "owner-name: unknown", "beds: 3..\nbeds: 3.."):
            compiled = compile(parse(text), self.scope)
            self.assertEqual(count_owners(compiled), compiled.matches.exclude(owner=None).values("owner").distinct().count(), text)
