"""Names, addresses and places of a batch of rows, each distinct one read and stored once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from jaded_ledger.core.mail.addresses import Address, as_dict
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.bulk import allot_ids, among, copy_rows
from jaded_ledger.records.models import Area, County, Owner, RecordedAddress, RecordedName, Street


@dataclass(frozen=True)
class StoredName:
    """A name on record: its id, and how it stands on an envelope."""

    id: int
    mailing_name: str


def names(texts: Iterable[str]) -> dict[str, StoredName]:
    """Return the stored name for each text, reading and storing those that are new."""
    wanted = {text for text in texts if text}
    known = {
        text: StoredName(pk, mailing_name)
        for text, pk, mailing_name in RecordedName.objects.filter(text__in=among(wanted)).values_list("text", "id", "mailing_name")
    }
    fresh = sorted(wanted - known.keys())
    rows = []
    for pk, text in zip(allot_ids(RecordedName, len(fresh)) if fresh else (), fresh, strict=True):
        read = read_name(text)
        known[text] = StoredName(pk, read.mailing_name)
        rows.append(
            RecordedName.search_forms(text)
            | {
                "id": pk,
                "kind": read.kind,
                "mailing_name": read.mailing_name,
                "surnames": list(read.surnames),
                "handler": read.handler,
                "handler_role": read.handler_role,
            }
        )
    copy_rows(RecordedName, rows)
    return known


def addresses(read: Mapping[str, Address]) -> dict[str, int]:
    """Return the id of the stored address for each recorded text."""
    known = dict(RecordedAddress.objects.filter(text__in=among(read)).values_list("text", "id"))
    fresh = sorted(read.keys() - known.keys())
    ids = allot_ids(RecordedAddress, len(fresh)) if fresh else []
    copy_rows(
        RecordedAddress,
        [RecordedAddress.search_forms(text) | as_dict(read[text]) | {"id": pk} for pk, text in zip(ids, fresh, strict=True)],
    )
    return known | dict(zip(fresh, ids, strict=True))


class Places:
    """A county's areas and streets by name; they are few, so all are held."""

    def __init__(self, county: County) -> None:
        self.county = county
        self._areas = {(area.kind, area.text): area.pk for area in Area.objects.filter(county=county)}
        self._streets = {street.text: street.pk for street in Street.objects.filter(county=county)}

    def area(self, kind: str, name: str) -> int | None:
        if not name:
            return None
        if (kind, name) not in self._areas:
            forms = Area.search_forms(name)
            area, _ = Area.objects.get_or_create(kind=kind, county=self.county, folded=forms["folded"], defaults=forms)
            self._areas[(kind, name)] = area.pk
        return self._areas[(kind, name)]

    def street(self, name: str) -> int | None:
        if not name:
            return None
        if name not in self._streets:
            self._streets[name] = Street.objects.create(county=self.county, **Street.search_forms(name)).pk
        return self._streets[name]


def owners(wanted: Mapping[str, tuple[int, int | None]]) -> dict[str, int]:
    """Return the owner's id for each match key, given the ids of name and mailing address."""
    known = dict(Owner.objects.filter(key__in=among(wanted)).values_list("key", "id"))
    fresh = sorted(wanted.keys() - known.keys())
    ids = allot_ids(Owner, len(fresh)) if fresh else []
    copy_rows(
        Owner,
        [{"id": pk, "key": key, "name_id": wanted[key][0], "address_id": wanted[key][1]} for pk, key in zip(ids, fresh, strict=True)],
    )
    return known | dict(zip(fresh, ids, strict=True))
