"""Parcels that a file begins, because no record holds them yet: by their number, or while none is known by their address."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from django.contrib.gis.geos import Point
from django.db import models
from django.db.models import ManyToOneRel

from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.intake import texts
from jaded_ledger.intake.batches import CountyIntake
from jaded_ledger.intake.recorded_addresses import ReadAddress
from jaded_ledger.plugins import hooks
from jaded_ledger.records.bulk import allot_ids, among_ids, copy_rows
from jaded_ledger.records.clock import not_before
from jaded_ledger.records.models import County, Parcel, ParcelFacts, ParcelSale, RollEntry

PROVISIONAL = "no number yet: "
"""What stands before the address that a parcel is called by until its number is known."""
_KEY = "~"
"""What such a parcel's key begins with: no number does, and no pattern of numbers reaches it."""
_LONGEST = 60


def begin(county_intake: CountyIntake, keys: Sequence[str]) -> dict[str, int]:
    """Make parcels by their number keys; return their ids."""
    mask, county = county_intake.county.mask, county_intake.county.pk
    ids = allot_ids(Parcel, len(keys))
    printed = {key: county_intake.written.get(key, key) if mask.is_free else mask.format(key) for key in keys}
    _store({"id": pk, "county_id": county, "number_key": key, "number": printed[key][:_LONGEST]} for pk, key in zip(ids, keys, strict=True))
    return dict(zip(keys, ids, strict=True))


Door = tuple[str, str, str]
"""What two ways of writing one address have in common: its street line, unit and ZIP Code."""


def door_of(address: Address) -> Door:
    """Return the door that an address names."""
    return address.street, address.unit_number.lstrip("0"), address.zip5


def begin_at(county_intake: CountyIntake, addresses: Iterable[ReadAddress]) -> dict[Door, tuple[str, int]]:
    """Make a parcel at each door of some addresses; return its provisional key and its id."""
    doors: dict[Door, ReadAddress] = {}
    for one in addresses:
        if one.address.street:
            doors.setdefault(door_of(one.address), one)
    stored = texts.addresses({one.text: one.address for one in doors.values()})
    ids = allot_ids(Parcel, len(doors))
    found = {door: (f"{_KEY}{pk}", pk) for door, pk in zip(doors, ids, strict=True)}
    _store(
        {
            "id": pk,
            "county_id": county_intake.county.pk,
            "number_key": key,
            "number": f"{PROVISIONAL}{doors[door].address.delivery_line}"[:_LONGEST],
            "begun_at_id": stored[doors[door].text],
        }
        for door, (key, pk) in found.items()
    )
    return found


def _store(rows: Iterable[dict[str, object]]) -> None:
    blank = {"parent_id": None, "retired_on": None, "begun_at_id": None, "point": None}
    copy_rows(Parcel, [blank | row for row in rows])


def is_provisional(key: str) -> bool:
    """Return whether a key is that of a parcel whose number is not known."""
    return key.startswith(_KEY)


def has_parcels(county: County) -> bool:
    """Return whether any parcel of a county is on record."""
    return Parcel.objects.filter(county=county).exists()


def note_points(points: Mapping[int, Point]) -> None:
    """Note where parcels lie that have no outline, as a file says."""
    known = Parcel.objects.filter(id__in=among_ids(points))
    changed = [parcel for parcel in known if parcel.point is None or not parcel.point.equals_exact(points[parcel.pk])]
    for parcel in changed:
        parcel.point = points[parcel.pk]
    Parcel.objects.bulk_update(changed, ["point"], batch_size=1000)


def provisional(county: County) -> models.QuerySet[Parcel]:
    """Return a county's parcels whose number is not known."""
    return Parcel.objects.filter(county=county, number_key__startswith=_KEY, retired_on=None)


def join(before: Parcel, numbered: int, county_intake: CountyIntake) -> None:
    """Have a parcel that was begun at its address go on as the numbered one: all that was kept about it is that one's from now on."""
    # Of its roll there is only one; what an earlier one said stays readable.
    RollEntry.objects.filter(parcel=before, superseded_at=None).update(
        superseded_at=not_before("recorded_at"), valid_until=county_intake.as_of
    )
    for link in _links_of_records():
        link.model._default_manager.filter(**{link.name: before}).update(**{link.name: numbered})
    before.successors.add(numbered)
    Parcel.objects.filter(pk=before.pk).update(retired_on=county_intake.as_of)
    ParcelFacts.objects.filter(parcel=before).delete()
    ParcelSale.objects.filter(parcel=before).delete()
    hooks.parcel_joined(before=before.pk, after=numbered)
    county_intake.affected.discard(before.pk)
    county_intake.affected.add(numbered)


def _links_of_records() -> list[models.ForeignKey]:
    """Return the fields by which recorded rows are of a parcel; what is derived is derived anew."""
    relations = Parcel._meta.get_fields(include_hidden=True)
    fields = (relation.field for relation in relations if isinstance(relation, ManyToOneRel) and relation.one_to_many)
    return [field for field in fields if field.model._meta.app_label == "records" and field.model not in (Parcel, ParcelFacts, ParcelSale)]
