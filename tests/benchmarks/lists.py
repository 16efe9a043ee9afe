"""Twelve lists of 50,000 rows each: how they overlap, a stack and urgency as criteria, against SQL written by hand."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from django.db import connection, transaction

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.core.distress.signals import SignalKind
from jaded_ledger.find.compiler import compile
from jaded_ledger.lists import services
from jaded_ledger.lists.counts import count_exactly
from jaded_ledger.lists.models import ParcelList
from jaded_ledger.lists.urgency import scale_of
from jaded_ledger.records.models import ParcelFacts
from tests.benchmarks.measure import Row, compare

LISTS, ROWS = 12, 50_000


class _UndoneError(Exception):
    """The lists were only for the measurement."""


def _make(scope: Scope) -> list[ParcelList]:
    ids = list(ParcelFacts.objects.order_by("pk").values_list("pk", flat=True)[: 6 * ROWS])
    made = []
    for number in range(LISTS):
        one = services.make_list(scope, f"Bench {number:02}")
        # Each takes every sixth or fewer, from another start, so that they overlap in many ways.
        step = number % 5 + 2
        services.add(scope, one, (ids[number::step] + ids[number + 1 :: step])[:ROWS])
        made.append(one)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE lists_membership")
    return made


def _run(statement: str, parameters: list[object] | dict[str, object]) -> list[tuple]:
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
_URGENCY = """
WITH on_lists AS (
  SELECT m.parcel_id, sum(floor(
      l.weight * power(0.5::float8, greatest(%(today)s - coalesce(l.source_on, m.added_on), 0) / %(half)s::float8) + 0.5)) AS points
    FROM lists_membership m JOIN lists_parcellist l ON l.id = m.list_id JOIN records_parcelfacts f ON f.parcel_id = m.parcel_id
    LEFT JOIN records_recordedname was ON was.id = m.owner_name_id LEFT JOIN records_recordedname now ON now.id = f.owner_name_id
   WHERE l.team_id = %(team)s AND l.deleted_id IS NULL AND m.removed_id IS NULL AND l.type = 'reason' AND NOT coalesce(
     f.owned_since > m.owned_since
     OR (m.owned_since IS NULL AND f.owned_since > m.added_on
         AND NOT coalesce(was.surnames ?| ARRAY(SELECT jsonb_array_elements_text(now.surnames)), false))
     OR (m.owner_name_id <> f.owner_name_id AND was.surnames <> '[]' AND now.surnames <> '[]'
         AND NOT was.surnames ?| ARRAY(SELECT jsonb_array_elements_text(now.surnames))), false)
   GROUP BY m.parcel_id)
SELECT count(*) FROM records_parcelfacts f LEFT JOIN on_lists o ON o.parcel_id = f.parcel_id
 WHERE coalesce(o.points, 0) + CASE WHEN f.signals <> '{}' THEN (
   SELECT coalesce(sum(floor((%(weights)s::float8[])[code] * power(0.5::float8, greatest(%(today)s - day, 0) / %(half)s::float8) + 0.5)), 0)
     FROM unnest(f.signals, f.signal_days) AS s(code, day)) ELSE 0 END >= 50"""


def rows() -> Iterator[Row]:
    team = Team.objects.first()
    scope = Scope(team, None, date(2026, 11, 24))
    try:
        with transaction.atomic():
            lists = _make(scope)
            ids = [parcel_list.pk for parcel_list in lists]
            assert count_exactly(lists) == dict(_run(_OVERLAP, [ids, ids]))
            yield compare(
                f"overlap of {LISTS} lists of {ROWS:,} rows", 1.5, lambda: count_exactly(lists), lambda: _run(_OVERLAP, [ids, ids])
            )
            stack = parse("lists-held: 3..")
            assert compile(stack, scope).matches.count() == _run(_STACK, [team.pk])[0][0]
            yield compare(
                "on three lists or more, as a criterion", 1.5,
                lambda: compile(stack, scope).matches.count(), lambda: _run(_STACK, [team.pk]),
            )  # fmt: skip
            asked, scale = parse("urgency: 50.."), scale_of(team)
            given = {"today": scope.today, "half": scale.half_life_days, "team": team.pk}
            given["weights"] = [scale.weights[kind] for kind in SignalKind]
            assert compile(asked, scope).matches.count() == _run(_URGENCY, given)[0][0]
            yield compare(
                "urgency of 50 or more, as a criterion", 1.5,
                lambda: compile(asked, scope).matches.count(), lambda: _run(_URGENCY, given),
            )  # fmt: skip
            raise _UndoneError
    except _UndoneError:
        pass
