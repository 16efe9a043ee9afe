"""Owners who have several of some parcels: whoever mails them all writes to the same person more than once."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from django.db.models import QuerySet

from jaded_ledger.core.letter_case import in_reading_case
from jaded_ledger.records.bulk import among_ids
from jaded_ledger.records.models import ParcelFacts

SHOWN = 25
_PARCELS_SHOWN = 6


@dataclass(frozen=True)
class OwnerWithSeveral:
    """An owner with several of some parcels: name, how many, and the first of them as pairs of id and address."""

    name: str
    count: int
    parcels: tuple[tuple[int, str], ...]


@dataclass(frozen=True)
class OwnersWithSeveral:
    """How many parcels some owners have: ``owners`` in all, ``several`` with more than one, those with most shown first.

    ``nameless`` are the parcels of which no owner is on record.
    """

    parcels: int
    owners: int
    several: int
    nameless: int
    most: tuple[OwnerWithSeveral, ...]


def owners_with_several(parcels: QuerySet[ParcelFacts]) -> OwnersWithSeveral:
    """Return which owners have several of some parcels. What is asked of the parcels, which may take long, is asked once."""
    held: dict[int | None, list[int]] = defaultdict(list)
    for owner, parcel in parcels.order_by().values_list("owner", "pk"):
        held[owner].append(parcel)
    nameless = len(held.pop(None, ()))
    several = sorted((-len(of), owner) for owner, of in held.items() if len(of) > 1)
    first = {owner: held[owner] for _, owner in several[:SHOWN]}
    names: dict[int | None, str] = {}
    shown: dict[int | None, list[tuple[int, str]]] = defaultdict(list)
    theirs = ParcelFacts.objects.filter(pk__in=among_ids(pk for of in first.values() for pk in of))
    for facts in theirs.select_related("owner__name", "address", "parcel").order_by("county", "parcel_number"):
        assert facts.owner is not None  # each of them is one of the owners
        names[facts.owner_id] = in_reading_case(facts.owner.name.text)
        if len(shown[facts.owner_id]) < _PARCELS_SHOWN:
            shown[facts.owner_id].append((facts.parcel_id, facts.street_line or facts.parcel.number))
    most = tuple(OwnerWithSeveral(names[owner], len(of), tuple(shown[owner])) for owner, of in first.items())
    return OwnersWithSeveral(sum(map(len, held.values())) + nameless, len(held), len(several), nameless, most)
