"""A county's own further columns, each a trait of that county."""

from __future__ import annotations

from django.db import models

from jaded_ledger.core.criteria.traits import Kind
from jaded_ledger.records.models.parcels import County

_KINDS = [Kind.NUMBER.value, Kind.DATE.value, Kind.CHOICE.value, Kind.NAME.value]


class CountyColumn(models.Model):
    """A column of a county's roll that no other trait covers, under the county's own name for it.

    ``kind`` is what the column holds: numbers, dates, a choice among few words, or text. ``words`` are a choice's
    words in the order of their codes, from 1; a code is never given to another word.
    """

    county = models.ForeignKey(County, on_delete=models.CASCADE, related_name="own_columns")
    name = models.CharField(max_length=60)
    key = models.CharField(max_length=60, help_text="The trait's key after the county's.")
    kind = models.CharField(max_length=20, choices=[(kind, kind) for kind in _KINDS])
    words = models.JSONField(default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint("county", "name", name="county_column_once"),
            models.UniqueConstraint("county", "key", name="county_column_key_once"),
            models.CheckConstraint(condition=models.Q(kind__in=_KINDS), name="county_column_kind_known"),
        ]

    def __str__(self) -> str:
        return self.name
