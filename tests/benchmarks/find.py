"""The running balance, the owners and the first page: counted from the reading copy, against DuckDB on a native table of the same rows;
and by PostgreSQL, which answers while there is no copy, against the same written by hand in SQL.
"""

from __future__ import annotations

import itertools
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import date
from unittest import mock

import duckdb
from django.core.cache import caches
from django.db import connection

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find import line_answers
from jaded_ledger.find.balance import Balance, balance, count_owners
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.remembered_arrays import RememberedArrays
from jaded_ledger.find.results import PAGE, page_of
from jaded_ledger.records.models import County
from jaded_ledger.records.reading_copy.opened import NoCopyError
from tests.benchmarks.measure import Row, compare
from tests.support.search_edits import moved, struck

SEARCH = """county: Tamarack
class: single-family, duplex
owner-occupied: no
last-sale: more than 5 years ago
assessed-value: 100000..400000
beds: 2.., or unknown
year-built: not 1946..1960"""
# The same six criteria as somebody who knows the table would write them.
BY_HAND = (
    "property_class IN (1, 2)",
    "NOT owner_occupied",
    "last_sale <= DATE '2021-11-23'",
    "assessed_value BETWEEN 100000 AND 400000",
    "(beds >= 2 OR beds IS NULL)",
    "NOT (year_built BETWEEN 1946 AND 1960)",
)
# Every county at once: the same without the opening's one.
ALL_COUNTIES = SEARCH.partition("\n")[2]
COLUMNS = ("owner-name", "last-sale", "last-sale-price", "assessed-value")


def _opening(county: int | None) -> str:
    return f"f.county_id = {county}" if county else "true"


def balance_by_hand(county: int | None, conditions: Sequence[str] = BY_HAND) -> str:
    counts = [f"count(*) FILTER (WHERE {' AND '.join(conditions)})", "count(*)"]
    for place, condition in enumerate(conditions):
        before = " AND ".join(conditions[:place]) or "true"
        counts.append(f"count(*) FILTER (WHERE {before} AND {condition})")
        counts.append(f"count(*) FILTER (WHERE {before} AND ({condition}) IS NULL)")
        others = " AND ".join(other for number, other in enumerate(conditions) if number != place)
        counts.append(f"count(*) FILTER (WHERE {others})")
    return f"SELECT {', '.join(counts)} FROM records_parcelfacts f WHERE {_opening(county)}"


def _page_by_hand(county: int | None) -> str:
    return f"""
    SELECT f.parcel_id, p.number, a.street, a.unit, n.text, f.last_sale, f.last_sale_price, f.assessed_value
      FROM records_parcelfacts f
      JOIN records_parcel p ON p.id = f.parcel_id
      LEFT JOIN records_recordedaddress a ON a.id = f.address_id
      LEFT JOIN records_recordedname n ON n.id = f.owner_name_id
     WHERE {_opening(county)} AND {" AND ".join(BY_HAND)}
     ORDER BY f.assessed_value DESC NULLS LAST, f.county_id, f.parcel_number
     LIMIT {PAGE}"""


def _owners_by_hand(county: int | None) -> str:
    return f"SELECT count(DISTINCT f.owner_id) FROM records_parcelfacts f WHERE {_opening(county)} AND {' AND '.join(BY_HAND)}"


_COLUMNS_ASKED = (
    "county_id, parcel_id, parcel_number, owner_id, property_class, owner_occupied, last_sale, assessed_value, beds, year_built",
    "living_area",
)
_duck: list[duckdb.DuckDBPyConnection] = []


def duck(statement: str) -> list[tuple]:
    """Ask DuckDB over the same rows, which are copied once to a table of its own, as the copy is asked: in one thread."""
    if not _duck:
        _duck.append(duckdb.connect(config={"threads": "1"}))
        with connection.cursor() as cursor, tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
            with cursor.copy(f"COPY (SELECT {', '.join(_COLUMNS_ASKED)} FROM records_parcelfacts) TO STDOUT CSV HEADER") as copy:
                for block in copy:
                    file.write(bytes(block).decode())
            file.flush()
            _duck[0].execute(f"CREATE TABLE f AS SELECT * FROM read_csv('{file.name}', nullstr='')")
        with connection.cursor() as cursor, tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
            names = "SELECT o.id, n.folded FROM records_owner o JOIN records_recordedname n ON n.id = o.name_id"
            with cursor.copy(f"COPY ({names}) TO STDOUT CSV HEADER") as copy:
                for block in copy:
                    file.write(bytes(block).decode())
            file.flush()
            _duck[0].execute(f"CREATE TABLE owners AS SELECT * FROM read_csv('{file.name}')")
    return _duck[0].execute(statement.replace("records_parcelfacts f", "f")).fetchall()


def _in_duckdb(county: int | None, conditions: Sequence[str] = BY_HAND) -> list[tuple]:
    """Compute the whole balance in DuckDB."""
    return duck(balance_by_hand(county, conditions))


def _edit_in_duckdb(county: int | None) -> None:
    """Do in DuckDB what an edit asks: each line's answers in one number, the owners, and which rows the first page has."""
    answers = " + ".join(f"COALESCE(CAST(({one}) AS INTEGER), 2) * {4**place}::BIGINT" for place, one in enumerate(BY_HAND))
    where = f"{_opening(county)} AND {' AND '.join(BY_HAND)}"
    duck(f"SELECT {answers}, count(*) FROM f WHERE {_opening(county)} GROUP BY 1")
    duck(f"SELECT count(DISTINCT owner_id) FROM f WHERE {where}")
    duck(f"SELECT parcel_id FROM f WHERE {where} ORDER BY assessed_value DESC NULLS LAST, county_id, parcel_number LIMIT {PAGE}")


@contextmanager
def without_copies() -> Iterator[None]:
    """Have PostgreSQL answer within the block."""
    with mock.patch("jaded_ledger.find.reading_copy.in_copy", side_effect=NoCopyError):
        yield


def run(statement: str) -> list[tuple]:
    with connection.cursor() as cursor:
        cursor.execute(statement)
        return cursor.fetchall()


def _rows_of(text: str, county: int | None, where: str) -> list[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    search = parse(text)
    compiled = compile(search, scope)
    found = balance(compiled)
    (by_hand,) = run(balance_by_hand(county))
    expected = [found.matches, found.opening]
    for line in found.lines:
        expected += [line.balance, line.unknown, found.matches + line.if_struck]
    assert list(by_hand) == expected, (by_hand, expected)
    by_hand_ids = [row[0] for row in run(_page_by_hand(county))]
    assert [row.parcel_id for row in page_of(compiled, COLUMNS, "-assessed-value", 1)] == by_hand_ids
    print(f"{where}: {found.opening:,} parcels, {found.matches:,} match the six criteria")
    changed = struck(search, 1)
    reordered = moved(search, 0, 3)
    assert balance(compile(changed, scope)).matches == _in_duckdb(county, [*BY_HAND[:1], *BY_HAND[2:]])[0][0]

    def anew() -> Balance:
        caches["tallies"].clear()
        return balance(compile(search, scope))

    lows = itertools.count(100_001)

    def edit() -> None:
        # Another value each time, such as nobody has asked for yet; what the other lines answer is remembered.
        asked = compile(parse(text.replace("100000..", f"{next(lows)}..")), scope)
        balance(asked)
        count_owners(asked)
        page_of(asked, COLUMNS, "-assessed-value", 1)

    def opened() -> None:
        caches["tallies"].clear()
        with mock.patch.object(line_answers, "_REMEMBERED", RememberedArrays(48 << 20)):
            edit()

    what = f"balance, owners and first page after a new line, {where}"
    edited = compare(f"{what}, against DuckDB on a native table", 1.2, edit, lambda: _edit_in_duckdb(county))
    yield edited
    yield Row(f"{what}, against 150 ms", edited.ours, 150, 1.0)
    yield compare(
        f"the same of a search that this process sees for the first time, {where}", 1.5, opened, lambda: _edit_in_duckdb(county)
    )  # fmt: skip
    yield compare(f"balance after a line was struck, {where}", 1.0, lambda: balance(compile(changed, scope)), lambda: _in_duckdb(county))
    yield compare(f"balance after a line was moved, {where}", 1.0, lambda: balance(compile(reordered, scope)), lambda: _in_duckdb(county))
    yield compare(f"balance with a value seen before, {where}", 1.0, lambda: balance(compile(search, scope)), lambda: _in_duckdb(county))
    with without_copies():
        where = f"{where}, PostgreSQL"
        yield compare(
            f"owners of the matches, {where}", 1.2, lambda: count_owners(compile(search, scope)), lambda: run(_owners_by_hand(county))
        )  # fmt: skip
        yield compare(f"running balance, six criteria, from cold, {where}", 1.2, anew, lambda: run(balance_by_hand(county)))
        yield compare(
            f"first page of results, sorted, {where}", 1.5,
            lambda: page_of(compile(search, scope), COLUMNS, "-assessed-value", 1), lambda: run(_page_by_hand(county)),
        )  # fmt: skip


def rows() -> Iterator[Row]:
    tamarack = County.objects.get(name="Tamarack").pk
    yield from _rows_of(SEARCH, tamarack, "one county")
    yield from _rows_of(ALL_COUNTIES, None, "three counties")
