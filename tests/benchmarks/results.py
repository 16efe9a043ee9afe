"""The results: sorted by two columns, owner by owner, and as charts, against the same written by hand in SQL."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date

from jaded_ledger.accounts.models import Team
from jaded_ledger.accounts.scope import Scope
from jaded_ledger.charts.asked import AskedChart
from jaded_ledger.charts.distribution import distribution
from jaded_ledger.charts.scatter import scatter
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.text import parse
from jaded_ledger.find.answer import Answer
from jaded_ledger.find.by_owner import owner_rows
from jaded_ledger.find.compiler import compile
from jaded_ledger.find.results import PAGE
from jaded_ledger.find.results import rows as page_rows
from jaded_ledger.find.search_page import SearchPage
from tests.benchmarks.find import duck, run, without_copies
from tests.benchmarks.measure import Row, compare

SEARCH = "class: single-family, duplex\nassessed-value: 100000..400000"
WHERE = "property_class IN (1, 2) AND assessed_value BETWEEN 100000 AND 400000"
COLUMNS = ("owner-name", "last-sale", "assessed-value")
# Two columns of each kind, the first with many equal values: that is where the second decides.
SORTS = (
    ("beds,-living-area", "f.beds ASC NULLS LAST, f.living_area DESC NULLS LAST", ""),
    ("-assessed-value,equity", "f.assessed_value DESC NULLS LAST, f.equity ASC NULLS LAST", ""),
    ("-last-sale,last-transfer", "f.last_sale DESC NULLS LAST, f.last_transfer ASC NULLS LAST", ""),
    ("class,-owner-kind", "f.property_class ASC NULLS LAST, f.owner_kind DESC NULLS LAST", ""),
    ("pool,-waterfront", "f.pool ASC NULLS LAST, f.waterfront DESC NULLS LAST", ""),
    (
        "neighborhood,owner-name",
        "h.folded ASC NULLS LAST, n.folded ASC NULLS LAST",
        "LEFT JOIN records_area h ON h.id = f.neighborhood_id",
    ),
)


def _page(order: str, join: str) -> str:
    return f"""
    SELECT f.parcel_id, p.number, a.street, a.unit, n.text, f.last_sale, f.assessed_value
      FROM records_parcelfacts f
      JOIN records_parcel p ON p.id = f.parcel_id
      LEFT JOIN records_recordedaddress a ON a.id = f.address_id
      LEFT JOIN records_recordedname n ON n.id = f.owner_name_id
      {join}
     WHERE {WHERE} ORDER BY {order}, f.county_id, f.parcel_number LIMIT {PAGE}"""


OWNERS = f"""
SELECT g.owner_id, n.text, g.parcels, g.value, g.sold FROM (
    SELECT owner_id, count(*) AS parcels, sum(assessed_value) AS value,
           percentile_disc(0.5) WITHIN GROUP (ORDER BY last_sale) AS sold
      FROM records_parcelfacts WHERE {WHERE} GROUP BY owner_id) g
  LEFT JOIN records_owner o ON o.id = g.owner_id LEFT JOIN records_recordedname n ON n.id = o.name_id
 ORDER BY g.parcels DESC, n.folded NULLS LAST, g.owner_id LIMIT {PAGE}"""
HISTOGRAM = (
    "SELECT percentile_disc(ARRAY[0, 0.02, 0.98, 1]) WITHIN GROUP (ORDER BY living_area), count(living_area)"
    f" FROM records_parcelfacts WHERE {WHERE} AND living_area IS NOT NULL",
    "SELECT width_bucket(living_area, 0, 6000, 20), count(*)"
    f" FROM records_parcelfacts WHERE {WHERE} AND living_area IS NOT NULL GROUP BY 1",
)
_BOTH = f"FROM records_parcelfacts WHERE {WHERE} AND living_area IS NOT NULL"
SCATTER = (
    "SELECT percentile_cont(ARRAY[0, 0.005, 0.995, 1]) WITHIN GROUP (ORDER BY assessed_value::float),"
    f" percentile_cont(ARRAY[0, 0.005, 0.995, 1]) WITHIN GROUP (ORDER BY living_area::float), count(*) {_BOTH}",
    f"SELECT count(*) {_BOTH} AND assessed_value BETWEEN 100000 AND 400000 AND living_area BETWEEN 0 AND 6000",
    "SELECT floor(assessed_value::float / 6000), floor(living_area::float / 200), count(*)"
    f" {_BOTH} AND assessed_value BETWEEN 100000 AND 400000 AND living_area BETWEEN 0 AND 6000 GROUP BY 1, 2",
    "SELECT width_bucket(assessed_value, 100000, 400000, 15), count(*), percentile_cont(0.5) WITHIN GROUP (ORDER BY living_area)"
    f" {_BOTH} GROUP BY 1",
)


# DuckDB has no width_bucket; between even ends it is a division.
_LIVING = ("width_bucket(living_area, 0, 6000, 20)", "floor(living_area / 300)")
_ASSESSED = ("width_bucket(assessed_value, 100000, 400000, 15)", "floor(assessed_value / 20000)")
OWNERS_IN_DUCKDB = (
    "SELECT owner_id, count(*) AS parcels, sum(assessed_value), percentile_disc(0.5) WITHIN GROUP (ORDER BY last_sale)"
    f" FROM f LEFT JOIN owners ON owners.id = owner_id WHERE {WHERE} GROUP BY owner_id, owners.folded"
    f" ORDER BY parcels DESC, owners.folded NULLS LAST, owner_id LIMIT {PAGE}"
)


def _each(statements: tuple[str, ...]) -> list[list[tuple]]:
    return [run(statement) for statement in statements]


def rows() -> Iterator[Row]:
    scope = Scope(Team.objects.first(), None, date(2026, 11, 24))
    search = parse(SEARCH)
    compiled = compile(search, scope)
    matches = compiled.matches
    parcels = matches.count()
    print(f"{parcels:,} match")
    for sort, order, join in SORTS:
        by_hand = _page(order, join)
        ours = [row.parcel_id for row in page_rows(matches, COLUMNS, sort, 1)]
        assert ours == [row[0] for row in run(by_hand)], sort
        yield compare(f"first page sorted by {sort}", 1.5, lambda s=sort: page_rows(matches, COLUMNS, s, 1), lambda q=by_hand: run(q))
    columns = ("assessed-value", "last-sale")
    assert [row.parcels for row in owner_rows(compiled, columns, "", 1)] == [row[2] for row in run(OWNERS)]
    living, assessed = CATALOGUE["living-area"], CATALOGUE["assessed-value"]
    answer = Answer(SearchPage(search), scope)
    shown = [(AskedChart("distribution", living.key), HISTOGRAM), (AskedChart("scatter", assessed.key, living.key), SCATTER)]
    for chart, statements in shown:
        in_duckdb = tuple(statement.replace("records_parcelfacts", "f").replace(*_LIVING).replace(*_ASSESSED) for statement in statements)
        yield compare(f"{chart.kind}, against DuckDB", 1.5, lambda c=chart: c.of(answer), lambda q=in_duckdb: [duck(one) for one in q])
    yield compare("first page of owners, against DuckDB", 1.5, lambda: owner_rows(compiled, columns, "", 1), lambda: duck(OWNERS_IN_DUCKDB))
    owners, drawn = lambda: owner_rows(compiled, columns, "", 1), lambda: distribution(matches, living, parcels)
    with without_copies():
        yield compare("first page of owners, PostgreSQL", 1.5, owners, lambda: run(OWNERS), 5)
        yield compare("histogram of living area, PostgreSQL", 1.5, drawn, lambda: _each(HISTOGRAM), 5)
        dots = lambda: scatter(matches, assessed, living, parcels)  # noqa: E731
        yield compare("living area by assessed value, PostgreSQL", 1.5, dots, lambda: _each(SCATTER), 5)
