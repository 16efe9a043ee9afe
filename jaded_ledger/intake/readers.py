"""Files to rows: a line number and the cells by column name, nothing interpreted yet."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import ijson


class UnreadableFileError(Exception):
    """The file as a whole can't be read; the message says why."""


Row = tuple[int, dict[str, Any]]


def read_csv(path: Path) -> Iterator[Row]:
    """Read comma-separated values in UTF-8 with a header row. Raises UnreadableFileError."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as handle:
            lines = csv.DictReader(handle)
            if not lines.fieldnames:
                raise UnreadableFileError(f"{path.name} is empty: a header row was expected.")
            for cells in lines:
                yield lines.line_num, {name: (text or "").strip() for name, text in cells.items() if name is not None}
    except (UnicodeDecodeError, csv.Error) as error:
        raise UnreadableFileError(f"{path.name} can't be read as CSV in UTF-8: {error}.") from error


def read_geojson(path: Path) -> Iterator[Row]:
    """Read the features of a GeoJSON collection (RFC 7946) one by one; the geometry comes as JSON text under ``geometry``.

    The "line" is the feature's place in the collection, from 1. Raises UnreadableFileError.
    """
    try:
        with path.open("rb") as handle:
            for number, feature in enumerate(ijson.items(handle, "features.item", use_float=True), start=1):
                yield number, {**(feature.get("properties") or {}), "geometry": json.dumps(feature.get("geometry"))}
    except ijson.JSONError as error:
        raise UnreadableFileError(f"{path.name} can't be read as GeoJSON: {error}.") from error


def read(path: Path) -> Iterator[Row]:
    """Read a file by its ending. Raises UnreadableFileError for one that is not known."""
    match path.suffix.casefold():
        case ".csv":
            return read_csv(path)
        case ".geojson" | ".json":
            return read_geojson(path)
    raise UnreadableFileError(f"{path.name}: files ending in .csv or .geojson can be taken in.")
