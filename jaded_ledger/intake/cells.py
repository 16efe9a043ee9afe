"""Cells to values. A blank cell is unknown; one that can't be read says why."""

from __future__ import annotations

import calendar
import json
import re
from collections.abc import Mapping
from contextlib import suppress
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from typing import Any

from django.contrib.gis.geos import GEOSException, GEOSGeometry, MultiPolygon, Point

from jaded_ledger.core.spreadsheets import unguarded

# The last two are years, months and days that stood in columns of their own.
_DATE_FORMS = ("%m/%d/%Y", "%Y %m %d", "%m %d %Y", "%Y-%m-%dT%H:%M:%S", "%Y-%m-%dT%H:%M:%SZ")
LONGEST_NAME = 400
_YES, _NO = {"y", "yes", "true", "1", "t"}, {"n", "no", "false", "0", "f"}


class UnreadableValueError(ValueError):
    """A cell that can't be read; the message says what is wrong with it."""


class RefusedRowError(Exception):
    """A row that can't be taken in: which column (blank for the row as a whole), what it said, and why."""

    def __init__(self, column: str, value: str, reason: str) -> None:
        super().__init__(f"{column}: {reason}")
        self.column = column
        self.value = value
        self.reason = reason


def text_of(raw: str) -> str:
    """Return a text with single spaces."""
    if raw.startswith("'"):
        raw = unguarded(raw)
    return " ".join(raw.split())


def name_of(raw: str) -> str:
    """Return a name, a place or a line of an address: each is looked up by an index, which takes no whole page of text."""
    text = text_of(raw)
    if len(text) > LONGEST_NAME:
        raise UnreadableValueError(f"is longer than {LONGEST_NAME} characters")
    return text


def prose_of(raw: str) -> str:
    """Return a running text with its line breaks."""
    return unguarded(raw).replace("\r\n", "\n").strip()


def number_of(raw: str) -> Decimal:
    """Return a number that is not negative, written with or without thousands commas and a dollar sign."""
    try:
        number = Decimal(raw if raw.isdecimal() else re.sub(r"^\$|,(?=\d{3}\b)", "", raw))
    except InvalidOperation:
        raise UnreadableValueError("is not a number") from None
    if not number.is_finite():
        raise UnreadableValueError("is not a number")
    if number < 0:
        raise UnreadableValueError("is negative")
    if number >= 10**10:
        raise UnreadableValueError("is larger than any such figure can be")
    return number


def whole_of(raw: str) -> int:
    """Return a whole number."""
    if raw.isdecimal() and len(raw) < 10:
        return int(raw)
    number = number_of(raw)
    if number != int(number):
        raise UnreadableValueError("is not a whole number")
    return int(number)


def day_of(raw: str) -> date:
    """Return a date written as 2026-11-24, 11/24/2026 or 20261124, with or without a time after it.

    Of a month without a day, as 2010-05 or May 2010, the first stands for it.
    """
    with suppress(ValueError):
        return date.fromisoformat(raw)
    for form in _DATE_FORMS:
        try:
            return datetime.strptime(raw, form).date()  # noqa: DTZ007 - a day has no time zone
        except ValueError:
            continue
    if first := _first_of_month(raw):
        return first
    raise UnreadableValueError("is not a date such as 2026-11-24 or 11/24/2026")


_MONTH_OF_YEAR = re.compile(
    r"(?P<year>(?:1[6-9]|20)\d\d)[-/ ](?P<month>\d{1,2})|(?P<first>\d{1,2}|[a-z]{3,9})\.?[-/ ](?P<last>(?:1[6-9]|20)\d\d)", re.IGNORECASE
)
_MONTHS = {name.casefold(): number for names in (calendar.month_name, calendar.month_abbr) for number, name in enumerate(names) if name}


def _first_of_month(raw: str) -> date | None:
    """Return the first day of a month without a day, as 2010-05, 5 2010 or May 2010; None for what is none."""
    found = _MONTH_OF_YEAR.fullmatch(" ".join(raw.split()))
    if not found:
        return None
    month = found["month"] or found["first"]
    number = int(month) if month.isdecimal() else _MONTHS.get(month.casefold(), 0)
    return date(int(found["year"] or found["last"]), number, 1) if 1 <= number <= 12 else None


def is_month(raw: str) -> bool:
    """Return whether a cell tells a year and a month, and no day."""
    return _first_of_month(raw) is not None


def point_of(latitude: str, longitude: str) -> Point:
    """Return a place in degrees (WGS 84)."""
    try:
        north, east = float(latitude), float(longitude)
    except ValueError:
        raise UnreadableValueError("is not a number of degrees") from None
    if not (-90 <= north <= 90 and -180 <= east <= 180):
        raise UnreadableValueError("is not in degrees of latitude and longitude")
    return Point(east, north, srid=4326)


def flag_of(raw: str) -> bool:
    """Return yes or no, true or false, 1 or 0."""
    word = raw.casefold()
    if word not in _YES | _NO:
        raise UnreadableValueError("is neither yes nor no")
    return word in _YES


def plain_word(text: str) -> str:
    """Return a word of a vocabulary as it is compared: one case, hyphens and underscores as spaces."""
    return " ".join(text.casefold().replace("-", " ").replace("_", " ").split())


def word_of(raw: str, words: Mapping[str, Any], said: str) -> Any:
    """Return what a word stands for in a vocabulary by plain words; ``said`` lists it."""
    found = words.get(plain_word(raw))
    if found is None:
        raise UnreadableValueError(f"is none of {said}")
    return found


class _OutOfRangeError(ValueError):
    """A longitude or latitude that is none."""


def _positions(ring: list[list[float]]) -> str:
    found = []
    for position in ring:
        east, north = float(position[0]), float(position[1])
        if not (-180 <= east <= 180 and -90 <= north <= 90):
            raise _OutOfRangeError
        found.append(f"{east!r} {north!r}")
    if not found:
        raise ValueError("nowhere")
    return f"({','.join(found)})"


def _polygon_text(rings: list[list[list[float]]]) -> str:
    if not rings:
        raise ValueError("nothing")
    return f"({','.join(_positions(ring) for ring in rings)})"


_WELL_KNOWN = {
    "Point": lambda at: f"POINT{_positions([at])}",
    "LineString": lambda at: f"LINESTRING{_positions(at)}",
    "MultiLineString": lambda at: f"MULTILINESTRING({','.join(_positions(line) for line in at)})",
    "Polygon": lambda at: f"MULTIPOLYGON({_polygon_text(at)})",
    "MultiPolygon": lambda at: f"MULTIPOLYGON({','.join(_polygon_text(part) for part in at)})",
}


def shape_of(raw: str) -> GEOSGeometry:
    """Return a valid point, line or polygons, in degrees (WGS 84), from a GeoJSON geometry (RFC 7946)."""
    try:
        shape = json.loads(raw)
        # Well-known text reads several times faster than GeoJSON does by way of GDAL.
        found = GEOSGeometry(f"SRID=4326;{_WELL_KNOWN[shape['type']](shape['coordinates'])}")
    except _OutOfRangeError:
        raise UnreadableValueError("is not in degrees of longitude and latitude") from None
    except (KeyError, TypeError, ValueError, IndexError, GEOSException):
        raise UnreadableValueError("is not a GeoJSON geometry") from None
    if found.empty or not found.valid:
        raise UnreadableValueError(f"is not a valid shape: {found.valid_reason}")
    return found


def outline_of(raw: str) -> MultiPolygon:
    """Return a valid polygon or several, as ``shape_of`` reads them."""
    found = shape_of(raw)
    if not isinstance(found, MultiPolygon):
        raise UnreadableValueError("is not a GeoJSON Polygon or MultiPolygon")
    return found
