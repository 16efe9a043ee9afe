"""What the address of a page of comps asks: the lines, which set, which tab, in which order."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import urlencode

from django.http import QueryDict
from django.urls import reverse

from jaded_ledger.comps.comps_page import SORTS
from jaded_ledger.comps.valuation import SETS, OfSet
from jaded_ledger.core.comps.lines import LineKind, PoolError, PoolLine, in_order, parse_line, parse_lines
from jaded_ledger.core.comps.said import said_lines
from jaded_ledger.records.clock import today

TABS = {"closed": "Closed", "pending": "Pending", "active": "For sale", "rented": "For rent"}
AMOUNT = "amount."
"""Begins the name of a field that holds how far a line reaches."""
_MOST_LINES = 40
_LONGEST_ADDED = 400
NEWEST_FIRST = "-closed"
"""How the table of comps is sorted at the start."""


@dataclass(frozen=True)
class CompsRequest:
    """``lines`` are None where the address names none: then the usual ones stand, widened where they leave too few."""

    lines: tuple[PoolLine, ...] | None
    of_set: OfSet = "as-is"
    tab: str = "closed"
    sort: str = NEWEST_FIRST

    def fields(self) -> Iterator[tuple[str, str]]:
        """Yield what the address says, as a form's fields: what is usual is left out."""
        if self.lines is not None:
            yield "lines", "; ".join(map(str, self.lines))
        for name, value, usual in (("set", self.of_set, "as-is"), ("tab", self.tab, "closed"), ("sort", self.sort, NEWEST_FIRST)):
            if value != usual:
                yield name, value

    def address(self, parcel_id: int) -> str:
        fields = urlencode(list(self.fields()))
        return reverse("comps:comps", args=[parcel_id]) + (f"?{fields}" if fields else "")


def view_of(query: QueryDict) -> CompsRequest:
    """Return what an address asks beside its lines; what it does not know is left at what is usual."""
    of_set, tab, sort = (query.get(name, "") for name in ("set", "tab", "sort"))
    return CompsRequest(
        None, of_set if of_set in SETS else "as-is", tab if tab in TABS else "closed",
        sort if sort.removeprefix("-") in SORTS else NEWEST_FIRST,
    )  # fmt: skip


def _edited(query: QueryDict) -> tuple[PoolLine, ...]:
    """Return the lines that a form of them sends: what each reaches, less the one that is struck, and what is added: a line, or a sentence.

    Of a kind that stands already, the added one takes the place. Raises PoolError.
    """
    texts = [one for one in query.getlist("line") if one.strip()]
    texts += [f"{name.removeprefix(AMOUNT)}: {value}" for name in query if name.startswith(AMOUNT) for value in query.getlist(name)[:1]]
    if len(texts) > _MOST_LINES:
        raise PoolError(f"a pool has at most {_MOST_LINES} lines")
    struck = query.get("strike", "")
    lines = [parse_line(one) for one in texts if one.partition(":")[0] != struck and one != struck]
    if added := query.get("add", "").strip():
        for line in said_lines(added[:_LONGEST_ADDED], today()):
            is_area = line.kind in (LineKind.INSIDE, LineKind.OUTSIDE)
            lines = [one for one in lines if one != line and (is_area or one.kind is not line.kind)] + [line]
    before = query.getlist("order")
    return in_order(sorted(lines, key=lambda one: before.index(key) if (key := _key_of(one)) in before else len(before)))


def _key_of(line: PoolLine) -> str:
    """Return by what a form names a line, so that lines keep their order: its kind, or of a drawn area all of it."""
    return str(line) if line.kind in (LineKind.INSIDE, LineKind.OUTSIDE) else str(line.kind)


def lines_of(query: QueryDict) -> tuple[PoolLine, ...] | None:
    """Return the lines that an address or a form asks. Raises PoolError."""
    if "edit" in query:
        return _edited(query)
    text = query.get("lines")
    if text is None:
        return None
    if len(text) > 4_000:
        raise PoolError("the lines of a pool are at most 4,000 characters")
    return parse_lines(text)
