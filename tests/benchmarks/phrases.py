"""Phrases in 200,000 listings' remarks and in owners' names, against trigram queries written by hand."""

from __future__ import annotations

import random
from collections.abc import Iterator
from datetime import date

from django.db import connection, transaction

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.compiler import compile
from jaded_ledger.records.bulk import allot_ids, copy_rows
from jaded_ledger.records.models import Remarks
from tests.benchmarks.measure import Row, compare

REMARKS = 200_000
_COMMON = (
    "bright corner lot with mature trees close to schools and the bay updated kitchen newer roof two baths stereo included creole lived "
    "room to grow vegetables large garage quiet street walk to shops hardwood floors full basement central air easy to show call first"
).split()
_RARE = ("needs work", "needs working", "r.e.o.", "as is", "motivated", "estate sale", "room to grow")
SEARCH = 'remarks: any of "needs work*", "r.e.o.", "motivated"; none of "room to grow"'
BY_HAND = """
SELECT count(*) FROM records_parcelfacts f WHERE f.ever_listed AND f.remarks_id IN (
  SELECT id FROM records_remarks
   WHERE (words LIKE '%% needs work%%' OR words LIKE '%% reo %%' OR words LIKE '%% r e o %%' OR words LIKE '%% motivated %%')
     AND words NOT LIKE '%% room to grow %%')"""
OWNERS = 'owner-name: "holdings", "ostrom helen"'
OWNERS_BY_HAND = """
SELECT count(*) FROM records_parcelfacts f WHERE f.owner_name_id IN (
  SELECT id FROM records_recordedname
   WHERE words LIKE '%% holdings %%' OR (words LIKE '%% ostrom %%' AND words LIKE '%% helen %%'))"""


class _UndoneError(Exception):
    """The remarks were only for the measurement."""


def _write_remarks() -> None:
    """Give every parcel up to 200,000 remarks of its own, of some sixty words, one in ten with a phrase that is asked for."""
    rng = random.Random(11)
    rows = []
    for pk in allot_ids(Remarks, REMARKS):
        words = rng.choices(_COMMON, k=60)
        if rng.random() < 0.1:
            words.insert(rng.randrange(60), rng.choice(_RARE))
        rows.append(Remarks.forms_of([f"{' '.join(words)}. Listing {pk}.", "", ""]) | {"id": pk})
    copy_rows(Remarks, rows)
    with connection.cursor() as cursor:
        cursor.execute(
            """UPDATE records_parcelfacts f SET ever_listed = true, remarks_id = r.id
                 FROM (SELECT id, row_number() OVER (ORDER BY id) AS n FROM records_remarks WHERE id >= %s) r,
                      (SELECT parcel_id, row_number() OVER (ORDER BY parcel_id) AS n FROM records_parcelfacts) p
                WHERE p.n = r.n AND f.parcel_id = p.parcel_id""",
            [rows[0]["id"]],
        )
        cursor.execute("ANALYZE records_remarks")
        cursor.execute("ANALYZE records_parcelfacts")


def _count(text: str) -> int:
    return compile(parse(text), Scope(Team.objects.first(), None, date(2026, 11, 24))).matches.count()


def _by_hand(statement: str) -> int:
    with connection.cursor() as cursor:
        cursor.execute(statement, [])
        return cursor.fetchone()[0]


def rows() -> Iterator[Row]:
    try:
        with transaction.atomic():
            _write_remarks()
            assert _count(SEARCH) == _by_hand(BY_HAND) > 0
            yield compare(f"phrases in {REMARKS:,} remarks", 1.5, lambda: _count(SEARCH), lambda: _by_hand(BY_HAND))
            raise _UndoneError
    except _UndoneError:
        pass
    assert _count(OWNERS) == _by_hand(OWNERS_BY_HAND) > 0
    yield compare("words in owners' names", 1.5, lambda: _count(OWNERS), lambda: _by_hand(OWNERS_BY_HAND))
