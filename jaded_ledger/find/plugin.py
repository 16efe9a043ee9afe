"""What Find adds to the program."""

from __future__ import annotations

from jaded_ledger.find.rows_by_hand import TRAITS, join_parcels
from jaded_ledger.find.table import table_context
from jaded_ledger.find.team_traits import TeamTrait
from jaded_ledger.plugins import hookimpl
from jaded_ledger.plugins.entries import Face, NavigationPlace


@hookimpl
def navigation() -> list[NavigationPlace]:
    return [NavigationPlace("find", "Find", "funnel", "find:find", 10)]


@hookimpl
def faces() -> list[Face]:
    return [Face("table", "Table", "find/faces/table.html", table_context, 10, redrawn=True)]


@hookimpl
def pages() -> dict[str, str]:
    return {"find": "find:find", "meanings": "find:meanings"}


@hookimpl
def team_traits() -> list[TeamTrait]:
    return list(TRAITS)


@hookimpl
def parcel_joined(before: int, after: int) -> None:
    join_parcels(before, after)
