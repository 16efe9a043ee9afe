"""A parcel by the number that somebody typed."""

from __future__ import annotations

from jaded_ledger.core.criteria.parcel_number_notation import numbers
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.records.models import County, Parcel
from jaded_ledger.records.own_columns import slug


class NoSuchParcelError(Exception):
    """No parcel, or more than one, has the number; the message says which, and what to do."""


def parcel_named(typed: str) -> Parcel:
    """Return the parcel of a number, with its county before it where several counties have one. Raises NoSuchParcelError."""
    try:
        asked = numbers(typed)
    except ValueTextError as error:
        raise NoSuchParcelError(str(error)) from error
    found: list[Parcel] = []
    for county in County.objects.order_by("name"):
        if asked.county in ("", slug(county)):
            try:
                key = county.mask.key(asked.pattern)
            except ParcelNumberError:
                continue
            found += Parcel.objects.filter(county=county, number_key=key).select_related("county")
    if not found:
        raise NoSuchParcelError(f'no parcel on record has the number "{typed}"')
    if len(found) > 1:
        both = " or ".join(f"{slug(one.county)}/{one.number}" for one in found)
        raise NoSuchParcelError(f'"{typed}" is a parcel number in several counties; write {both}')
    return found[0]
