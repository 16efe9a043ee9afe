"""How full a county's traits are, and what their values are like: counted after its facts have changed."""

from __future__ import annotations

import json
from collections import Counter, defaultdict
from collections.abc import Iterable
from typing import Any

from django.contrib.postgres.fields import ArrayField
from django.db import connection
from django.db.models import Aggregate, Count, IntegerField, JSONField, Q

from jaded_ledger.core.criteria.traits import Kind, Trait
from jaded_ledger.records import clock
from jaded_ledger.records.bulk import batched
from jaded_ledger.records.models import Area, County, FillRate, ParcelFacts
from jaded_ledger.records.own_columns import traits_of
from jaded_ledger.records.trait_columns import FEW, field_of, is_unknown, parcels_as_of, value_name, with_computed

_TRAITS_AT_ONCE = 300
_GROUPED_AT_ONCE = 31
"""So many columns PostgreSQL's GROUPING tells apart."""
_SPREAD = (0.05, 0.5, 0.95)
_MOST_KEPT = 60


def _column(trait: Trait) -> str:
    """Return what gives a trait's value in a row of facts. Names are our own, or made of letters, digits and underscores."""
    if trait.is_own:
        return f"further -> '{trait.fact.removeprefix('further__')}'"
    stored = field_of(trait)
    assert stored is not None  # what is neither a county's own nor computed when asked has a column
    return connection.ops.quote_name(str(stored.column))


def _counted(county: County, traits: list[Trait]) -> dict[str, Counter[Any]]:
    """Return how many of a county's parcels have each value of some traits: rows are read once for all of them."""
    columns = [_column(trait) for trait in traits]
    every = ", ".join(columns)
    sets = ", ".join(f"({column})" for column in columns)
    table = connection.ops.quote_name(ParcelFacts._meta.db_table)
    found: dict[str, Counter[Any]] = defaultdict(Counter)
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT GROUPING({every}), count(*), {every} FROM {table} WHERE county_id = %s GROUP BY GROUPING SETS ({sets})",  # noqa: S608
            [county.pk],
        )
        for grouping, parcels, *values in cursor.fetchall():
            # All bits are set but that of the one column the row is of; the first column has the highest.
            place = len(columns) - (~grouping & (1 << len(columns)) - 1).bit_length()
            trait, value = traits[place], values[place]
            if value is None:
                continue
            if trait.is_own:
                value = json.loads(value)
            for one in value if trait.kind is Kind.SET else [value]:
                found[trait.key][one] += parcels
    return found


def _commonest(county: County, traits: Iterable[Trait]) -> dict[str, list[list[object]]]:
    """Return the commonest values of those traits that have few, as stored, places by name, with their counts."""
    few = [trait for trait in traits if trait.kind in FEW and trait.key != "county"]
    found: dict[str, list[list[object]]] = defaultdict(list)
    for batch in batched(few, _GROUPED_AT_ONCE):
        counted = _counted(county, list(batch))
        for trait in batch:
            values: Iterable[tuple[Any, int]] = counted[trait.key].items()
            if trait.kind is Kind.PLACE:
                names = dict(Area.objects.filter(pk__in=counted[trait.key]).values_list("pk", "text"))
                values = [(names[pk], parcels) for pk, parcels in values]
            found[trait.key] = [[value, parcels] for value, parcels in sorted(values, key=lambda one: (-one[1], one[0]))[:_MOST_KEPT]]
    return found


class _Percentiles(Aggregate):
    function = "PERCENTILE_DISC"
    template = "%(function)s(ARRAY[%(fractions)s]) WITHIN GROUP (ORDER BY %(expressions)s)"

    def __init__(self, trait: Trait) -> None:
        field = type(field_of(trait) or JSONField()) if not trait.since else IntegerField
        super().__init__(value_name(trait), fractions=", ".join(map(str, _SPREAD)), output_field=ArrayField(field(null=True)))


def measured(counties: Iterable[County]) -> list[Trait]:
    """Return the traits whose fill is measured: all that the records alone tell."""
    return [trait for trait in traits_of(counties) if not trait.of_team]


def measure_fill(county: County) -> None:
    """Count how many of a county's parcels have a value for each trait, and what the values are like."""
    traits = measured([county])
    commonest = _commonest(county, traits)
    counted = with_computed(parcels_as_of(clock.today()).filter(county=county), traits)
    unknown: dict[str, int] = {}
    none: dict[str, int] = {}
    spread: dict[str, list[Any]] = {}
    parcels = counted.count()
    # A statement holds no more than some 1,600 columns, and a county may have as many of its own.
    for batch in batched(list(enumerate(traits)), _TRAITS_AT_ONCE):
        # An alias may hold no slash, as the keys of a county's own traits do.
        unknown |= counted.aggregate(**{f"n{place}": Count("pk", filter=is_unknown(trait)) for place, trait in batch})
        events = {trait.event for _, trait in batch if trait.event} - none.keys()
        none |= counted.aggregate(**{event: Count("pk", filter=Q(**{event: False})) for event in events}) if events else {}
        spread |= counted.aggregate(**{f"s{place}": _Percentiles(trait) for place, trait in batch if trait.is_range})
    FillRate.objects.filter(county=county).exclude(trait__in=[trait.key for trait in traits]).delete()
    FillRate.objects.bulk_create(
        [
            FillRate(
                county=county,
                trait=trait.key,
                known=parcels - none.get(trait.event, 0) - unknown[f"n{place}"],
                parcels=parcels - none.get(trait.event, 0),
                none=none.get(trait.event, 0),
                commonest=commonest[trait.key],
                spread=[str(value) for value in spread.get(f"s{place}") or []],
            )
            for place, trait in enumerate(traits)
        ],
        update_conflicts=True,
        unique_fields=["county", "trait"],
        update_fields=["known", "parcels", "none", "commonest", "spread"],
    )
