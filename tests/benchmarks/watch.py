"""A night's run of fifty watched searches against set differences by hand, in SQL on the same rows, which keep the same.

Before each run one match in a hundred is taken out of what was kept and as many parcels that do not match are put in, so that each
search has something that came and something that went; of one in a hundred the price kept is another.
"""

from __future__ import annotations

import itertools
import statistics
import time
from collections.abc import Callable, Iterator

from django.db import connection, transaction
from django.db.models import F

from jaded_ledger.accounts.scope import Scope, scope_of_command
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.records.models import FactsVersion
from jaded_ledger.searches import services
from jaded_ledger.searches.matching import reckon
from jaded_ledger.searches.models import SavedSearch
from tests.benchmarks.measure import Row

COUNT, NAME, TIMES = 50, "Watched in the bench", 2
_EQUITY, _YEARS = (30, 40, 50, 60, 70), (1, 2, 3, 5, 7, 9, 11, 13, 15, 18)
_BY_HAND_TABLE = """
    CREATE UNLOGGED TABLE IF NOT EXISTS bench_match (
        search integer, parcel bigint, entered_at timestamptz, left_at timestamptz, status smallint, list_price integer, owner bigint,
        stage smallint, auction date, signals smallint)
"""


def _searches() -> Iterator[tuple[str, str]]:
    """Yield fifty searches, as we ask them and as somebody who knows the table would write them."""
    for equity, years in itertools.product(_EQUITY, _YEARS):
        text = f"owner-occupied: no\nequity-pct: {equity}..\nyears-owned: {years}..\nopen-signals: 1..\nclass: single-family, duplex"
        sql = (
            f"NOT f.owner_occupied AND f.equity_pct >= {equity} AND f.owned_since <= DATE '2026-11-24' - INTERVAL '{years} years' "
            "AND f.open_signals >= 1 AND f.property_class IN (1, 2)"
        )
        yield text, sql


def _saved(scope: Scope) -> list[SavedSearch]:
    SavedSearch.objects.filter(name__startswith=NAME).delete()
    return [services.save(scope, SearchPage(parse(text)), f"{NAME} {number}") for number, (text, _) in enumerate(_searches())]


def _run(saved: list[SavedSearch], scope: Scope) -> None:
    """Ask every search anew, as for facts that were derived since."""
    FactsVersion.objects.update(number=F("number") + 1)
    for one in saved:
        reckon(one, scope)


_MIX = """
    DELETE FROM {table} WHERE {search} = %(search)s AND abs(hashint8({parcel})) %% 100 = %(turn)s;
    INSERT INTO {table} ({columns}) SELECT %(search)s, f.parcel_id, TIMESTAMPTZ '2020-01-01' {values} FROM records_parcelfacts f
     WHERE ({sql}) IS FALSE AND f.parcel_id BETWEEN 100 * %(turn)s AND 100 * %(turn)s + 99
       AND f.parcel_id NOT IN (SELECT m.{parcel} FROM {table} m WHERE m.{search} = %(search)s);
    UPDATE {table} SET {price} WHERE {search} = %(search)s AND abs(hashint8({parcel})) %% 100 = %(other)s;
"""
_OURS = {
    "table": "searches_match", "search": "search_id", "parcel": "parcel_id",
    "columns": "search_id, parcel_id, entered_at, by_edit, left_by_edit, watched",
    "values": ", false, false, '{}'", "price": "watched = '{\"list-price\": 1}'",
}  # fmt: skip
_THEIRS = {
    "table": "bench_match",
    "search": "search",
    "parcel": "parcel",
    "columns": "search, parcel, entered_at",
    "values": "",
    "price": "list_price = 1",
}


def _mix(turn: int, keys: list[int], names: dict[str, str]) -> None:
    with connection.cursor() as cursor:
        for key, (_, sql) in zip(keys, _searches(), strict=True):
            statement = _MIX.format(sql=sql, **names)
            cursor.execute(statement, {"search": key, "turn": turn % 100, "other": (turn + 50) % 100})


_DIFFERENCES = """
    WITH now AS MATERIALIZED (
        SELECT f.parcel_id, f.status, f.list_price, f.owner_name_id, f.foreclosure_stage, f.auction, f.open_signals
          FROM records_parcelfacts f WHERE {sql}),
    gone AS (
        UPDATE bench_match m SET left_at = now()
         WHERE m.search = %(search)s AND m.left_at IS NULL AND NOT EXISTS (SELECT FROM now WHERE now.parcel_id = m.parcel)),
    changed AS (
        UPDATE bench_match m
           SET status = now.status, list_price = now.list_price, owner = now.owner_name_id, stage = now.foreclosure_stage,
               auction = now.auction, signals = now.open_signals
          FROM now
         WHERE m.search = %(search)s AND m.left_at IS NULL AND m.parcel = now.parcel_id
           AND (m.status, m.list_price, m.owner, m.stage, m.auction, m.signals) IS DISTINCT FROM
               (now.status, now.list_price, now.owner_name_id, now.foreclosure_stage, now.auction, now.open_signals))
    INSERT INTO bench_match
    SELECT %(search)s, now.parcel_id, now(), NULL, now.status, now.list_price, now.owner_name_id, now.foreclosure_stage, now.auction,
           now.open_signals
      FROM now
     WHERE NOT EXISTS (SELECT FROM bench_match m WHERE m.search = %(search)s AND m.left_at IS NULL AND m.parcel = now.parcel_id)
"""


def _run_by_hand() -> None:
    for key, (_, sql) in enumerate(_searches()):
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(_DIFFERENCES.format(sql=sql), {"search": key})


def rows() -> Iterator[Row]:
    scope = scope_of_command()
    saved = _saved(scope)
    with connection.cursor() as cursor:
        cursor.execute(f"DROP TABLE IF EXISTS bench_match; {_BY_HAND_TABLE}; CREATE INDEX ON bench_match (search, parcel)")
    _run(saved, scope)
    _run_by_hand()
    ours, theirs = itertools.count(1), itertools.count(1)
    keys = [one.pk for one in saved]
    # What is mixed takes no part in the time: each side is timed by itself, in turn.
    spent: tuple[list[float], list[float]] = ([], [])
    for _ in range(TIMES):
        _mix(next(ours), keys, _OURS)
        spent[0].append(_timed(lambda: _run(saved, scope)))
        _mix(next(theirs), list(range(COUNT)), _THEIRS)
        spent[1].append(_timed(_run_by_hand))
    work = "a night's run of 50 watched searches, against set differences by hand"
    yield Row(work, statistics.median(spent[0]), statistics.median(spent[1]), 1.5)


def _timed(run: Callable[[], None]) -> float:
    started = time.perf_counter()
    run()
    return 1000 * (time.perf_counter() - started)
