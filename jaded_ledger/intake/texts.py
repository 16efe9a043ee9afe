"""Names, addresses and places of a batch of rows, each distinct one read and stored once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from jaded_ledger.core.mail.addresses import Address, as_dict
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.bulk import copy_in
from jaded_ledger.records.models import Area, County, Owner, RecordedAddress, RecordedName, Street


def name_ids(names: Iterable[str]) -> dict[str, RecordedName]:
    """Return the stored name for each text, reading and storing those that are new."""
    wanted = sorted({name for name in names if name})
    known = {name.text: name for name in RecordedName.objects.filter(text__in=wanted)}
    fresh = []
    for text in wanted:
        if text not in known:
            read = read_name(text)
            fresh.append(
                RecordedName(
                    **RecordedName.search_forms(text),
                    kind=read.kind,
                    mailing_name=read.mailing_name,
                    surnames=list(read.surnames),
                    handler=read.handler,
                    handler_role=read.handler_role,
                )
            )
    copy_in(fresh)
    return known | {name.text: name for name in fresh}


def addresses(read: Mapping[str, Address]) -> dict[str, RecordedAddress]:
    """Return the stored address for each recorded text."""
    known = {one.text: one for one in RecordedAddress.objects.filter(text__in=sorted(read))}
    fresh = [
        RecordedAddress(**RecordedAddress.search_forms(text), **as_dict(address))
        for text, address in sorted(read.items())
        if text not in known
    ]
    copy_in(fresh)
    return known | {one.text: one for one in fresh}


class Places:
    """A county's areas and streets by name; they are few, so all are held."""

    def __init__(self, county: County) -> None:
        self.county = county
        self._areas = {(area.kind, area.folded): area.pk for area in Area.objects.filter(county=county)}
        self._streets = {street.text: street.pk for street in Street.objects.filter(county=county)}

    def area(self, kind: Area.AreaKind, name: str) -> int | None:
        if not name:
            return None
        forms = Area.search_forms(name)
        key = (kind.value, forms["folded"])
        if key not in self._areas:
            self._areas[key] = Area.objects.create(kind=kind, county=self.county, **forms).pk
        return self._areas[key]

    def street(self, name: str) -> int | None:
        if not name:
            return None
        if name not in self._streets:
            self._streets[name] = Street.objects.create(county=self.county, **Street.search_forms(name)).pk
        return self._streets[name]


def owners(wanted: Mapping[str, tuple[RecordedName, RecordedAddress | None]]) -> dict[str, int]:
    """Return the owner's id for each match key."""
    known = dict(Owner.objects.filter(key__in=sorted(wanted)).values_list("key", "id"))
    fresh = [Owner(key=key, name=name, address=address) for key, (name, address) in sorted(wanted.items()) if key not in known]
    copy_in(fresh)
    return known | {owner.key: owner.pk for owner in fresh}
