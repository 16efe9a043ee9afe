"""Addresses in the form of USPS Publication 28.

``usaddress-scourgify`` does the parsing and the abbreviations. Where it departs from the publication, or
refuses (PO boxes and rural routes), the address is tagged with ``usaddress`` and put together here.
Section numbers are Publication 28's.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Any

from jaded_ledger.core.mail.street_lines import is_one_building

# The secondary unit designators of section 213 that need no number after them (Appendix C2).
_UNITS_WITHOUT_NUMBER = {
    "BASEMENT": "BSMT", "FRONT": "FRNT", "LOBBY": "LBBY", "LOWER": "LOWR", "OFFICE": "OFC", "PENTHOUSE": "PH",
    "REAR": "REAR", "SIDE": "SIDE", "UPPER": "UPPR",
}  # fmt: skip
_BARE_UNIT = re.compile(rf"^(?P<street>\S+ \S.* \S+?),? (?P<unit>{'|'.join({*_UNITS_WITHOUT_NUMBER, *_UNITS_WITHOUT_NUMBER.values()})})$")
# Appendix F writes these out in front of a route's number, where the parser abbreviates.
_ROUTE = re.compile(r"\b(COUNTY|STATE|TOWNSHIP) (RD|HWY)(?= \w+$)")
_WRITTEN_OUT = {"RD": "ROAD", "HWY": "HIGHWAY"}
# A grid address has letters in its house number (appendix D): N6W23001 BLUEMOUND RD.
_HOUSE_NUMBER = re.compile(r"\d|[NSEW]\d")
# A delivery line has no comma (section 222): what follows one is a unit, or else the place, which the parser takes for a part of a
# street's name that ends without a suffix (COUNTY ROAD K, HIGHWAY 33).
_UNIT_PART = re.compile(
    r"(?i)^\W*(?:#|(?:apt|apartment|bldg|building|dept|department|fl|floor|hngr|hangar|key|lot|pier|rm|room|slip|spc|space|ste|suite|stop|"
    r"trlr|trailer|unit|box|bsmt|basement|frnt|front|lbby|lobby|lowr|lower|ofc|office|ph|penthouse|rear|side|uppr|upper)\b"
    r"|\w+ (?:fl|floor)\b|(?!\d{5}$)(?=\w*\d)\w{1,5}$|\w$)"
)
_NUMBER_ALONE = re.compile(r"^\W*[NSEW]?\d[\w-]*\W*$", re.IGNORECASE)
_ENDS_IN_ROUTE = re.compile(r"(?i)\b(?:road|rd|highway|hwy|route|rte|trunk|cth|sth|us|state|county) \w{1,3}$")
# A name before the delivery line is no part of it.
_IN_CARE_OF = re.compile(r"(?i)^\s*(?:%|(?:c/o|care of|attn)\b)(?P<name>[^\d]*?)[\s,:]+(?=(?:\d|P\.?\s*O\.?\s*BOX|[NSEW]\d))")
_TWO_DOORS = re.compile(r"(?i)^(\d+)\s*(?:-|&|and)\s*(\d+)(?=\s)")
_ZIP = re.compile(r"^(\d{5})(?:-?(\d{4}))?$")
_STATES = frozenset(
    (
        "AL AK AZ AR CA CO CT DE DC FL GA HI ID IL IN IA KS KY LA ME MD MA MI MN MS MO MT NE NV NH NJ NM NY NC ND OH OK "
        "OR PA RI SC SD TN TX UT VT VA WA WV WI WY AS GU MP PR VI AA AE AP"
    ).split()  # Appendix B
)


class AddressKind(StrEnum):
    """What a delivery address line names."""

    STREET = "street"
    PO_BOX = "po-box"
    RURAL_ROUTE = "rural-route"
    GENERAL_DELIVERY = "general-delivery"
    UNREADABLE = "unreadable"


@dataclass(frozen=True)
class Address:
    """A mailing or situs address, standardized where it could be.

    ``street`` is the delivery line without its unit, upper case; ``unit`` the secondary line such as
    ``APT 4B``; ``zip4`` the four digits after the ZIP Code; ``attention`` whoever it is in care of, which a line above the
    delivery line tells (section 211). What is not there is an empty string.
    """

    kind: AddressKind
    street: str
    unit: str = ""
    city: str = ""
    state: str = ""
    zip5: str = ""
    zip4: str = ""
    attention: str = ""

    @property
    def delivery_line(self) -> str:
        """The line a carrier reads, with the unit at its end (section 213)."""
        return f"{self.street} {self.unit}".strip()

    @property
    def unit_number(self) -> str:
        """The unit without its designator: APT 4B, UNIT 4B and # 4B are one door."""
        return self.unit.rpartition(" ")[2]

    def is_same_door(self, other: Address) -> bool:
        """Whether the units are one: APT 04 is APT 4."""
        return self.unit_number.lstrip("0") == other.unit_number.lstrip("0")

    @property
    def last_line(self) -> str:
        """City, state and ZIP+4 (section 222: two spaces before the ZIP are preferred on a label, one is read)."""
        zip_code = f"{self.zip5}-{self.zip4}" if self.zip4 else self.zip5
        return " ".join(part for part in (self.city, self.state, zip_code) if part)

    @property
    def undeliverable(self) -> str:
        """Why nothing can be mailed here, in words for the user; empty when it can."""
        if not self.street:
            return "no street or box"
        if self.kind is AddressKind.UNREADABLE:
            return "address can't be read"
        if not self.zip5:
            return "no ZIP Code"
        if not self.city:
            return "no city"
        return "" if self.state else "no state"

    @property
    def building_key(self) -> str:
        """The same for every way of writing one building's address; empty when it can't be known."""
        place = self.zip5 or " ".join((self.city, self.state)).strip()
        return f"{self.street}|{place}" if self.street and place else ""

    @property
    def household_key(self) -> str:
        """The same for every way of writing one dwelling's address; empty when it can't be known."""
        return f"{self.building_key}|{self.unit_number}" if self.building_key else ""

    def is_same_building(self, other: Address) -> bool:
        """Whether both name one building; a ZIP that only one of them has is left out of the question."""
        if not is_one_building(self.street, other.street):
            return False
        if self.zip5 and other.zip5:
            return self.zip5 == other.zip5
        return bool(self.city) and (self.city, self.state) == (other.city, other.state)


def _tidy(text: str) -> str:
    """Upper case, single spaces, no punctuation but what an address needs (section 222 and 354)."""
    return " ".join(re.sub(r"[^\w\s#/&'-]", " ", text.upper()).split())


def _unit(text: str) -> str:
    """Write a secondary unit as section 213 does: a designator, then its number, and ``#`` only alone.

    >>> _unit("APT # 4B"), _unit("#3"), _unit("UNIT 12"), _unit("REAR")
    ('APT 4B', '# 3', 'UNIT 12', 'REAR')
    """
    words = _tidy(text.replace("#", " # ")).split()
    if len(words) > 2 and "#" in words:
        words.remove("#")
    if words and (bare := _UNITS_WITHOUT_NUMBER.get(words[-1])):
        return bare
    if len(words) == 1 and words[0] not in _UNITS_WITHOUT_NUMBER.values():
        words.insert(0, "#")
    return " ".join(words)


def _po_box_or_route(tags: dict[str, str], kind: AddressKind) -> str:
    """Sections 281 (PO BOX 11890) and 241 (RR 4 BOX 87A)."""
    box = _tidy(tags.get("USPSBoxID", "")).lstrip("#").strip()
    if kind is AddressKind.PO_BOX:
        return f"PO BOX {box}" if box else ""
    group = _tidy(tags.get("USPSBoxGroupID", ""))
    route = "HC" if re.match(r"(?i)h\W*c|highway contract|star", tags.get("USPSBoxGroupType", "")) else "RR"
    return f"{route} {group} BOX {box}" if group and box else ""


def _without_place(line: str, city: str) -> str:
    """Return a delivery line without the city, state and ZIP Code at its end.

    >>> _without_place("2168 County Road K, Corvid Falls", ""), _without_place("2168 County Road K Corvid Falls", "Corvid Falls")
    ('2168 County Road K', '2168 County Road K')
    >>> _without_place("9 Quarry Ln, Apt 4, Brant OH", ""), _without_place("12, Fern Rd", "")
    ('9 Quarry Ln Apt 4', '12 Fern Rd')
    """
    first, *rest = (part.strip() for part in line.split(","))
    if rest and _NUMBER_ALONE.match(first):
        first = f"{first} {rest.pop(0)}"
    kept = " ".join(filter(None, (first, *(part for part in rest if _UNIT_PART.match(part)))))
    before = kept[: -len(city)].rstrip() if city and kept.casefold().endswith(f" {city.casefold()}") else ""
    return before if _ENDS_IN_ROUTE.search(before) else kept


def _delivery_line(line: str) -> tuple[AddressKind, str, str]:
    """Return the kind, street and unit of one delivery line.

    Parsing takes half a millisecond and streets repeat, so a plain house number is set aside and put back.
    """
    line = _TWO_DOORS.sub(r"\1-\2", line)
    numbered = re.match(r"(\d+) (?=\D)", line)
    if not numbered:
        return _parse_line(line)
    stand_in = "9" * len(numbered[1])
    kind, street, unit = _parse_line(f"{stand_in} {line[numbered.end() :]}")
    return kind, street.replace(stand_in, numbered[1], 1), unit


@lru_cache(maxsize=65_536)
def _parse_line(line: str) -> tuple[AddressKind, str, str]:
    # Loading their models takes a fifth of a second, and who only searches reads no addresses.
    import usaddress
    from scourgify import normalize_address_record
    from scourgify.exceptions import AddressNormalizationError

    try:
        tags, what = usaddress.tag(line)
    except usaddress.RepeatedLabelError:
        tags, what = {}, "Ambiguous"
    if what == "PO Box":
        # A route is tagged as a box within a group.
        kind = AddressKind.RURAL_ROUTE if "USPSBoxGroupID" in tags else AddressKind.PO_BOX
        if street := _po_box_or_route(tags, kind):
            return kind, street, ""
    tidy = _tidy(line)
    if tidy == "GENERAL DELIVERY":
        return AddressKind.GENERAL_DELIVERY, tidy, ""  # section 261
    # The parser drops a trailing UPPER or REAR that has no designator before it.
    bare = _BARE_UNIT.match(tidy)
    try:
        found = normalize_address_record(bare["street"] if bare else line)
    except AddressNormalizationError:
        return AddressKind.UNREADABLE, tidy, ""
    street = _ROUTE.sub(lambda m: f"{m[1]} {_WRITTEN_OUT[m[2]]}", _tidy(found["address_line_1"] or ""))
    if not _HOUSE_NUMBER.match(street):
        return AddressKind.UNREADABLE, tidy, ""
    return AddressKind.STREET, street, _unit(bare["unit"] if bare else found["address_line_2"] or "")


def standardize(line: str, unit: str = "", city: str = "", state: str = "", zip_code: str = "") -> Address:
    """Return an address as recorded in the form of Publication 28.

    ``line`` is the delivery line, with or without its unit; the other parts are as recorded. Never fails: what can't
    be read is kept in upper case with the kind ``UNREADABLE``. Raises nothing.
    """
    attention = ""
    if in_care_of := _IN_CARE_OF.match(line):
        attention, line = _tidy(in_care_of["name"]), line[in_care_of.end() :]
    line = _without_place(line, city.strip())
    kind, street, found_unit = _delivery_line(line) if line.strip() else (AddressKind.UNREADABLE, "", "")
    zip_match = _ZIP.match(zip_code.strip())
    state = _tidy(state)
    return Address(
        kind=kind,
        street=street,
        unit=_unit(unit) if unit.strip() else found_unit,
        city=_tidy(city),
        state=state if state in _STATES else "",
        zip5=zip_match[1] if zip_match else "",
        zip4=(zip_match[2] or "") if zip_match else "",
        attention=attention,
    )


def as_dict(address: Address) -> dict[str, Any]:
    """Return the parts by name, for storing."""
    return {name: getattr(address, name) for name in ("kind", "street", "unit", "city", "state", "zip5", "zip4", "attention")}
