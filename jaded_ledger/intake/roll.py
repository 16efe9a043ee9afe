"""The assessment roll: what a county says of each parcel, its owner and its value."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from jaded_ledger.core.criteria.catalogue.choices import CLASSES
from jaded_ledger.core.mail.addresses import Address
from jaded_ledger.core.market.land import SQFT_PER_ACRE
from jaded_ledger.core.whole_numbers import whole_number
from jaded_ledger.core.words import word_line
from jaded_ledger.intake import texts
from jaded_ledger.intake.batches import CountyIntake, Refused, SourceLine
from jaded_ledger.intake.begun_parcels import is_provisional, join, provisional
from jaded_ledger.intake.cells import UnreadableValueError, name_of, number_of, plain_word, word_of
from jaded_ledger.intake.columns import extra, memoized
from jaded_ledger.intake.drafts import Draft
from jaded_ledger.intake.filing import Filing
from jaded_ledger.intake.recorded_addresses import city_of, joined_address, zip_of
from jaded_ledger.records.models import OwnerSpelling, RollEntry

_HEADERS = {"property_class": "class", "owner_name": "owner"}
_EXTRAS = (
    extra("street", "the street's name"),
    extra("address", "house number and street in one, where they have no columns of their own"),
    extra("unit", "a unit designator"),
    extra("lot_acres", "a number of acres"),
    extra("mailing_address", "the first line of an address"),
    extra("mailing_city", "a city"),
    extra("mailing_state", "a state, two letters"),
    extra("mailing_zip", "a ZIP code"),
    extra("latitude", "degrees north, where there is no outline"),
    extra("longitude", "degrees east, below 0 in America"),
)
_ADDRESS = re.compile(r"(?P<house_number>\d\S*) (?P<street>.+?)(?: (?P<unit>(?:(?:UNIT|APT|STE) |#)\S+))?", re.IGNORECASE)
_CLASS_WORDS = {plain_word(word): one.code for one in CLASSES for word in (one.key, *one.synonyms)}
_ZIP = re.compile(r"\d{5}(?:-?\d{4})?")
_LARGEST_LOT = 2_147_483_647
_CLASSES_SAID = ", ".join(one.key for one in CLASSES)


def _square_feet(acres: str) -> int:
    found = round(number_of(acres) * SQFT_PER_ACRE)
    if found > _LARGEST_LOT:
        raise UnreadableValueError(f"is more than {_LARGEST_LOT:,} sq ft")
    return found


def _clean_places(line: SourceLine) -> dict[str, str]:
    """Return a row's cities and ZIP Codes without what a file puts in them for its own sake: NORTH_FALLS, z53391."""
    cities = {name: city_of(line.text(name)) for name in ("city", "mailing_city") if "_" in line.text(name)}
    return cities | {name: zip_of(line.text(name)) for name in ("zip", "mailing_zip") if line.text(name)[:1].isalpha()}


def _address_parts(text: str) -> dict[str, str]:
    """Return house number, street and unit of an address in one cell.

    >>> _address_parts("1204 N Capstan St Unit 2B")
    {'house_number': '1204', 'street': 'N Capstan St', 'unit': 'Unit 2B'}
    """
    found = _ADDRESS.fullmatch(" ".join(text.split()))
    return {name: part or "" for name, part in found.groupdict().items()} if found else {"street": text}


def _house_number(raw: str) -> int | None:
    # A house number such as N6W23001 or 12A has no place in the row of numbers.
    number = whole_number(raw)
    return number if number is not None and number < 10**9 else None


class Roll(Filing):
    """The roll. Two addresses and the owner are put together from several columns."""

    extras = _EXTRAS
    may_begin = True
    point_columns = ("latitude", "longitude")
    kept_as_filed = frozenset()

    def __init__(self) -> None:
        super().__init__("roll", "assessment roll", RollEntry, naming=lambda field: _HEADERS.get(field, field))
        readers = {
            "property_class": memoized(lambda raw: word_of(raw, _CLASS_WORDS, _CLASSES_SAID)),
            "house_number": _house_number,
        }
        self._columns = [replace(column, read=readers.get(column.field, column.read)) for column in self._columns]
        words, takes = tuple(one.key for one in CLASSES), f"one of {_CLASSES_SAID}"
        self._columns = [
            replace(column, words=words, takes=takes) if column.field == "property_class" else column for column in self._columns
        ]

    def read(self, county_intake: CountyIntake, line: SourceLine) -> Draft:
        if line.text("address") and not line.text("street"):
            line = replace(line, cells={**line.cells, **_address_parts(line.text("address"))})
        elif line.text("street") and not line.text("address"):
            line = replace(line, cells={**line.cells, "address": f"{line.text('house_number')} {line.text('street')}".strip()})
        line = replace(line, cells={**line.cells, **_clean_places(line)})
        # A mailing address may be abroad.
        wrong = (
            line.refuse("zip", "is not a ZIP Code of five digits") if line.text("zip") and not _ZIP.fullmatch(line.text("zip")) else None
        )
        if wrong:
            line = replace(line, cells={**line.cells, "zip": ""})
        draft = super().read(county_intake, line)
        if wrong:
            draft.doubts.append(wrong)

        def cell(column: str, reader: Callable[[str], Any] = name_of) -> Any:
            text = line.text(column)
            try:
                return reader(text) if text else ""
            except UnreadableValueError as error:
                draft.doubts.append(line.refuse(column, str(error)))
                return ""

        values = draft.values
        if values["lot_sqft"] is None:
            values["lot_sqft"] = cell("lot_acres", _square_feet) or None
        situs = " ".join(filter(None, (cell("house_number"), cell("street"))))
        draft.at = values["situs_id"] = joined_address(situs, cell("unit"), cell("city"), county_intake.county.state, cell("zip"))
        mailing = (cell(f"mailing_{part}") for part in ("city", "state", "zip"))
        values["mailing_address_id"] = joined_address(cell("mailing_address"), "", *mailing)
        values["street_id"] = cell("street")
        return draft

    def look_up(self, county_intake: CountyIntake, drafts: Sequence[Draft], parcels: dict[str, int]) -> None:
        super().look_up(county_intake, drafts, parcels)
        stored = texts.names(draft.texts["owner_name_id"] for draft in drafts)
        pairs = [(draft.values["situs_id"], draft.values["mailing_address_id"]) for draft in drafts]
        ids = texts.addresses({one.text: one.address for pair in pairs for one in pair if one})
        places = texts.AreasAndStreets(county_intake.county)
        found: dict[int, texts.OwnerAt] = {}
        for number, (draft, (situs, mailing)) in enumerate(zip(drafts, pairs, strict=True)):
            draft.values["situs_id"] = situs and ids[situs.text]
            draft.values["mailing_address_id"] = mailing and ids[mailing.text]
            draft.values["street_id"] = places.street(draft.values["street_id"])
            # Of an owner who is recorded as unknown nothing is known to be the same.
            if (name := stored.get(draft.texts["owner_name_id"])) and name.mailing_name:
                at = OwnerSpelling.at_of(mailing.address if mailing else None, draft.values["parcel_id"])
                words = word_line(name.mailing_name).strip()
                found[number] = texts.OwnerAt(words, at, name.kind, name.id, mailing and ids[mailing.text])
        owners = texts.owners(found.values())
        for number, draft in enumerate(drafts):
            one = found.get(number)
            draft.values["owner_id"] = owners[one.name_key, one.at] if one else None

    def take(self, county_intake: CountyIntake, drafts: list[Draft]) -> Refused:
        refused = super().take(county_intake, drafts)
        self._join(county_intake, drafts)
        return refused

    def _join(self, county_intake: CountyIntake, drafts: Sequence[Draft]) -> None:
        """Have parcels that were begun at an address go on as the numbered ones that the roll has there."""
        waiting = list(provisional(county_intake.county).select_related("begun_at"))
        if not waiting:
            return
        numbered = [draft for draft in drafts if draft.at and draft.keys and not is_provisional(draft.keys[0])]
        by_street: dict[str, list[Draft]] = defaultdict(list)
        for draft in numbered:
            if draft.at:
                by_street[draft.at.address.street].append(draft)
        ids = self.find_parcels(county_intake, numbered)
        for parcel in waiting:
            begun_at = parcel.begun_at and parcel.begun_at.address
            fits = {
                ids[draft.keys[0]]
                for draft in (by_street.get(begun_at.street, []) if begun_at else [])
                if draft.at and draft.keys[0] in ids and begun_at and _is_one_door(draft.at.address, begun_at)
            }
            if len(fits) == 1:
                join(parcel, fits.pop(), county_intake)


def _is_one_door(one: Address, other: Address) -> bool:
    return one.is_same_door(other) and not (one.zip5 and other.zip5 and one.zip5 != other.zip5)
