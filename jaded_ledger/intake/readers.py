"""Files to rows: a line number and the cells by column name, nothing interpreted yet."""

from __future__ import annotations

import csv
import json
import re
import zipfile
from collections.abc import Iterator
from datetime import date, datetime
from pathlib import Path, PurePosixPath
from typing import Any

import ijson
import openpyxl
import shapefile
from openpyxl.utils.exceptions import InvalidFileException


class UnreadableFileError(Exception):
    """The file as a whole can't be read; the message says why."""


Row = tuple[int, dict[str, Any]]
_NUL = "\x00"
"""PostgreSQL keeps none in its texts."""
_PICTURE = re.compile(r"(?P<order>\d+)[ _-]*(?P<caption>.*)")


def read_csv(path: Path) -> Iterator[Row]:
    """Read comma-separated values in UTF-8 with a header row. Raises UnreadableFileError."""
    try:
        with path.open(encoding="utf-8-sig", newline="") as handle:
            lines = csv.reader(line.replace(_NUL, "") for line in handle)
            header = next(lines, None)
            if not header:
                raise UnreadableFileError(f"{path.name} is empty: a header row was expected.")
            for cells in lines:
                if cells:
                    yield lines.line_num, dict(zip(header, cells, strict=False))
    except (UnicodeDecodeError, csv.Error) as error:
        raise UnreadableFileError(f"{path.name} can't be read as CSV in UTF-8: {error}.") from error


def _plain(value: Any) -> str:
    """Return a typed cell as the text that would stand in a CSV."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case datetime():
            return value.date().isoformat()
        case date():
            return value.isoformat()
        case float() if value.is_integer():
            return str(int(value))
    # Half a surrogate pair is no text either.
    return str(value).replace(_NUL, "").encode(errors="replace").decode()


def read_geojson(path: Path) -> Iterator[Row]:
    """Read the features of a GeoJSON collection (RFC 7946) one by one; the geometry comes as JSON text under ``geometry``.

    The "line" is the feature's place in the collection, from 1. Raises UnreadableFileError.
    """
    try:
        with path.open("rb") as handle:
            for number, feature in enumerate(ijson.items(handle, "features.item", use_float=True), start=1):
                properties = {_plain(name): _plain(value) for name, value in (feature.get("properties") or {}).items()}
                yield number, {**properties, "geometry": json.dumps(feature.get("geometry"))}
    except ijson.JSONError as error:
        raise UnreadableFileError(f"{path.name} can't be read as GeoJSON: {error}.") from error


def read_xlsx(path: Path) -> Iterator[Row]:
    """Read the first sheet of a workbook, its first row the header. Raises UnreadableFileError."""
    try:
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
    except (InvalidFileException, zipfile.BadZipFile, KeyError, ValueError) as error:
        raise UnreadableFileError(f"{path.name} can't be read as an Excel workbook: {error}.") from error
    rows = book.worksheets[0].iter_rows(values_only=True)
    header = [_plain(cell).strip() for cell in next(rows, ())]
    if not any(header):
        raise UnreadableFileError(f"{path.name} is empty: a header row was expected.")
    for number, cells in enumerate(rows, start=2):
        if any(cell is not None for cell in cells):
            yield number, {name: _plain(cell) for name, cell in zip(header, cells, strict=False) if name}
    book.close()


def read_shapefile(path: Path, files: zipfile.ZipFile) -> Iterator[Row]:
    """Read a zipped Shapefile in degrees; the geometry comes as GeoJSON text. Raises UnreadableFileError."""
    stem = next(name for name in files.namelist() if name.casefold().endswith(".shp"))[:-4]
    try:
        with files.open(f"{stem}.shp") as shp, files.open(f"{stem}.dbf") as dbf, files.open(f"{stem}.shx") as shx:
            shapes = shapefile.Reader(shp=shp, dbf=dbf, shx=shx)
            for number, one in enumerate(shapes.iterShapeRecords(), start=1):
                cells = {name.casefold(): _plain(value).strip() for name, value in one.record.as_dict().items()}
                yield number, cells | {"geometry": json.dumps(one.shape.__geo_interface__)}
    except (KeyError, shapefile.ShapefileException, UnicodeDecodeError) as error:
        raise UnreadableFileError(f"{path.name} can't be read as a zipped Shapefile: {error}.") from error


def read_pictures(files: zipfile.ZipFile) -> Iterator[Row]:
    """Read the images of a zip: ``AB-1002/03 kitchen.png`` is the third of AB-1002, of its kitchen."""
    for number, name in enumerate(sorted(name for name in files.namelist() if not name.endswith("/")), start=1):
        file = PurePosixPath(name)
        match = _PICTURE.fullmatch(file.stem)
        order, caption = (match["order"], match["caption"]) if match else ("", file.stem)
        yield number, {"folder": file.parent.name, "order": order, "caption": caption.strip(), "image": files.read(name)}


def read_zip(path: Path) -> Iterator[Row]:
    """Read a zip: a Shapefile if it holds one, else pictures. Raises UnreadableFileError."""
    try:
        with zipfile.ZipFile(path) as files:
            is_shapefile = any(name.casefold().endswith(".shp") for name in files.namelist())
            yield from read_shapefile(path, files) if is_shapefile else read_pictures(files)
    except zipfile.BadZipFile as error:
        raise UnreadableFileError(f"{path.name} can't be read as a zip: {error}.") from error


READERS = {".csv": read_csv, ".geojson": read_geojson, ".json": read_geojson, ".xlsx": read_xlsx, ".zip": read_zip}


def read(path: Path) -> Iterator[Row]:
    """Read a file by its ending. Raises UnreadableFileError for one that is not known."""
    reader = READERS.get(path.suffix.casefold())
    if reader is None:
        raise UnreadableFileError(f"{path.name}: files ending in {', '.join(READERS)} can be taken in.")
    return reader(path)
