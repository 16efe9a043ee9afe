"""A county's own columns: found in what was recorded, kept with their kind, offered as traits."""

from __future__ import annotations

import time
from collections.abc import Iterable, Mapping

from django.db import connection

from jaded_ledger.core.criteria import own_columns
from jaded_ledger.core.criteria.catalogue import CATALOGUE
from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.core.words import word_line
from jaded_ledger.records.models import County, CountyColumn, Parcel, RollEntry

_FRESH_FOR = 2.0
"""For how many seconds a process takes the declared columns as they were when it last read them."""
_read: dict[str, tuple[float, dict[str, Trait]]] = {}
Held = float | int | str


def slug(county: County) -> str:
    """Return a county's name as it stands before a parcel number: pike-hollow/12-034-007."""
    return "-".join(county.name.casefold().split())


def fact_of(column: CountyColumn) -> str:
    """Return where a column's values stand among a row's further facts: no two counties share a place."""
    return f"c{column.county_id}_{column.key}"


def own_traits() -> Mapping[str, Trait]:
    """Return the traits of all counties' own columns by key."""
    name = str(connection.settings_dict["NAME"])
    at, known = _read.get(name, (0.0, {}))
    if not at or time.monotonic() - at > _FRESH_FOR:
        known = {trait.key: trait for trait in (_trait(column) for column in CountyColumn.objects.select_related("county"))}
        _read[name] = (time.monotonic(), known)
    return known


def read_anew() -> None:
    """Have the declared columns read again at the next asking."""
    _read.clear()


def _trait(column: CountyColumn) -> Trait:
    return own_columns.own_trait(
        column.county.name, slug(column.county), column.name, f"further__{fact_of(column)}", Kind(column.kind), column.words
    )


def traits_of(counties: Iterable[County]) -> list[Trait]:
    """Return every trait that the counties' parcels can have, in the order in which they are browsed."""
    prefixes = tuple(f"{slug(county)}/" for county in counties)
    return [*CATALOGUE, *(trait for key, trait in sorted(own_traits().items()) if key.startswith(prefixes))]


def find_columns(county: County) -> set[int]:
    """Note the own columns of a county's roll and what they hold; return the parcels to derive again.

    Those are all of the county's when a column changed its kind: its values are then kept in another way.
    """
    table = RollEntry._meta.db_table
    with connection.cursor() as cursor:
        cursor.execute(
            # A table's own name is no input.
            f"""SELECT name, bool_and(value ~ %s), bool_and(value ~ %s), count(DISTINCT value),
                       (array_agg(DISTINCT value ORDER BY value))[1:%s]
                  FROM {table}, jsonb_each_text(further) AS cell(name, value)
                 WHERE county_id = %s AND superseded_at IS NULL GROUP BY name""",  # noqa: S608
            [own_columns.NUMBER, own_columns.DAY, own_columns.MOST_WORDS, county.pk],
        )
        found = cursor.fetchall()
    before = {column.name: column for column in CountyColumn.objects.filter(county=county)}
    is_changed = False
    for name, all_numbers, all_days, different, words in found:
        kind = own_columns.kind_held(all_numbers=all_numbers, all_days=all_days, different=different)
        column = before.get(name) or CountyColumn(county=county, name=name, key=_free_key(name, before), kind=kind)
        kept = [*column.words, *(word for word in words if word not in column.words)] if kind is Kind.CHOICE else []
        if column.pk is None or (column.kind, column.words) != (kind, kept):
            is_changed |= column.kind != kind
            column.kind, column.words = kind, kept
            column.save()
            before[name] = column
    read_anew()
    return set(Parcel.objects.filter(county=county, retired_on=None).values_list("id", flat=True)) if is_changed else set()


def _free_key(name: str, taken: Mapping[str, CountyColumn]) -> str:
    key, keys, number = own_columns.key_of(name), {column.key for column in taken.values()}, 1
    while key in keys:
        number += 1
        key = f"{own_columns.key_of(name)}_{number}"
    return key


def held_values(columns: Iterable[CountyColumn], further: Mapping[str, str]) -> dict[str, Held]:
    """Return a row's own cells as its facts keep them."""
    found: dict[str, Held] = {}
    for column in columns:
        cell = further.get(column.name)
        if not cell:
            continue
        place = fact_of(column)
        value: Held | None
        match column.kind:
            case Kind.NUMBER:
                value = own_columns.number_held(cell)
            case Kind.DATE:
                day = own_columns.day_held(cell)
                value = None if day is None else day.isoformat()
            case Kind.CHOICE:
                value = column.words.index(cell) + 1 if cell in column.words else None
            case _:
                value = cell
                found[f"{place}_words"] = word_line(cell)
        if value is not None:
            found[place] = value
    return found
