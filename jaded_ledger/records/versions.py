"""Which state of the facts stands: a number that every derivation puts up in the transaction that writes them."""

from __future__ import annotations

from django.db.models import F

from jaded_ledger.records.models import FactsVersion

_ROW = 1


def facts_version() -> int:
    """Return the number of the facts as they stand; 0 before any were derived."""
    return FactsVersion.objects.filter(pk=_ROW).values_list("number", flat=True).first() or 0


def put_up_version() -> None:
    """Say that facts were derived. Others learn of it when the transaction is done."""
    if not FactsVersion.objects.filter(pk=_ROW).update(number=F("number") + 1):
        FactsVersion.objects.create(pk=_ROW, number=1)
