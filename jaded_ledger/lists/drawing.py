"""The overlap of lists as a dot matrix with bars (an UpSet plot: Lex et al., IEEE TVCG 2014)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.accounts.models import Team
from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search
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
from jaded_ledger.find.addresses import Place
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
class Column:
    """A combination as a bar above its dots, and the search that finds its parcels."""

    reads: str
    count: int
    is_deep: bool
    x: float
    y: float
    height: float
    dots: tuple[Dot, ...]
    line: tuple[float, float]
    find: str


@dataclass(frozen=True)
class Row:
    """A list as a line of the matrix, with a bar for its size."""

    list: ParcelList
    size: int
    y: float
    bar_x: float
    bar_width: float


@dataclass(frozen=True)
class Drawing:
    """The whole picture, and the figures beside it."""

    rows: tuple[Row, ...]
    columns: tuple[Column, ...]
    table: tuple[tuple[Combination, str, str], ...]
    pairs: tuple[tuple[str, str, int, float], ...]
    width: float
    height: float
    on_any: int
    on_three: int

    @property
    def base(self) -> int:
        return BARS + 30


def on_lists(names: Sequence[str], others: Sequence[str] = ()) -> Criterion:
    """Return the criterion of being on all of some lists, and on none of others."""
    refused = (Members(Quantity.ANY, tuple(others)),) if others else ()
    return Criterion("on-list", (Members(Quantity.ALL if len(names) > 1 else Quantity.ANY, tuple(names)),), refused)


def address_of(criterion: Criterion, team: Team) -> str:
    """Return the address at which Find shows the parcels of a criterion."""
    return Place(Search((), (criterion,))).address(team)


def _address(lists: Sequence[ParcelList], one: Combination, counting: Counting) -> str:
    others = [other.name for place, other in enumerate(lists) if place not in one.lists and counting is Counting.EXACTLY]
    return address_of(on_lists([lists[place].name for place in one.lists], others), lists[0].team)


def drawing_of(lists: Sequence[ParcelList], counting: Counting, order: Order, *, with_stale: bool) -> Drawing:
    """Return how some lists overlap, drawn."""
    counts = exactly(lists, with_stale=with_stale)
    found = in_order(combinations_of(counts, len(lists), counting), order)
    sizes = sizes_of(counts, len(lists))
    largest, top = max(sizes, default=1) or 1, BARS + 62
    rows = tuple(
        Row(one, size, top + place * ROW, LEFT - 50 - _SIZE_BAR * size / largest, _SIZE_BAR * size / largest)
        for place, (one, size) in enumerate(zip(lists, sizes, strict=True))
    )
    tallest = max((one.count for one in found[:MOST_BARS]), default=1)
    columns = tuple(_column(lists, one, place, tallest, rows, counting) for place, one in enumerate(found[:MOST_BARS]))
    table = tuple((one, _reads(lists, one), _address(lists, one, counting)) for one in found)
    pairs = tuple((lists[one.one].name, lists[one.other].name, one.shared, one.share) for one in pairs_of(counts, len(lists)))
    width = LEFT + STEP * max(1, len(columns))
    return Drawing(rows, columns, table, pairs, width, top + ROW * len(lists), sum(counts.values()), on_at_least(counts, 3))


def _reads(lists: Sequence[ParcelList], combination: Combination) -> str:
    return " + ".join(lists[place].name for place in combination.lists)


def _column(lists: Sequence[ParcelList], one: Combination, place: int, tallest: int, rows: Sequence[Row], counting: Counting) -> Column:
    x, height = LEFT + place * STEP, max(2.0, BARS * one.count / tallest)
    dots = tuple(Dot(x + 6, row.y - SQUARE / 2, number in one.lists) for number, row in enumerate(rows))
    ends = (rows[one.lists[0]].y, rows[one.lists[-1]].y)
    return Column(
        _reads(lists, one), one.count, len(one.lists) > 2, x, BARS + 30 - height, height, dots, ends, _address(lists, one, counting)
    )  # fmt: skip
