"""Which state of the facts stands: a number that every derivation puts up in the transaction that writes them."""

from __future__ import annotations

import uuid
from collections.abc import Collection

from django.db.models import F

from jaded_ledger.records.models import CountyFactsVersion, FactsVersion

_ROW = 1


def facts_version() -> int:
    """Return the number of the facts as they stand; 0 before any were derived."""
    return FactsVersion.objects.filter(pk=_ROW).values_list("number", flat=True).first() or 0


def county_version(county_id: int) -> str:
    """Return which state of one county's facts stands; no other history of the county, as that of a restored backup, has the same."""
    found = CountyFactsVersion.objects.filter(county=county_id).values_list("version", flat=True).first()
    return str(found or "")


def put_up_version(counties: Collection[int]) -> None:
    """Say that facts of some counties were derived. Others learn of it when the transaction is done."""
    for county in counties:
        CountyFactsVersion.objects.update_or_create(county_id=county, defaults={"version": uuid.uuid4()})
    if not FactsVersion.objects.filter(pk=_ROW).update(number=F("number") + 1):
        FactsVersion.objects.create(pk=_ROW, number=1)
