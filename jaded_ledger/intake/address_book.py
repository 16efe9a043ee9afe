"""A county's addresses on record: which parcel one leads to, and where it leads to none, the nearest."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import Q
from rapidfuzz import fuzz, process

from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.records.bulk import among
from jaded_ledger.records.models import County, Parcel, RollEntry

_NEAR = 80
"""How alike, of 100, a street line must be to be named as the nearest."""


@dataclass(frozen=True)
class Door:
    """An address on record and its parcel."""

    address: Address
    parcel_id: int
    key: str
    number: str


@dataclass(frozen=True)
class Found:
    """What an address leads to: a parcel's key and id, or why it leads to none."""

    key: str = ""
    parcel_id: int = 0
    why_not: str = ""
    is_doubtful: bool = False
    """Whether it may well be one that is on record."""


class AddressBook:
    """Looks addresses up, many at once. Units are compared, and ZIP Codes where both have one (USPS Publication 28)."""

    def __init__(self, county: County) -> None:
        self._county = county

    def _doors(self, asked: Q, asked_begun: Q) -> list[Door]:
        entries = RollEntry.objects.filter(asked, county=self._county, superseded_at=None, parcel__retired_on=None, situs__isnull=False)
        found = [
            Door(entry.situs.address, entry.parcel_id, entry.parcel.number_key, entry.parcel.number)
            for entry in entries.select_related("situs", "parcel").only("situs", "parcel__number_key", "parcel__number")
            if entry.situs
        ]
        seen = {door.parcel_id for door in found}
        begun = Parcel.objects.filter(asked_begun, county=self._county, retired_on=None, begun_at__isnull=False).select_related("begun_at")
        return found + [
            Door(parcel.begun_at.address, parcel.pk, parcel.number_key, parcel.number)
            for parcel in begun
            if parcel.begun_at and parcel.pk not in seen
        ]

    def find(self, asked: Iterable[Address]) -> dict[Address, Found]:
        """Return what each address leads to."""
        wanted = set(asked)
        streets = {address.street for address in wanted if address.street}
        on_street: dict[str, list[Door]] = defaultdict(list)
        for door in self._doors(Q(situs__street__in=among(streets)), Q(begun_at__street__in=among(streets))):
            on_street[door.address.street].append(door)
        return {address: self._found(address, on_street[address.street]) for address in wanted}

    def _found(self, address: Address, doors: list[Door]) -> Found:
        same = [door for door in doors if not (address.zip5 and door.address.zip5 and address.zip5 != door.address.zip5)]
        fits = [door for door in same if door.address.is_same_door(address)]
        if len(fits) == 1:
            return Found(fits[0].key, fits[0].parcel_id)
        if fits:
            return Found(why_not=f"fits {_listed(fits)}", is_doubtful=True)
        if same:
            unit = f"has no unit {address.unit_number}" if address.unit else "is a building of several units"
            return Found(why_not=f"{unit} on record; there {'is' if len(same) == 1 else 'are'} {_listed(same)}", is_doubtful=True)
        return self._nearest(address)

    def _nearest(self, address: Address) -> Found:
        number = address.street.partition(" ")[0]
        if not number[:1].isdigit():
            return Found(why_not="is no address on record")
        doors = self._doors(Q(situs__street__startswith=f"{number} "), Q(begun_at__street__startswith=f"{number} "))
        best = process.extractOne(address.street, [door.address.street for door in doors], scorer=fuzz.ratio, score_cutoff=_NEAR)
        if best is None:
            return Found(why_not="is no address on record")
        near = doors[best[2]]
        return Found(why_not=f"is no address on record; the nearest is {near.address.delivery_line} ({near.number})", is_doubtful=True)


def _listed(doors: list[Door]) -> str:
    listed = ", ".join(f"{door.address.delivery_line} ({door.number})" for door in doors[:3])
    return f"{listed} and {len(doors) - 3} more" if len(doors) > 3 else listed
