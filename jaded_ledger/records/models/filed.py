"""What all filed records have in common: a county, a natural key, and the parcels they are about."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar

from django.db import models

from jaded_ledger.records.models.parcels import County, Parcel
from jaded_ledger.records.models.provenance import Recorded, holds, versions


class Filed(Recorded):
    """A record that a county, a court, a town or a listing service keeps.

    The natural key is what ``natural`` names, or where its first part is blank what ``without_number`` names: the
    same record is recognized by it in a later file. ``ahead`` are days that may lie after the file's own, ``sizes``
    are measures of which 0 says that nothing was measured, ``carried`` are days that stay as the first version had them.
    ``about`` tells, for a row about another record of its county, that one's model, the field of its number, and the row's own
    field that holds it. ``needed`` are fields that must be right where they say something: to be blank means something there.
    """

    natural: ClassVar[tuple[str, ...]]
    without_number: ClassVar[tuple[str, ...]] = ()
    ahead: ClassVar[tuple[str, ...]] = ()
    sizes: ClassVar[tuple[str, ...]] = ()
    carried: ClassVar[tuple[str, ...]] = ()
    about: ClassVar[tuple[str, str, str] | None] = None
    needed: ClassVar[tuple[str, ...]] = ()

    county = models.ForeignKey(County, on_delete=models.PROTECT, related_name="+", db_index=False)
    natural_key = models.TextField()

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.natural_key


def own_fields(model: type[Filed]) -> Iterator[models.Field]:
    """Return the fields that say what was filed, in their order, without those that every record has."""
    common = {field.name for field in Filed._meta.get_fields()} | {"id"}
    for field in model._meta.concrete_fields:
        if field.name not in common and not field.generated:
            yield field


class OnParcel(Filed):
    """A record about one parcel."""

    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="%(class)s_rows")

    class Meta:
        abstract = True


class Covered(models.Model):
    """A parcel that a document covers; a document may cover many."""

    parcel = models.ForeignKey(Parcel, on_delete=models.PROTECT, related_name="+")

    class Meta:
        abstract = True


def filed(name: str) -> list[models.BaseConstraint]:
    """Return the constraints of every filed record."""
    return [
        *versions(name, "county", "natural_key"),
        holds(f"{name}_has_key", ~models.Q(natural_key=""), "nothing tells this record from others"),
    ]
