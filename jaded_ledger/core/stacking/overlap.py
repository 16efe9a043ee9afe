"""How lists overlap: which parcels are on exactly which of them, or on at least these."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations

MOST_LISTS = 12
"""So many lists are drawn at once; more combinations than they give can't be read."""


@dataclass(frozen=True)
class Combination:
    """Some lists, by their places among those compared, and on exactly these (or at least these) how many parcels are."""

    lists: tuple[int, ...]
    count: int


class Counting(StrEnum):
    """What a combination counts."""

    EXACTLY = "exactly"
    AT_LEAST = "at-least"


class Order(StrEnum):
    """How combinations are sorted."""

    SIZE = "size"
    LISTS = "lists"


def places_in(mask: int, lists: int) -> tuple[int, ...]:
    """Return the places of the bits that are set in a number."""
    return tuple(place for place in range(lists) if mask >> place & 1)


def combinations_of(exactly: Mapping[int, int], lists: int, counting: Counting) -> list[Combination]:
    """Return every combination that occurs, from how many parcels are on exactly the lists whose bits are set.

    With ``AT_LEAST`` a combination counts the parcels on all of its lists, whatever others they are on; those that no
    parcel is on exactly but that all parcels of larger ones share are counted too.

    >>> combinations_of({0b01: 3, 0b11: 2}, 2, Counting.AT_LEAST)
    [Combination(lists=(0,), count=5), Combination(lists=(1,), count=2), Combination(lists=(0, 1), count=2)]
    """
    if counting is Counting.EXACTLY:
        return [Combination(places_in(mask, lists), count) for mask, count in sorted(exactly.items()) if count and mask]
    found: Counter[int] = Counter()
    for mask, count in exactly.items():
        for part in _parts_of(mask):
            found[part] += count
    return [
        Combination(places_in(mask, lists), count) for mask, count in sorted(found.items(), key=lambda item: (item[0].bit_count(), item[0]))
    ]


def _parts_of(mask: int) -> Iterator[int]:
    """Yield every part of a set of bits but the empty one."""
    part = mask
    while part:
        yield part
        part = (part - 1) & mask


def in_order(found: Iterable[Combination], order: Order) -> list[Combination]:
    """Return combinations the largest first, or those of most lists first and within them the largest."""
    if order is Order.SIZE:
        return sorted(found, key=lambda one: (-one.count, len(one.lists), one.lists))
    return sorted(found, key=lambda one: (-len(one.lists), -one.count, one.lists))


@dataclass(frozen=True)
class Pair:
    """Two lists: how many parcels they share, and that in percent of the smaller."""

    one: int
    other: int
    shared: int
    share: float


def pairs_of(exactly: Mapping[int, int], lists: int) -> list[Pair]:
    """Return what each two lists share."""
    sizes = sizes_of(exactly, lists)
    pairs = []
    for one, other in combinations(range(lists), 2):
        both = 1 << one | 1 << other
        shared = sum(count for mask, count in exactly.items() if mask & both == both)
        smaller = min(sizes[one], sizes[other])
        pairs.append(Pair(one, other, shared, round(100 * shared / smaller, 1) if smaller else 0.0))
    return pairs


def sizes_of(exactly: Mapping[int, int], lists: int) -> Sequence[int]:
    """Return how many parcels are on each list."""
    return [sum(count for mask, count in exactly.items() if mask >> place & 1) for place in range(lists)]


def on_at_least(exactly: Mapping[int, int], lists: int) -> int:
    """Return how many parcels are on so many lists or more."""
    return sum(count for mask, count in exactly.items() if mask.bit_count() >= lists)
