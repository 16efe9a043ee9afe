"""The marks by which a table's row shows which lists it is on already."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.title.passing import Held, has_passed
from jaded_ledger.find.results import RowMark
from jaded_ledger.lists.current_rows import memberships
from jaded_ledger.records.models import RecordedName

_ASKED = (
    "parcel", "list__name", "list__mark", "added_on", "owner_name", "owned_since", "parcel__facts__owner_name",
    "parcel__facts__owned_since",
)  # fmt: skip


def letters_of(name: str, mark: str) -> str:
    """Return the letters that stand for a list: its own, else those that its first words begin with."""
    return mark or "".join(word[0] for word in name.split()[:2]).upper()


def list_marks(parcel_ids: Collection[int], scope: Scope) -> dict[int, list[RowMark]]:
    """Return the marks of the lists that parcels are on, by parcel."""
    found = list(memberships(scope).filter(parcel__in=parcel_ids).order_by("list__folded").values_list(*_ASKED, named=True))
    names = {name for row in found for name in (row.owner_name, row.parcel__facts__owner_name)}
    surnames = dict(RecordedName.objects.filter(pk__in=names).values_list("pk", "surnames")) if found else {}
    marks: dict[int, list[RowMark]] = defaultdict(list)
    for row in found:
        # By the rule itself: for a page of rows, building the statement that asks it of any number takes longer than the page.
        then = Held(row.owner_name, surnames.get(row.owner_name, ()), row.owned_since)
        name = row.parcel__facts__owner_name
        now = Held(name, surnames.get(name, ()), row.parcel__facts__owned_since)
        is_stale = has_passed(then, now, row.added_on) is not None
        reads = f"on “{row.list__name}”{', stale: passed to somebody else since' if is_stale else ''}"
        marks[row.parcel].append(RowMark(letters_of(row.list__name, row.list__mark), reads, is_stale))
    return marks
