"""Whoever locks rows locks those of one table: joined tables are locked as well unless the statement says of which (FOR UPDATE OF)."""

from __future__ import annotations

import ast
import re
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from threading import Event
from typing import Any
from unittest import mock

from django.db import connection

from jaded_ledger.accounts.models import Team, User
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.clients import mails
from jaded_ledger.clients.models import Client, ClientMail, ClientSearch
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists import services as lists
from jaded_ledger.lists.models import Activity, ParcelList
from jaded_ledger.records.models import ParcelFacts
from jaded_ledger.searches.models import SavedSearch
from jaded_ledger.searches.services import save
from jaded_ledger.watch import telling
from jaded_ledger.watch.models import Watch
from jaded_ledger.watch.watching import watch
from tests.support.demo import DemoServerCase, DemoTestCase

ROOT = Path(__file__).resolve().parents[2] / "jaded_ledger"
ORDER = [one._meta.db_table for one in (ClientMail, Client, ClientSearch, SavedSearch, Watch, Team, ParcelList, Activity)]
"""In which order rows are locked within one transaction: docs/architecture.md names it."""


def chain_of(call: ast.expr) -> Iterator[ast.Call]:
    """Yield the calls of a chain such as ``rows.filter(…).select_for_update(…).get(…)``, the last first."""
    while isinstance(call, ast.Call | ast.Attribute):
        if isinstance(call, ast.Call):
            yield call
            call = call.func
        else:
            call = call.value


def name_of(call: ast.Call) -> str:
    return call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")


def locks_of(source: str) -> Iterator[tuple[int, bool, bool]]:
    """Yield each lock's line, whether its chain joins tables, and whether it says which table it locks."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Call) and name_of(node) != "select_for_update":
            chain = {name_of(one): one for one in chain_of(node)}
            if lock := chain.get("select_for_update"):
                yield lock.lineno, "select_related" in chain, any(word.arg == "of" for word in lock.keywords)


class Locks(unittest.TestCase):
    def test_a_lock_with_joined_tables_says_which_it_locks(self) -> None:
        wrong, count = set(), 0
        for path in ROOT.rglob("*.py"):
            source = path.read_text()
            for line, joins, says in locks_of(source) if "select_for_update" in source else ():
                count += 1
                if joins and not says:
                    wrong.add(f"{path.relative_to(ROOT)}:{line}")
        self.assertEqual(wrong, set())
        self.assertGreater(count, 20)

    def test_the_walk_finds_one(self) -> None:
        found = list(locks_of("A.objects.select_for_update().select_related('b').get(pk=1)"))
        self.assertIn((1, True, False), found)


class InOrder(DemoTestCase):
    """What the rounds and pages that meet lock, as PostgreSQL is asked for it."""

    @contextmanager
    def noting(self) -> Iterator[list[list[str]]]:
        """Give the tables that are locked within, transaction by transaction."""
        found: list[list[str]] = [[]]

        def note(execute: Any, sql: str, params: Any, many: bool, context: Any) -> Any:
            # Tests have savepoints where requests have transactions; those within others are released first.
            if str(sql).startswith("SAVEPOINT") and len(connection.savepoint_ids) <= depth + 1:
                found.append([])
            if locked := re.search(r'FROM "(\w+)".*FOR UPDATE(?P<of> OF)?', str(sql)):
                found[-1].append(locked[1])
                # Tables are joined for the order of rows as well.
                self.assertTrue(locked["of"] or " JOIN " not in sql, sql)
            return execute(sql, params, many, context)

        depth = len(connection.savepoint_ids)
        with connection.execute_wrapper(note):
            yield found

    def test_rounds_and_pages(self) -> None:
        scope = Scope(self.user.team, self.user, self.scope.today)
        page = SearchPage(parse("class: triplex"))
        saved = save(scope, page, "Triplexes", shared=True)
        watch(scope, saved, "morning")
        with self.noting() as found:
            telling.run_due(every=True)
            watch(scope, saved, "weekly", days=[1])
            mails.run_due()
            lists.undo(scope, lists.add(scope, lists.make_list(scope, "New"), [ParcelFacts.objects.all()[0].pk]))
        # What is held already may be locked again.
        places = [[ORDER.index(table) for table in dict.fromkeys(one) if table in ORDER] for one in found]
        self.assertEqual([one for one in places if one != sorted(one)], [])
        self.assertIn([ORDER.index("searches_savedsearch"), ORDER.index("watch_watch")], [one[:2] for one in places])


class Meeting(DemoServerCase):
    def test_a_round_and_a_page_that_change_one_watch(self) -> None:
        user = User.objects.get(username="nora")
        scope = Scope(user.team, user, telling.now().date())
        saved = save(scope, SearchPage(parse("class: triplex")), "Triplexes", shared=True)
        watch(scope, saved, "morning")
        holds = Event()
        reckon = telling.reckon_if_askable

        def slowly(*told: Any) -> bool:
            holds.set()
            # The page has begun by then, and waits for what this holds.
            waits = "SELECT count(*) FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND datname = current_database()"
            for _ in range(200):
                with connection.cursor() as cursor:
                    cursor.execute(f"SELECT pg_sleep(0.02), ({waits})")
                    if cursor.fetchone()[1]:
                        break
            return reckon(*told)

        def change() -> Watch:
            holds.wait(10)
            try:
                return watch(scope, saved, "weekly", days=[3])
            finally:
                connection.close()

        with mock.patch.object(telling, "reckon_if_askable", slowly), ThreadPoolExecutor(1) as beside:
            changing = beside.submit(change)
            done = telling.run_due(search="Triplexes", every=True)
            self.assertEqual(changing.result(20).rhythm, "weekly")
        self.assertEqual((done.watches, done.failed), (1, ()))


if __name__ == "__main__":
    unittest.main()
