"""Rings as people write them: ``0.5 mi of parcel 12-034-007``, ``1..4 miles of zip 53317``, ``800 m of "103 Capstan St, Alder Bay"``."""

from __future__ import annotations

import re
from decimal import Decimal

from jaded_ledger.core.criteria.bounds import bounds_of
from jaded_ledger.core.criteria.figure_notation import figure, figure_text
from jaded_ledger.core.criteria.search import Center, DistanceUnit, Ring
from jaded_ledger.core.criteria.wrong_value import ValueTextError

_UNITS = {
    DistanceUnit.MILES: r"miles?|mi\.?",
    DistanceUnit.KILOMETERS: r"kilomet(?:er|re)s?|kms?\.?",
    DistanceUnit.METERS: r"met(?:er|re)s?|m",
    DistanceUnit.FEET: r"feet|foot|ft\.?",
}
_UNIT = "|".join(rf"(?P<{unit.name}>{spelled})" for unit, spelled in _UNITS.items())
_RING = re.compile(
    rf"(?:within|inside)?\s*(?P<span>.*?[\d.k…])\s*(?:{_UNIT})(?P<or>\s+or\s+\w+)?\s+(?:of|from|around|to)\b\s*(?P<center>.*)",
    re.IGNORECASE,
)
_CENTERS = {
    Center.PARCEL: r"(?:the )?parcel(?: number)?",
    Center.LISTING: r"(?:the )?listing(?: number)?",
    Center.ZIP: r"(?:the )?zip(?: code)?",
    Center.AREA: r"(?:the )?area",
    Center.POINT: r"(?:the )?point",
    Center.ADDRESS: r"(?:the )?address",
}
_POINT = re.compile(r"(-?\d{1,2}(?:\.\d+)?)[\s,]+(-?\d{1,3}(?:\.\d+)?)")
_PARCEL = re.compile(r"(?:[^\W\d][\w .'-]*/)?\d+(?:-[\dA-Z]+)+", re.IGNORECASE)
_EXPECTED = 'is not a ring; write one such as 0.5 mi of parcel 12-034-007, 1..4 mi of zip 53317 or 800 m of "103 Capstan St, Alder Bay"'
MOST_METERS = 1_000_000
"""Farther than this nothing is looked for."""


def ring(text: str, quoted: str | None = None) -> Ring:
    """Return the ring that a text means; ``quoted`` is what follows it in quotes. Raises ValueTextError.

    >>> ring("under 2 miles of zip 53317")
    Ring(low=None, high=Decimal('2'), unit=<DistanceUnit.MILES: 'mi'>, center=<Center.ZIP: 'zip'>, at='53317')
    """
    found = _RING.fullmatch(text.strip())
    if not found:
        raise ValueTextError(text.strip(), _EXPECTED)
    unit = next(unit for unit in DistanceUnit if found[unit.name])
    center, at = _center(found["center"].strip(), quoted)
    if not at:
        raise ValueTextError(text.strip(), "says no center; write one such as parcel 12-034-007 or zip 53317")
    low, high = _ends(f"{found['span']}{found['or'] or ''}", unit)
    return Ring(low, high, unit, center, at)


def _ends(text: str, unit: DistanceUnit) -> tuple[Decimal | None, Decimal | None]:
    """Return from where to where a ring reaches. A distance alone is the farthest."""
    said = bounds_of(text)
    ends = [None if not end else figure(end) for end in (said.low or said.above, said.high or said.below or said.value)]
    low, high = ends
    if low is None and high is None:
        raise ValueTextError(text, "has no end; write one such as 0.5 or 1..4")
    if any(end is not None and (end < 0 or float(end) * unit.meters > MOST_METERS) for end in ends):
        raise ValueTextError(text, f"is no distance that can be asked; write one from 0 to {MOST_METERS / unit.meters:,.0f} {unit}")
    if low is not None and high is not None and low > high:
        raise ValueTextError(text, "runs backwards; write the smaller distance first")
    if high == 0:
        raise ValueTextError(text, "leaves no room; write a distance above 0")
    return low or None, high


def _center(text: str, quoted: str | None) -> tuple[Center, str]:
    """Return what a ring lies around, and which."""
    for kind, called in _CENTERS.items():
        if found := re.fullmatch(rf"{called}(?:\s+(?P<at>.*))?", text, re.IGNORECASE):
            return kind, _at(kind, " ".join((quoted if quoted is not None else found["at"] or "").split()))
    if quoted is not None:
        if text:
            raise ValueTextError(text, f"is nothing that a ring can lie around; write {', '.join(Center)}")
        return Center.ADDRESS, " ".join(quoted.split())
    if re.fullmatch(r"\d{5}", text):
        return Center.ZIP, text
    if _PARCEL.fullmatch(text):
        return Center.PARCEL, text
    if _POINT.fullmatch(text):
        return Center.POINT, _at(Center.POINT, text)
    return Center.ADDRESS, " ".join(text.split())


def _at(kind: Center, text: str) -> str:
    if kind is not Center.POINT or not text:
        return text
    found = _POINT.fullmatch(text)
    if not found or abs(float(found[1])) > 90 or abs(float(found[2])) > 180:
        raise ValueTextError(text, 'is no point; write its latitude and longitude in degrees, such as point "44.9012, -87.3456"')
    return f"{found[1]}, {found[2]}"


def point_of(ring: Ring) -> tuple[float, float]:
    """Return the longitude and the latitude of a ring about a point."""
    latitude, longitude = ring.at.split(", ")
    return float(longitude), float(latitude)


def span_text(ring: Ring) -> str:
    """Return from where to where a ring reaches, as it is written."""
    low, high = ("" if end is None else figure_text(end) for end in (ring.low, ring.high))
    return f"{low}..{high}" if low else high


def ring_text(ring: Ring, quote: str) -> str:
    """Return a ring's canonical spelling; ``quote`` is its center in quotes."""
    plain = ring.center in (Center.PARCEL, Center.ZIP)
    kind = "" if ring.center is Center.ADDRESS else f"{ring.center} "
    return f"{span_text(ring)} {ring.unit} of {kind}{ring.at if plain else quote}"


def ring_words(ring: Ring) -> str:
    """Return a ring as a reader says it: ``0.25 to 2 mi from parcel 12-034-007``."""
    low, high = ring.low, ring.high
    match low, high:
        case None, high if high is not None:
            span = f"up to {figure_text(high)} {ring.unit}"
        case low, None if low is not None:
            span = f"{figure_text(low)} {ring.unit} or more"
        case _:
            span = f"{span_text(ring).replace('..', ' to ')} {ring.unit}"
    at = f"ZIP {ring.at}" if ring.center is Center.ZIP else f"“{ring.at}”"
    return f"{span} from {at if ring.center in (Center.ZIP, Center.ADDRESS, Center.AREA) else f'{ring.center} {ring.at}'}"
