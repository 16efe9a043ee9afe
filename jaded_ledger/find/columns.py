"""The columns of the table: those chosen, or the usual ones, as many of them as the rows have room for."""

from __future__ import annotations

from collections.abc import Sequence

from jaded_ledger.accounts.scope import Scope
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.find.faces import layout_of
from jaded_ledger.find.models import ColumnSet
from jaded_ledger.find.search_page import SearchPage

USUAL = (
    "owner-name",
    "last-sale",
    "last-sale-price",
    "assessed-value",
    "equity",
    "class",
    "beds",
    "year-built",
    "living-area",
    "years-owned",
    "owner-occupied",
)
"""The columns of a table until others are chosen, the most telling first."""
_FEWEST = 2
_IDENTITY = 292
"""What the box to tick, the address, the number and a mark or two take, in CSS pixels."""
_OF_KIND = {
    Kind.NAME: 270,
    Kind.PLACE: 150,
    Kind.CHOICE: 120,
    Kind.SET: 170,
    Kind.PHRASES: 300,
    Kind.DATE: 97,
    Kind.MONEY: 100,
    Kind.PARCEL_NUMBER: 130,
}
_OTHERWISE = 60
_SEVERAL = 50
"""What "for 2 parcels" takes beside an amount."""
_OF_A_LETTER, _AROUND = 7, 34
"""A heading's letter; what stands beside it: its margins, and the arrow of what the rows are sorted by."""


def width_of(trait: Trait) -> int:
    """Return about how wide a trait's column is, in CSS pixels: its values, or its heading where that is longer."""
    values = _OF_KIND.get(trait.kind, _OTHERWISE) + (_SEVERAL if trait.of_several else 0)
    return max(values, _OF_A_LETTER * len(trait.label) + _AROUND)


def fitting(columns: Sequence[str], room: int) -> tuple[str, ...]:
    """Return as many of some columns, from the first, as stand side by side in so many pixels; a few always do."""
    left = room - _IDENTITY
    for count, key in enumerate(columns):
        left -= width_of(CATALOGUE[key])
        if left < 0 and count >= _FEWEST:
            return tuple(columns[:count])
    return tuple(columns)


def usual_columns(scope: Scope) -> tuple[str, ...]:
    """Return the columns that are shown until others are chosen: the user's default set, the team's, or those that come with Find."""
    chosen = ColumnSet.objects.filter(team=scope.team, is_default=True)
    own = chosen.filter(user=scope.user).first() if scope.user else None
    kept = own or chosen.filter(user=None).first()
    return tuple(key for key in kept.columns if key in CATALOGUE) if kept else USUAL


def shown_columns(asked: SearchPage, scope: Scope) -> tuple[str, ...]:
    """Return the columns of a page: those chosen, otherwise as many of the usual ones as there is room for."""
    if asked.columns is not None:
        return asked.columns
    return fitting(usual_columns(scope), asked.room or layout_of(scope.user).room)


def moved(columns: Sequence[str], key: str, before: str) -> tuple[str, ...]:
    """Return the columns with one of them before another; at the end where that other is not there."""
    others = [one for one in columns if one != key]
    place = others.index(before) if before in others else len(others)
    return (*others[:place], key, *others[place:])
