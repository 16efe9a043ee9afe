"""The marks by which a table's row shows which lists it is on already."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.find.results import Mark
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.lists.staleness import stale_memberships


def letters_of(name: str, mark: str) -> str:
    """Return the letters that stand for a list: its own, else those that its first words begin with."""
    return mark or "".join(word[0] for word in name.split()[:2]).upper()


def list_marks(parcel_ids: Collection[int], scope: Scope) -> dict[int, list[Mark]]:
    """Return the marks of the lists that parcels are on, by parcel."""
    rows = memberships(scope).filter(parcel__in=parcel_ids)
    stale = set(stale_memberships(rows).values_list("pk", flat=True))
    marks: dict[int, list[Mark]] = defaultdict(list)
    # Plain values: a page of rows asks for a hundred of them with every edit.
    for pk, parcel, name, mark in rows.order_by("list__folded").values_list("pk", "parcel", "list__name", "list__mark"):
        is_stale = pk in stale
        reads = f"on “{name}”{', stale: passed to somebody else since' if is_stale else ''}"
        marks[parcel].append(Mark(letters_of(name, mark), reads, is_stale))
    return marks
