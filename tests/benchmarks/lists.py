"""Twelve lists of 50,000 rows each: how they overlap, and a stack as a criterion, against SQL written by hand."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from django.db import connection, transaction

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiling import compile
from jaded_ledger.lists import acts
from jaded_ledger.lists.counts import exactly
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.records.models import ParcelFacts
from tests.benchmarks.measure import Row, compare

LISTS, ROWS = 12, 50_000


class _UndoneError(Exception):
    """The lists were only for the measurement."""


def _make(scope: Scope) -> list[ParcelList]:
    ids = list(ParcelFacts.objects.order_by("pk").values_list("pk", flat=True)[: 6 * ROWS])
    made = []
    for number in range(LISTS):
        one = acts.make_list(scope, f"Bench {number:02}")
        # Each takes every sixth or fewer, from another start, so that they overlap in many ways.
        step = number % 5 + 2
        acts.add(scope, one, (ids[number::step] + ids[number + 1 :: step])[:ROWS])
        made.append(one)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE lists_membership")
    return made


def _run(statement: str, parameters: list[object]) -> list[tuple]:
    with connection.cursor() as cursor:
        cursor.execute(statement, parameters)
        return cursor.fetchall()


_OVERLAP = """
SELECT mask, count(*) FROM (
  SELECT bit_or(1 << (array_position(%s::bigint[], list_id) - 1)) AS mask FROM lists_membership
   WHERE removed_id IS NULL AND list_id = ANY(%s) GROUP BY parcel_id) masks
 GROUP BY mask"""
_STACK = """
SELECT count(*) FROM records_parcelfacts f WHERE f.parcel_id IN (
  SELECT m.parcel_id FROM lists_membership m JOIN lists_parcellist l ON l.id = m.list_id
   WHERE l.team_id = %s AND l.deleted_id IS NULL AND m.removed_id IS NULL GROUP BY m.parcel_id HAVING count(*) >= 3)"""


def rows() -> Iterator[Row]:
    team = Team.objects.first()
    scope = Scope(team, None, date(2026, 11, 24))
    try:
        with transaction.atomic():
            lists = _make(scope)
            ids = [one.pk for one in lists]
            assert exactly(lists) == dict(_run(_OVERLAP, [ids, ids]))
            yield compare(f"overlap of {LISTS} lists of {ROWS:,} rows", 1.5, lambda: exactly(lists), lambda: _run(_OVERLAP, [ids, ids]))
            stack = parse("lists-held: 3..")
            assert compile(stack, scope).matches.count() == _run(_STACK, [team.pk])[0][0]
            yield compare(
                "on three lists or more, as a criterion", 1.5,
                lambda: compile(stack, scope).matches.count(), lambda: _run(_STACK, [team.pk]),
            )  # fmt: skip
            raise _UndoneError
    except _UndoneError:
        pass
