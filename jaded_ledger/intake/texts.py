"""Names, addresses and places of a batch of rows, each distinct one read and stored once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from jaded_ledger.core.mail.addresses import Address, as_dict
from jaded_ledger.core.ownership.identity import are_close
from jaded_ledger.core.ownership.kinds import OwnerKind
from jaded_ledger.core.ownership.names import read_name
from jaded_ledger.records.bulk import allot_ids, among, copy_rows
from jaded_ledger.records.models import Area, County, Owner, OwnerSpelling, RecordedAddress, RecordedName, Street


@dataclass(frozen=True)
class StoredName:
    """A name on record: its id, how it stands on an envelope, and what kind of owner it is."""

    id: int
    mailing_name: str
    kind: str | None


def names(texts: Iterable[str]) -> dict[str, StoredName]:
    """Return the stored name for each text, reading and storing those that are new."""
    wanted = {text for text in texts if text}
    known = {
        text: StoredName(pk, mailing_name, kind)
        for text, pk, mailing_name, kind in RecordedName.objects.filter(text__in=among(wanted)).values_list(
            "text", "id", "mailing_name", "kind"
        )
    }
    fresh = sorted(wanted - known.keys())
    rows: list[dict[str, Any]] = []
    for pk, text in zip(allot_ids(RecordedName, len(fresh)) if fresh else (), fresh, strict=True):
        read = read_name(text)
        known[text] = StoredName(pk, read.mailing_name, read.kind)
        rows.append(
            dict[str, Any](RecordedName.search_forms(text))
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


class AreasAndStreets:
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


@dataclass(frozen=True)
class OwnerAt:
    """An owner as a row records it: its name's words, where it is, what kind of owner, and the ids of both texts."""

    name_key: str
    at: str
    kind: str | None
    name_id: int
    address_id: int | None


def owners(wanted: Iterable[OwnerAt]) -> dict[tuple[str, str], int]:
    """Return the owner's id for each name and place: the one it has, that of a close spelling at the same address, or a new one."""
    by_key = {(one.name_key, one.at): one for one in wanted}
    places = among({at for _, at in by_key})
    here = list(OwnerSpelling.objects.filter(at__in=places).order_by("id").values_list("name_key", "at", "owner_id"))
    known = {(name_key, at): owner for name_key, at, owner in here}
    at_place: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for name_key, at, owner in here:
        at_place[at].append((name_key, owner))
    fresh = sorted(by_key.keys() - known.keys())
    ids = iter(allot_ids(Owner, len(fresh)) if fresh else ())
    made: list[dict[str, Any]] = []
    spellings: list[dict[str, Any]] = []
    for name_key, at in fresh:
        one = by_key[name_key, at]
        kind = OwnerKind(one.kind) if one.kind else None
        same = next((owner for name, owner in at_place[at] if are_close(name, name_key, kind)), None)
        because = OwnerSpelling.Because.CLOSE if same else OwnerSpelling.Because.SAME
        if same:
            owner = same
        else:
            owner = next(ids)
            made.append({"id": owner, "name_id": one.name_id, "address_id": one.address_id})
        known[name_key, at] = owner
        at_place[at].append((name_key, owner))
        spellings.append({"name_key": name_key, "at": at, "owner_id": owner, "because": because.value})
    copy_rows(Owner, made)
    for row, pk in zip(spellings, allot_ids(OwnerSpelling, len(spellings)) if spellings else (), strict=True):
        row["id"] = pk
    copy_rows(OwnerSpelling, spellings)
    return {key: known[key] for key in by_key}
