"""The assessment roll: what a county says of each parcel, its owner and its value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jaded_ledger.core.criteria.catalogue import CLASSES
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.core.facts import SQFT_PER_ACRE
from jaded_ledger.core.mail.addresses import Address, standardise
from jaded_ledger.core.words import word_line
from jaded_ledger.intake import texts
from jaded_ledger.intake.batches import Line, Taking, digest_of
from jaded_ledger.intake.cells import Cells, RefusedRowError
from jaded_ledger.records.models import Area, Parcel, RollEntry

COLUMNS = (
    "parcel_number", "house_number", "street", "unit", "city", "zip", "municipality", "subdivision", "land_use",
    "class", "beds", "baths", "living_area", "lot_sqft", "lot_acres", "year_built", "land_value", "improvement_value",
    "homestead", "owner", "mailing_address", "mailing_city", "mailing_state", "mailing_zip",
)  # fmt: skip


@dataclass(frozen=True)
class Situs:
    """A row's two addresses as recorded, one line each, and as read."""

    text: str
    address: Address


def _situs(cells: Cells, state: str) -> Situs | None:
    line = " ".join(filter(None, (cells.text("house_number"), cells.text("street"))))
    if not line:
        return None
    unit, city, zip_code = cells.text("unit"), cells.text("city"), cells.text("zip")
    text = ", ".join(filter(None, (line, unit, city, f"{state} {zip_code}".strip())))
    return Situs(text, standardise(line, unit, city, state, zip_code))


def _mailing(cells: Cells) -> Situs | None:
    line = cells.text("mailing_address")
    if not line:
        return None
    city, state, zip_code = (cells.text(f"mailing_{part}") for part in ("city", "state", "zip"))
    text = ", ".join(filter(None, (line, city, f"{state} {zip_code}".strip())))
    return Situs(text, standardise(line, "", city, state, zip_code))


def _lot_sqft(cells: Cells) -> int | None:
    if (square_feet := cells.size("lot_sqft")) is not None:
        return max(1, round(square_feet))
    acres = cells.size("lot_acres")
    return None if acres is None else max(1, round(acres * SQFT_PER_ACRE))


def _figures(cells: Cells) -> dict[str, object]:
    """Return the columns that stand in the row as they are."""
    kind = cells.choice("class", CLASSES)
    living_area, year_built, baths = cells.size("living_area"), cells.whole("year_built", 2200), cells.number("baths")
    if year_built is not None and 0 < year_built < 1600:
        raise cells.refuse("year_built", "is before 1600")
    house_number = cells.text("house_number")
    return {
        # A house number such as N6W23001 or 12A has no place in the row of numbers.
        "house_number": int(house_number) if house_number.isdecimal() and len(house_number) < 10 else None,
        "land_use": cells.text("land_use")[:40],
        "property_class": kind.code if kind else None,
        "beds": cells.whole("beds", 32_767),
        "baths": None if baths is None else round(float(baths), 2),
        "living_area": None if living_area is None else max(1, round(living_area)),
        "lot_sqft": _lot_sqft(cells),
        "year_built": year_built or None,
        "land_value": cells.number("land_value"),
        "improvement_value": cells.number("improvement_value"),
        "homestead": cells.flag("homestead"),
    }


def take(taking: Taking, lines: Sequence[Line]) -> list[tuple[Line, RefusedRowError]]:
    """Store a batch of roll rows."""
    refused: list[tuple[Line, RefusedRowError]] = []
    read: dict[str, tuple[Line, dict[str, object], Situs | None, Situs | None]] = {}
    mask, state = taking.county.mask, taking.county.state
    for line in lines:
        cells = line.cells
        try:
            try:
                key = mask.key(cells.required("parcel_number"))
            except ParcelNumberError as error:
                raise cells.refuse("parcel_number", str(error)) from None
            if key in read:
                raise cells.refuse("parcel_number", "stands in this file more than once")
            read[key] = (line, _figures(cells), _situs(cells, state), _mailing(cells))
        except RefusedRowError as reason:
            refused.append((line, reason))
    parcels = dict(Parcel.objects.filter(county=taking.county, number_key__in=read).values_list("number_key", "id"))
    for key in [key for key in read if key not in parcels]:
        line = read.pop(key)[0]
        refused.append((line, line.cells.refuse("parcel_number", "is not on record; take in the parcels first")))

    names = texts.name_ids(line.cells.text("owner") for line, *_ in read.values())
    addresses = texts.addresses({one.text: one.address for _, _, *pair in read.values() for one in pair if one is not None})
    places = texts.Places(taking.county)
    owner_keys, wanted_owners = {}, {}
    for key, (line, _, _, mailing) in read.items():
        if name := names.get(line.cells.text("owner")):
            at = mailing.address.household_key if mailing else ""
            owner_key = f"{word_line(name.mailing_name).strip()}|{at or f'parcel {parcels[key]}'}"
            owner_keys[key] = owner_key
            wanted_owners[owner_key] = (name, addresses[mailing.text] if mailing else None)
    owner_ids = texts.owners(wanted_owners)

    rows = []
    for key, (line, figures, situs, mailing) in read.items():
        cells = line.cells
        name = names.get(cells.text("owner"))
        placed = {
            "street_id": places.street(cells.text("street")),
            **{
                f"{kind.value}_id": places.area(kind, cells.text(kind.value))
                for kind in (
                    Area.AreaKind.MUNICIPALITY,
                    Area.AreaKind.CITY,
                    Area.AreaKind.ZIP,
                    Area.AreaKind.SUBDIVISION,
                )
            },
        }
        digest = digest_of(figures, placed, name and name.text, situs and situs.text, mailing and mailing.text, owner_keys.get(key))
        rows.append(
            (
                parcels[key],
                RollEntry(
                    parcel_id=parcels[key],
                    situs=addresses[situs.text] if situs else None,
                    mailing_address=addresses[mailing.text] if mailing else None,
                    owner_name=name,
                    owner_id=owner_ids.get(owner_keys.get(key, "")),
                    **figures,
                    **placed,
                    **taking.provenance(line, digest),
                ),
            )
        )
        taking.seen.add(parcels[key])
    taking.touched |= taking.supersede(RollEntry, rows, "parcel_id")
    return refused
