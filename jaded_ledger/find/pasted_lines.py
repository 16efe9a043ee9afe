"""A pasted column: parcel numbers, listing numbers or addresses, each line matched to a parcel, and what was not found."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from django.contrib.postgres.search import TrigramWordSimilarity
from django.db.models import Q

from jaded_ledger.core.criteria.parcel_number_notation import numbers
from jaded_ledger.core.criteria.parcel_numbers import ParcelNumberError
from jaded_ledger.core.criteria.search import Criterion, Numbers
from jaded_ledger.core.criteria.text import CriteriaError
from jaded_ledger.core.criteria.wrong_value import ValueTextError
from jaded_ledger.core.mail.addresses import standardize
from jaded_ledger.core.words import word_line
from jaded_ledger.find.compiler import Compiled
from jaded_ledger.find.editor_fields import MOST_LINES, typed_lines
from jaded_ledger.records.models import County, Listing, Parcel, ParcelFacts, RecordedAddress
from jaded_ledger.records.own_columns import slug

LOOKED_NEAR = 20
_MOST_ALIKE = 8
_ZIP = re.compile(r"\b(\d{5})(?:-\d{4})?\s*$")


@dataclass(frozen=True)
class UnmatchedLine:
    """A line that names no parcel: why, and what on record is nearest to it."""

    line: str
    why: str
    nearest: str = ""


@dataclass
class PastedLines:
    """What some lines name: parcels in the order of the lines, each once, by what they were found."""

    lines: int
    parcels: dict[int, Parcel] = field(default_factory=dict)
    by: dict[str, int] = field(default_factory=lambda: defaultdict(int))
    missing: list[UnmatchedLine] = field(default_factory=list)

    @property
    def found_by(self) -> list[tuple[str, int]]:
        return sorted(self.by.items())


def _by_number(lines: Iterable[str], counties: Sequence[County]) -> dict[str, list[Parcel]]:
    """Return the parcels that lines name by a whole parcel number."""
    wanted: dict[tuple[int, str], str] = {}
    for line in lines:
        try:
            asked = numbers(line)
        except ValueTextError:
            continue
        for county in counties:
            if asked.county in ("", slug(county)):
                try:
                    wanted[county.pk, county.mask.key(asked.pattern)] = line
                except ParcelNumberError:
                    continue
    found: dict[str, list[Parcel]] = defaultdict(list)
    for county in counties:
        keys = [key for pk, key in wanted if pk == county.pk]
        for parcel in Parcel.objects.filter(county=county, number_key__in=keys, retired_on=None).select_related("county"):
            found[wanted[county.pk, parcel.number_key]].append(parcel)
    return found


def _by_listing(lines: Iterable[str], counties: Sequence[County]) -> dict[str, list[Parcel]]:
    wanted = {line.upper(): line for line in lines}
    rows = Listing.objects.filter(
        Q(listing_id__in=wanted) | Q(listing_id__in=wanted.values()), county__in=counties, superseded_at=None, parcel__retired_on=None
    )
    found: dict[str, list[Parcel]] = defaultdict(list)
    for row in rows.filter(parcel__isnull=False).select_related("parcel__county"):
        of_line = found[wanted[row.listing_id.upper()]]
        if row.parcel and row.parcel not in of_line:
            of_line.append(row.parcel)
    return found


def _by_address(lines: Iterable[str], counties: Sequence[County]) -> dict[str, list[Parcel]]:
    """Return the parcels at addresses; what a line says of its city, ZIP Code and unit must agree, what it leaves out may be anything."""
    asked = {}
    for line in lines:
        street, _, rest = line.partition(",")
        code = _ZIP.search(rest or line)
        asked[line] = (standardize(_ZIP.sub("", street)), code[1] if code else "", _ZIP.sub("", rest).upper())
    streets = {address.street for address, _, _ in asked.values() if address.street}
    at: dict[str, list[ParcelFacts]] = defaultdict(list)
    rows = ParcelFacts.objects.filter(county__in=counties, address__street__in=streets).select_related("address", "parcel__county")
    for facts in rows.only("address", "parcel", "county"):
        at[facts.address.street].append(facts)
    by_address: dict[str, list[Parcel]] = {}
    for line, (address, zip5, rest) in asked.items():
        there = [
            facts
            for facts in at.get(address.street, [])
            if (not zip5 or facts.address.zip5 in ("", zip5))
            and (not rest.strip() or not facts.address.city or facts.address.city in rest)
            and (not address.unit or address.unit_number == facts.address.address.unit_number)
        ]
        if there:
            by_address[line] = [facts.parcel for facts in there]
    return by_address


_WAYS = (("parcel number", _by_number), ("listing number", _by_listing), ("address", _by_address))


def match_lines(text: str, compiled: Compiled, *, most: int = MOST_LINES, near: int = LOOKED_NEAR) -> PastedLines:
    """Return what the lines of a text name in the chosen counties. Raises CriteriaError for more than ``most`` lines, or one too long.

    For ``near`` of the lines that were not found the nearest on record is looked for.
    """
    lines = typed_lines(text, most)
    found, left = PastedLines(len(lines)), lines
    at: dict[str, tuple[str, list[Parcel]]] = {}
    for way, look in _WAYS:
        at |= {line: (way, parcels) for line, parcels in look(left, compiled.counties).items()}
        left = [line for line in left if line not in at]
    for line in lines:
        if line not in at:
            nearest = _nearest(line, compiled) if len(found.missing) < near else ""
            found.missing.append(UnmatchedLine(line, "nothing on record", nearest))
            continue
        way, parcels = at[line]
        if way != "listing number" and len(parcels) > 1:
            both = "; ".join(_named(parcel) for parcel in parcels[:4])
            found.missing.append(UnmatchedLine(line, f"{len(parcels)} parcels have it", both))
            continue
        found.by[way] += 1
        found.parcels |= {parcel.pk: parcel for parcel in parcels}
    return found


def _named(parcel: Parcel) -> str:
    return f"{slug(parcel.county)}/{parcel.number}"


def _nearest(line: str, compiled: Compiled) -> str:
    """Return the recorded address most like a line; blank when none is like it, or it is no address."""
    words = word_line(standardize(line).delivery_line)
    if not any(character.isalpha() for character in words):
        return ""
    # The address first, by its index; whether somebody's property is there, of the few that are most like it.
    like = RecordedAddress.objects.filter(words__trigram_word_similar=words).annotate(like=TrigramWordSimilarity(words, "words"))
    for address in like.order_by("-like", "pk")[:_MOST_ALIKE]:
        there = compiled.opening.filter(address=address).select_related("parcel").only("parcel").first()
        if there:
            return f"{address.address.delivery_line}, {there.parcel.number}"
    return ""


def criterion_of(pasted: PastedLines, counties: Sequence[County]) -> Criterion:
    """Return the criterion that asks for just the parcels that were found. Raises CriteriaError when there are none."""
    if not pasted.parcels:
        raise CriteriaError("none of the lines names a parcel on record")
    is_one = len(counties) == 1
    values = tuple(Numbers(parcel.number.upper(), "" if is_one else slug(parcel.county)) for parcel in pasted.parcels.values())
    return Criterion("parcel-number", values)
