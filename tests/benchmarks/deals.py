"""Deals: screening what is on the market, and asking for it, against the same written by hand over the kept figures."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import date

from django.core.cache import caches
from django.db import connection

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.balance import balance
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import PAGE
from jaded_ledger.find.results import rows as page_rows
from jaded_ledger.worksheets.models import ScreenedParcel
from jaded_ledger.worksheets.screened import screen_team
from tests.benchmarks.find import run
from tests.benchmarks.measure import Row, compare

ON_MARKET, SECONDS = 16_000, 60
# What somebody asks of the market who has asked other things before: two lines on kept figures, five on the facts.
SEARCH = """cap-rate: 3..
discount-to-value: -25..
class: single-family, duplex
assessed-value: 50000..600000
beds: 2.., or unknown
year-built: not 1946..1950
last-sale: more than 2 years ago, or unknown"""
BY_HAND = (
    "k.cap_rate >= 3",
    "k.discount_to_value >= -25",
    "f.property_class IN (1, 2)",
    "f.assessed_value BETWEEN 50000 AND 600000",
    "(f.beds >= 2 OR f.beds IS NULL)",
    "NOT (f.year_built BETWEEN 1946 AND 1950)",
    "(f.last_sale <= DATE '2024-11-23' OR f.last_sale IS NULL)",
)


def _joined(team: int) -> str:
    return f"FROM records_parcelfacts f LEFT JOIN deals_screenedparcel k ON k.parcel_id = f.parcel_id AND k.team_id = {team}"


def _balance_by_hand(team: int) -> str:
    counts = [f"count(*) FILTER (WHERE {' AND '.join(BY_HAND)})", "count(*)"]
    for place, condition in enumerate(BY_HAND):
        before = " AND ".join(BY_HAND[:place]) or "true"
        others = " AND ".join(other for number, other in enumerate(BY_HAND) if number != place)
        counts += [
            f"count(*) FILTER (WHERE {before} AND {condition})", f"count(*) FILTER (WHERE {before} AND ({condition}) IS NULL)",
            f"count(*) FILTER (WHERE {others})",
        ]  # fmt: skip
    return f"SELECT {', '.join(counts)} {_joined(team)}"


def _page_by_hand(team: int) -> str:
    return f"""
    SELECT f.parcel_id, p.*, a.*, n.*, k.cap_rate, f.list_price
      FROM deals_screenedparcel k JOIN records_parcelfacts f USING (parcel_id) JOIN records_parcel p ON p.id = f.parcel_id
      LEFT JOIN records_recordedaddress a ON a.id = f.address_id LEFT JOIN records_recordedname n ON n.id = f.owner_name_id
     WHERE k.team_id = {team} AND {" AND ".join(BY_HAND)}
     ORDER BY k.cap_rate DESC NULLS LAST, f.county_id, f.parcel_number LIMIT {PAGE}"""


def rows() -> Iterator[Row]:
    team = Team.objects.first()
    assert team is not None
    scope = Scope(team, None, date(2026, 11, 24))
    started = time.perf_counter()
    count = screen_team(team.pk)
    spent = 1000 * (time.perf_counter() - started)
    print(f"screened {count:,} properties on the market")
    yield Row(f"deals: screening {ON_MARKET:,} on the market, against {SECONDS} s", spent * ON_MARKET / count, 1000 * SECONDS, 1.0)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE deals_screenedparcel")
    search = parse(SEARCH)

    def ours() -> int:
        caches["tallies"].clear()
        return balance(compile(search, scope)).matches

    (by_hand,) = run(_balance_by_hand(team.pk))
    assert ours() == by_hand[0], (ours(), by_hand)
    print(f"{by_hand[0]:,} of {by_hand[1]:,} match, of {ScreenedParcel.objects.filter(team=team).count():,} screened")
    yield compare(
        "deals: balance of two lines on kept figures and five on facts, from cold", 1.5, ours, lambda: run(_balance_by_hand(team.pk))
    )
    columns = ("owner-name", "cap-rate", "list-price")
    yield compare(
        "deals: first page by cap rate", 1.5,
        lambda: list(page_rows(compile(search, scope).matches, columns, "-cap-rate", 1)), lambda: run(_page_by_hand(team.pk)),
    )  # fmt: skip
