"""Parcel-number patterns as conditions on parcels, by the mask of each county."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce
from operator import or_

from django.db.models import Q

from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.core.criteria.search import Numbers
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.records.models import County, Parcel
from jaded_ledger.records.own_columns import slug

_FEW_RANGES = 8


def parcel_numbers(values: Sequence[Numbers], counties: Sequence[County]) -> Q:
    """Return the condition that a parcel has one of some numbers.

    Raises CriteriaError for a county that is not in the search, and for a pattern that fits no county in it.
    """
    found = []
    for value in values:
        asked = [county for county in counties if value.county in ("", slug(county))]
        if not asked:
            chosen = ", ".join(slug(county) for county in counties)
            raise CriteriaError(f'"{value.county}" is not a county of this search ({chosen})', word=value.county)
        refused = []
        for county in asked:
            try:
                ranges = county.mask.ranges(value.pattern)
            except ParcelNumberError as error:
                refused.append((county, error))
                continue
            found += [(county, keys) for keys in ranges]
        if len(refused) == len(asked):
            raise CriteriaError(_misfit(value.pattern, refused), word=value.pattern)
    if len(found) <= _FEW_RANGES:
        return reduce(or_, [Q(county=county, parcel_number__gte=keys.low, parcel_number__lt=keys.high) for county, keys in found])
    # Many ranges are looked up once instead of being compared with every row.
    ranges_asked = reduce(or_, [Q(county=county, number_key__gte=keys.low, number_key__lt=keys.high) for county, keys in found])
    return Q(parcel__in=Parcel.objects.filter(ranges_asked).values("id"))


def _fits(county: County, pattern: str) -> bool:
    try:
        county.mask.ranges(pattern)
    except ParcelNumberError:
        return False
    return not county.mask.is_free


def _misfit(pattern: str, refused: Sequence[tuple[County, ParcelNumberError]]) -> str:
    """Return why a pattern fits no county of a search. It names a county outside the search whose numbers it does fit, if there is one."""
    others = County.objects.exclude(pk__in=[county.pk for county, _ in refused]).order_by("name")
    if fits := [county.name for county in others if _fits(county, pattern)]:
        return f"{pattern} is a parcel number of {' or '.join(fits)} County, which is not in this search; add the county"
    parts = pattern.count("-") + 1

    def unlikeness(one: tuple[County, ParcelNumberError]) -> tuple[bool, int]:
        mask = one[0].mask
        return mask.has_separators != (parts > 1), abs(len(mask.widths) + bool(mask.unit_width) - parts)

    county, error = min(refused, key=unlikeness)
    return f"{error}, as {county.name} has it"
