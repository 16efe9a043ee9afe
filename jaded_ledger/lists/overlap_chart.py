"""The overlap of lists as a dot matrix with bars (an UpSet plot: Lex et al., IEEE TVCG 2014)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.search import Criterion, Search
from jaded_ledger.core.criteria.text import format
from jaded_ledger.core.stacking.combining import ANY_ROW, FRESH, on_lists
from jaded_ledger.core.stacking.overlap import (
    Combination,
    Counting,
    Order,
    combinations_of,
    in_order,
    on_at_least,
    pairs_of,
    sizes_of,
)
from jaded_ledger.find.search_page import SearchPage
from jaded_ledger.lists.counts import exactly
from jaded_ledger.lists.models import ParcelList

MOST_BARS = 18
"""So many combinations are drawn; the table has all."""
LEFT, STEP, BARS, ROW, SQUARE = 330, 44, 240, 42, 14
_SIZE_BAR = 110


@dataclass(frozen=True)
class Dot:
    """One list in a combination's column."""

    x: float
    y: float
    is_in: bool


@dataclass(frozen=True)
class ChartLine:
    """A combination as a line of the table: how it reads, the search that finds its parcels, and where Find shows them."""

    combination: Combination
    reads: str
    search: str
    find: str


@dataclass(frozen=True)
class ChartColumn:
    """A combination as a bar above its dots."""

    of: ChartLine
    is_deep: bool
    x: float
    y: float
    height: float
    dots: tuple[Dot, ...]
    joins: tuple[float, float]


@dataclass(frozen=True)
class ChartRow:
    """A list as a line of the matrix, with a bar for its size."""

    list: ParcelList
    size: int
    y: float
    bar_x: float
    bar_width: float


@dataclass(frozen=True)
class OverlapChart:
    """The whole picture, and the figures beside it."""

    rows: tuple[ChartRow, ...]
    columns: tuple[ChartColumn, ...]
    table: tuple[ChartLine, ...]
    pairs: tuple[tuple[str, str, int, float], ...]
    width: float
    height: float
    on_any: int
    on_three: int

    @property
    def base(self) -> int:
        return BARS + 30


def find_address(criterion: Criterion, team: Team) -> str:
    """Return the address at which Find shows the parcels of a criterion."""
    return SearchPage(Search((), (criterion,))).address(team)


def _criterion(lists: Sequence[ParcelList], one: Combination, counting: Counting, trait: str) -> Criterion:
    others = [other.name for place, other in enumerate(lists) if place not in one.lists and counting is Counting.EXACTLY]
    return on_lists([lists[place].name for place in one.lists], others, trait=trait)


def overlap_chart_of(lists: Sequence[ParcelList], counting: Counting, order: Order, *, with_stale: bool) -> OverlapChart:
    """Return how some lists overlap, drawn."""
    counts = exactly(lists, with_stale=with_stale)
    found = in_order(combinations_of(counts, len(lists), counting), order)
    sizes = sizes_of(counts, len(lists))
    largest, top = max(sizes, default=1) or 1, BARS + 62
    rows = tuple(
        ChartRow(one, size, top + place * ROW, LEFT - 50 - _SIZE_BAR * size / largest, _SIZE_BAR * size / largest)
        for place, (one, size) in enumerate(zip(lists, sizes, strict=True))
    )
    tallest = max((one.count for one in found[:MOST_BARS]), default=1)
    table = tuple(_line(lists, one, counting, ANY_ROW if with_stale else FRESH) for one in found)
    columns = tuple(_column(line, place, tallest, rows) for place, line in enumerate(table[:MOST_BARS]))
    pairs = tuple((lists[pair.one].name, lists[pair.other].name, pair.shared, pair.share) for pair in pairs_of(counts, len(lists)))
    width = LEFT + STEP * max(1, len(columns))
    return OverlapChart(rows, columns, table, pairs, width, top + ROW * len(lists), sum(counts.values()), on_at_least(counts, 3))


def _line(lists: Sequence[ParcelList], one: Combination, counting: Counting, trait: str) -> ChartLine:
    criterion = _criterion(lists, one, counting, trait)
    reads = " + ".join(lists[place].name for place in one.lists)
    return ChartLine(one, reads, format(Search((), (criterion,))), find_address(criterion, lists[0].team))


def _column(line: ChartLine, place: int, tallest: int, rows: Sequence[ChartRow]) -> ChartColumn:
    x, height = LEFT + place * STEP, max(2.0, BARS * line.combination.count / tallest)
    within = line.combination.lists
    dots = tuple(Dot(x + 6, row.y - SQUARE / 2, number in within) for number, row in enumerate(rows))
    return ChartColumn(line, len(within) > 2, x, BARS + 30 - height, height, dots, (rows[within[0]].y, rows[within[-1]].y))
