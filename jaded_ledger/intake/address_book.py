"""A county's addresses on record: which parcel one leads to, and where it leads to none, the nearest."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from heapq import nsmallest

from django.db.models import F, Func, Q, TextField, Value
from django.db.models.lookups import In
from rapidfuzz import fuzz, process

from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.records.bulk import among
from jaded_ledger.records.models import County, Parcel, RollEntry

_NEAR = 80
"""How alike, of 100, a street line must be to be taken for another writing of one on record."""
_NAMED = 60
"""How alike it must be to be named as the nearest."""
_NEXT = 2
_NOWHERE = "is no address on record"


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


class _Around:
    """The doors on the streets of addresses that lead nowhere, and those of the same numbers: read once, to name the nearest."""

    def __init__(self, doors: Iterable[Door]) -> None:
        self._of_number: dict[str, list[Door]] = defaultdict(list)
        self._on_street: dict[str, list[tuple[int, Door]]] = defaultdict(list)
        for door in doors:
            number, _, street = door.address.street.partition(" ")
            self._of_number[number].append(door)
            if number.isdecimal():
                self._on_street[street].append((int(number), door))

    def nearest(self, address: Address) -> Found:
        number, _, street = address.street.partition(" ")
        same = self._of_number.get(number, [])
        best = process.extractOne(address.street, [door.address.street for door in same], scorer=fuzz.ratio, score_cutoff=_NAMED)
        if best is not None and best[1] >= _NEAR:
            return Found(why_not=f"{_NOWHERE}; nearest: {_listed([same[best[2]]])}", is_doubtful=True)
        next_doors = (
            nsmallest(_NEXT, self._on_street.get(street, []), key=lambda one: abs(one[0] - int(number))) if number.isdecimal() else []
        )
        named = [door for _, door in next_doors] or ([same[best[2]]] if best else [])
        return Found(why_not=f"{_NOWHERE}; nearest: {_listed(named)}" if named else _NOWHERE)


class AddressBook:
    """Looks addresses up, many at once. Units are compared, and ZIP Codes where both have one (USPS Publication 28)."""

    def __init__(self, county: County) -> None:
        self._county = county

    def _doors(self, of_street: Callable[[str], Q]) -> list[Door]:
        """Return the doors whose street line fulfills a condition, which is given the name of its field."""
        entries = RollEntry.objects.filter(
            of_street("situs__street"), county=self._county, superseded_at=None, parcel__retired_on=None, situs__isnull=False
        )
        found = [
            Door(entry.situs.address, entry.parcel_id, entry.parcel.number_key, entry.parcel.number)
            for entry in entries.select_related("situs", "parcel").only("situs", "parcel__number_key", "parcel__number")
            if entry.situs
        ]
        seen = {door.parcel_id for door in found}
        begun = Parcel.objects.filter(of_street("begun_at__street"), county=self._county, retired_on=None, begun_at__isnull=False)
        return found + [
            Door(parcel.begun_at.address, parcel.pk, parcel.number_key, parcel.number)
            for parcel in begun.select_related("begun_at")
            if parcel.begun_at and parcel.pk not in seen
        ]

    def find(self, asked: Iterable[Address]) -> dict[Address, Found]:
        """Return what each address leads to."""
        wanted = set(asked)
        streets = {address.street for address in wanted if address.street}
        on_street: dict[str, list[Door]] = defaultdict(list)
        for door in self._doors(lambda name: Q(**{f"{name}__in": among(streets)})):
            on_street[door.address.street].append(door)
        found = {address: self._found(address, on_street[address.street]) for address in wanted}
        lost = [address for address, there in found.items() if not there.parcel_id and not there.why_not]
        around = self._around(lost)
        return found | {address: around.nearest(address) for address in lost}

    def _found(self, address: Address, doors: list[Door]) -> Found:
        """Return what the doors of an address's street line tell of it; nothing of one that leads nowhere."""
        same = [door for door in doors if not (address.zip5 and door.address.zip5 and address.zip5 != door.address.zip5)]
        fits = [door for door in same if door.address.is_same_door(address)]
        if len(fits) == 1:
            return Found(fits[0].key, fits[0].parcel_id)
        if fits:
            return Found(why_not=f"fits {_listed(fits)}", is_doubtful=True)
        if same:
            unit = f"has no unit {address.unit_number}" if address.unit else "is a building of several units"
            return Found(why_not=f"{unit} on record; there {'is' if len(same) == 1 else 'are'} {_listed(same)}", is_doubtful=True)
        return Found()

    def _around(self, lost: Iterable[Address]) -> _Around:
        parts = [address.street.partition(" ") for address in lost if address.street[:1].isdigit()]
        numbers, streets = {number for number, _, _ in parts}, {street for _, _, street in parts if street}
        if not parts:
            return _Around([])

        def of_street(name: str) -> Q:
            # One look at the county for a whole batch: by each address it took minutes.
            number = Func(F(name), Value(" "), Value(1), function="split_part", output_field=TextField())
            street = Func(F(name), Value(r"^\S+ "), Value(""), function="regexp_replace", output_field=TextField())
            return Q(In(number, among(numbers))) | Q(In(street, among(streets)))

        return _Around(self._doors(of_street))


def _listed(doors: list[Door]) -> str:
    listed = ", ".join(f"{door.address.delivery_line} ({door.number})" for door in doors[:3])
    return f"{listed} and {len(doors) - 3} more" if len(doors) > 3 else listed
