"""Cells to values. A blank cell is unknown; one that can't be read says why."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from typing import Any

from django.contrib.gis.geos import GEOSException, GEOSGeometry, MultiPolygon

from jaded_ledger.core.criteria.traits import Choice
from jaded_ledger.core.spreadsheets import unguarded

_DATE_FORMS = ("%Y-%m-%d", "%m/%d/%Y", "%Y%m%d")
_YES, _NO = {"y", "yes", "true", "1", "t"}, {"n", "no", "false", "0", "f"}


class OutOfRangeError(ValueError):
    """A longitude or latitude that is none."""


def _polygon_text(rings: list[list[list[float]]]) -> str:
    def place(position: list[float]) -> str:
        east, north = float(position[0]), float(position[1])
        if not (-180 <= east <= 180 and -90 <= north <= 90):
            raise OutOfRangeError
        return f"{east!r} {north!r}"

    return f"({','.join('(' + ','.join(place(position) for position in ring) + ')' for ring in rings)})"


class RefusedRowError(Exception):
    """A row that can't be taken in: which column, what it said, and why."""

    def __init__(self, column: str, value: str, reason: str) -> None:
        super().__init__(f"{column}: {reason}")
        self.column = column
        self.value = value
        self.reason = reason


class Cells:
    """One row's cells, read by column name."""

    def __init__(self, cells: Mapping[str, Any]) -> None:
        self.raw = cells

    def text(self, column: str) -> str:
        """Return a cell with single spaces, and without the NULs that PostgreSQL refuses."""
        value = self.raw.get(column)
        return "" if value is None else " ".join(unguarded(str(value)).replace("\x00", "").split())

    def refuse(self, column: str, reason: str) -> RefusedRowError:
        return RefusedRowError(column, self.text(column), reason)

    def required(self, column: str) -> str:
        if text := self.text(column):
            return text
        raise self.refuse(column, "is blank and must not be")

    def number(self, column: str) -> Decimal | None:
        """Return a number that is not negative, written with or without thousands commas and a dollar sign."""
        text = self.text(column)
        if not text:
            return None
        try:
            number = Decimal(re.sub(r"^\$|,(?=\d{3}\b)", "", text))
        except InvalidOperation:
            raise self.refuse(column, "is not a number") from None
        if not number.is_finite() or number < 0:
            raise self.refuse(column, "is negative")
        if number >= 10**10:
            raise self.refuse(column, "is larger than any such figure can be")
        return number

    def whole(self, column: str, largest: int = 2_147_483_647) -> int | None:
        number = self.number(column)
        if number is None:
            return None
        if number != int(number):
            raise self.refuse(column, "is not a whole number")
        if number > largest:
            raise self.refuse(column, f"is larger than {largest:,}")
        return int(number)

    def size(self, column: str) -> Decimal | None:
        """Return a size or year, for which counties write 0 where none was measured."""
        return self.number(column) or None

    def day(self, column: str) -> date | None:
        text = self.text(column)
        if not text:
            return None
        for form in _DATE_FORMS:
            try:
                return datetime.strptime(text, form).date()  # noqa: DTZ007 - a day has no time zone
            except ValueError:
                continue
        raise self.refuse(column, "is not a date such as 2026-11-24 or 11/24/2026")

    def flag(self, column: str) -> bool | None:
        text = self.text(column).casefold()
        if text and text not in _YES | _NO:
            raise self.refuse(column, "is neither yes nor no")
        return text in _YES if text else None

    def choice(self, column: str, choices: tuple[Choice, ...]) -> Choice | None:
        text = self.text(column).casefold()
        if not text:
            return None
        for choice in choices:
            if text == choice.key or text in choice.synonyms:
                return choice
        raise self.refuse(column, f"is none of {', '.join(choice.key for choice in choices)}")

    def outline(self, column: str) -> MultiPolygon:
        """Return a valid polygon or several, in degrees (WGS 84), from a GeoJSON geometry."""
        try:
            shape = json.loads(self.required(column))
            polygons = {"Polygon": lambda: [shape["coordinates"]], "MultiPolygon": lambda: shape["coordinates"]}
            parts = polygons[shape["type"]]()
            # Well-known text reads several times faster than GeoJSON does by way of GDAL.
            outline = GEOSGeometry(f"SRID=4326;MULTIPOLYGON({','.join(_polygon_text(part) for part in parts)})")
        except OutOfRangeError:
            raise self.refuse(column, "is not in degrees of longitude and latitude") from None
        except (KeyError, TypeError, ValueError, IndexError, GEOSException):
            raise self.refuse(column, "is not a GeoJSON Polygon or MultiPolygon") from None
        if outline.empty or not outline.valid:
            raise self.refuse(column, f"is not a valid outline: {outline.valid_reason}")
        return outline
