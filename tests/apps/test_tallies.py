"""What was counted is remembered, and only as long as it holds."""

from __future__ import annotations

from django.db import connection
from django.test.utils import CaptureQueriesContext

from jaded_ledger.accounts.grades import set_grade
from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.search import Search
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import Balance, balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.derivation import derive
from jaded_ledger.records.models import County, ParcelFacts, RollEntry
from jaded_ledger.records.versions import put_up_version
from tests.support.demo import DemoTestCase
from tests.support.search_edits import moved, struck

SEARCH = parse("""county: Tamarack
owner-occupied: no
beds: 2.., or unknown
any of:
  years-owned: 10..
  open-signals: 2..
units: 1..4""")


class Tallies(DemoTestCase):
    def ask(self, search: Search) -> tuple[Balance, int]:
        """Return a search's balance, and how often the facts were read for it."""
        compiled = compile(search, scope_of_command())
        with CaptureQueriesContext(connection) as asked:
            found = balance(compiled)
        return found, sum("records_parcelfacts" in query["sql"] for query in asked.captured_queries)

    def assert_remembered(self, search: Search) -> None:
        remembered, read = self.ask(search)
        self.assertEqual(read, 0)
        put_up_version([County.objects.get(name="Pike Hollow").pk])
        anew, read = self.ask(search)
        self.assertEqual(read, 1)
        self.assertEqual(remembered, anew)

    def test_striking_moving_and_taking_back_read_nothing(self) -> None:
        self.assertEqual(self.ask(SEARCH)[1], 1)
        for search in (
            struck(SEARCH, 1),
            moved(SEARCH, 3, -2),
            SEARCH.without_line(2),
            moved(struck(SEARCH, 0), 0, 2),
            SEARCH,
        ):
            with self.subTest(search):
                self.ask(SEARCH)
                self.assert_remembered(search)

    def test_a_new_value_is_counted_and_the_one_before_it_is_still_there(self) -> None:
        self.ask(SEARCH)
        changed = SEARCH.with_line_at(3, parse("units: 1..2").lines[0])
        self.assertEqual(self.ask(changed)[1], 1)
        self.assertEqual(self.ask(SEARCH)[1], 0)
        self.assertEqual(self.ask(changed)[1], 0)

    def test_what_is_asked_each_time_counts_like_what_is_not(self) -> None:
        self.ask(SEARCH)
        self.assertEqual(self.ask(SEARCH.with_line_at(1, parse("beds: ask 2.., or unknown").lines[0]))[1], 0)

    def test_new_facts_another_day_and_another_team_are_counted_anew(self) -> None:
        before, _ = self.ask(SEARCH)
        entry = RollEntry.objects.filter(county__name="Tamarack", superseded_at=None, units=1, beds=3).first()
        RollEntry.objects.filter(pk=entry.pk).update(units=9)
        derive([entry.parcel_id])
        after, read = self.ask(SEARCH)
        self.assertEqual(read, 1)
        self.assertEqual((before.opening, before.lines[0]), (after.opening, after.lines[0]))
        scope = scope_of_command()
        graded = parse("area-grade: A")
        compiled = compile(graded, scope)
        none = balance(compiled).matches
        area = ParcelFacts.objects.exclude(neighborhood=None).exclude(neighborhood__grades__isnull=False).first().neighborhood_id
        set_grade(scope, area, "A")
        self.assertGreater(balance(compile(graded, scope)).matches, none)
        other = self.other_team().team
        self.assertEqual(balance(compile(graded, Scope(other, None, scope.today))).matches, 0)
