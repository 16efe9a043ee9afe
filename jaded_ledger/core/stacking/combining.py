"""Lists put together: everything on any of them, on all of them, or on one and none of the others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from jaded_ledger.core.criteria.search import Criterion, Members, Quantity, Search

ANY_ROW, FRESH = "on-list", "fresh-on-list"
"""The traits that ask of lists: of all their rows, or only of those that are not stale."""


def on_lists(names: Sequence[str], others: Sequence[str] = (), *, quantity: Quantity = Quantity.ALL, trait: str = ANY_ROW) -> Criterion:
    """Return the criterion of being on all of some lists (or any of them), and on none of others."""
    refused = (Members(Quantity.ANY, tuple(others)),) if others else ()
    return Criterion(trait, (Members(quantity if len(names) > 1 else Quantity.ANY, tuple(names)),), refused)


def stale_on(name: str) -> Search:
    """Return the search of what has gone stale on a list."""
    gone = Criterion(FRESH, (), (Members(Quantity.ANY, (name,)),))
    return Search((), (on_lists([name]), gone))


@dataclass(frozen=True)
class Way:
    """A way of putting lists together: a key for it, how it reads, and the search that finds its parcels.

    ``mask`` has a bit for each list on which exactly they are; None where they are on any.
    """

    key: str
    reads: str
    search: Search
    mask: int | None

    def count(self, exactly: Mapping[int, int]) -> int:
        """Return how many parcels it gives, from how many are on exactly the lists whose bits are set."""
        return sum(exactly.values()) if self.mask is None else exactly.get(self.mask, 0)


def ways(names: Sequence[str], *, with_stale: bool) -> tuple[Way, ...]:
    """Return the ways in which two lists or more can be put together: union, intersection, and each without the others.

    >>> [way.key for way in ways(["A", "B"], with_stale=False)]
    ['any', 'all', 'only-0', 'only-1']
    """
    trait = ANY_ROW if with_stale else FRESH
    found: list[tuple[str, str, Criterion, int | None]] = [
        ("any", "on any of them", on_lists(names, quantity=Quantity.ANY, trait=trait), None),
        ("all", "on all of them", on_lists(names, trait=trait), (1 << len(names)) - 1),
    ]
    for place, name in enumerate(names):
        others = [*names[:place], *names[place + 1 :]]
        found.append((f"only-{place}", f"on “{name}” and on none of the others", on_lists([name], others, trait=trait), 1 << place))
    return tuple(Way(key, reads, Search((), (criterion,)), mask) for key, reads, criterion, mask in found)
