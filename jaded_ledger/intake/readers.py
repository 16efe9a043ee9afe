"""Files to rows: a line number and the cells by column name, nothing interpreted yet."""

from __future__ import annotations

import csv
import json
import re
import zipfile
from collections.abc import Callable, Iterable, Iterator, Sequence
from datetime import date, datetime, time
from pathlib import Path, PurePosixPath
from typing import IO, Any, NamedTuple, TextIO

import ijson
import openpyxl
import shapefile
from django.contrib.gis.gdal import AxisOrder, CoordTransform, OGRGeometry, SpatialReference

from jaded_ledger.core.spreadsheets import unguarded
from jaded_ledger.intake.bounded_json import BoundedJson
from jaded_ledger.intake.encodings import ENCODINGS
from jaded_ledger.intake.layouts import Form, Layout, check_zip, find_layout
from jaded_ledger.intake.limits import LIMITS, UnreadableFileError, reason_of


class RawRow(NamedTuple):
    """A row as it stands in its file. ``fault`` says why it can't be split into cells."""

    number: int
    cells: dict[str, Any]
    fault: str = ""


REFUSED_AS, REFUSED_BECAUSE = "refused as", "refused because"
"""What we write before the rows of a file of refusals; it is no part of them."""
NUL = "\x00"
"""PostgreSQL keeps none in its texts."""
_END = "\x1e"
"""A line of our own after the last: one that ends up inside a cell shows a quotation mark that was never closed."""
_PAPER = re.compile(r"(?P<day>\d{4}-\d\d-\d\d)[ _-]+(?P<title>.+)")
_PICTURE = re.compile(r"(?P<order>\d+)[ _-]*(?P<caption>.*)")
_WGS84 = 4326
_LAST_ROW = 1_048_576
"""ECMA-376 leaves it open; this is what spreadsheet programs keep (common practice)."""
_LONGEST_NAME = 60
_SHARED_TEXTS = "sharedstrings.xml"
csv.field_size_limit(LIMITS.cell)


def _header(path: Path, cells: Iterable[str]) -> list[str]:
    """Return columns' names, no longer than can be kept and each once; one without a name is called after its place."""
    names: list[str] = []
    for place, cell in enumerate(cells, start=1):
        name = " ".join(cell.split())[:_LONGEST_NAME] or f"column {place}"
        count = 2
        while name in names:
            name = f"{name.removesuffix(f' ({count - 1})')[: _LONGEST_NAME - 6]} ({count})"
            count += 1
        names.append(name)
        if place > LIMITS.columns:
            raise UnreadableFileError(path, f" has more than {LIMITS.columns:,} columns.")
    return names


def _row(number: int, header: Sequence[str], cells: Sequence[str]) -> RawRow:
    row = dict(zip(header, cells, strict=False))
    if len(cells) < len(header):
        row |= dict.fromkeys(header[len(cells) :], "")
    surplus = [cell for cell in cells[len(header) :] if cell.strip()]
    # What stands beyond the header may have pushed everything before it out of its column.
    fault = f"has {len(cells):,} cells under {len(header):,} columns" if surplus else ""
    return RawRow(number, row, fault)


class _Lines:
    """The lines of a text from its header on, and one of our own after the last; a row has no more than ``LIMITS.row`` characters."""

    def __init__(self, path: Path, handle: TextIO, header_line: int) -> None:
        self._path = path
        self._handle = handle
        self._header_line = header_line
        self._in_row = 0

    def begin_row(self) -> None:
        """Say that a row was read to its end."""
        self._in_row = 0

    def __iter__(self) -> Iterator[str]:
        number = 0
        while line := self._handle.readline(LIMITS.row + 1):
            number += 1
            self._in_row += len(line)
            if self._in_row > LIMITS.row:
                where = f", line {number:,}: a row of more than {LIMITS.row / 1e6:,.0f} million characters. Is this a table?"
                raise UnreadableFileError(self._path, where)
            if number >= self._header_line:
                yield line.replace(NUL, "")
            else:
                self.begin_row()
        yield f"{_END}\n"


def read_text(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read delimited text (RFC 4180, with any delimiter and encoding)."""
    with path.open(encoding=layout.encoding, newline="") as handle:
        lines = _Lines(path, handle, layout.header_line)
        reader = csv.reader(lines, delimiter=layout.delimiter)
        header: list[str] = []
        began = layout.header_line
        try:
            for cells in reader:
                lines.begin_row()
                is_end = cells == [_END]
                if not is_end and cells and _END in cells[-1]:
                    raise UnreadableFileError(path, f", line {began}: a quotation mark is opened here and never closed.")
                number, began = began, reader.line_num + layout.header_line
                if is_end or not any(cell.strip() for cell in cells):
                    continue
                if not header:
                    header = _header(path, cells)
                    continue
                yield _row(number, header, cells)
        except csv.Error as error:
            raise UnreadableFileError(path, f", line {began}: {error}. Is a quotation mark opened there and not closed?") from error
        except UnicodeDecodeError as error:
            raise UnreadableFileError(
                path, f" can't be read in {ENCODINGS[layout.encoding]} after line {began - 1}. Choose another encoding."
            ) from error
        if not header:
            raise UnreadableFileError(path, " is empty: a header row was expected.")


def _plain(value: Any) -> str:
    """Return a typed cell as the text that would stand in a CSV."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case datetime():
            return value.date().isoformat()
        case date() | time():
            return value.isoformat()
        case float() if value.is_integer():
            return str(int(value))
    # Half a surrogate pair is no text either.
    return str(value).replace(NUL, "").encode(errors="replace").decode()


def read_workbook(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read a sheet of a workbook."""
    with zipfile.ZipFile(path) as files:
        check_zip(path, files)
        texts = max((member.file_size for member in files.infolist() if member.filename.casefold().endswith(_SHARED_TEXTS)), default=0)
        if texts > LIMITS.shared_texts:
            # They are all held while its rows are read.
            raise UnreadableFileError(path, f" has more than {LIMITS.shared_texts / 1e6:,.0f} MB of texts; save it as CSV.")
    with path.open("rb") as handle:
        book = openpyxl.load_workbook(handle, read_only=True, data_only=True)
        sheet = book[layout.sheet]
        # What it says of its own size may be wrong; rows beyond would be passed over.
        sheet.reset_dimensions()
        header: list[str] = []
        for number, typed in enumerate(sheet.iter_rows(values_only=True), start=1):
            if number > _LAST_ROW:
                # A row may be numbered as it likes, and all that are left out before it would be gone through.
                raise UnreadableFileError(path, f" has a row beyond the last that a workbook can have ({_LAST_ROW:,}).")
            if number < layout.header_line or not any(cell is not None for cell in typed):
                continue
            cells = [_plain(cell) for cell in typed]
            if header:
                yield _row(number, header, cells)
            else:
                while cells and not cells[-1].strip():
                    cells.pop()
                header = _header(path, cells)
    if not header:
        raise UnreadableFileError(path, " is empty: a header row was expected.")


def read_geojson(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read the features of a GeoJSON collection (RFC 7946) one by one; the geometry comes as JSON text under ``geometry``.

    The "line" is the feature's place in the collection, from 1.
    """
    with path.open("rb") as handle:
        bounded = BoundedJson(handle, LIMITS.depth, LIMITS.row)
        for number, feature in enumerate(ijson.items(bounded, "features.item", use_float=True), start=1):
            bounded.begin_item()
            if not isinstance(feature, dict) or not isinstance(feature.get("properties") or {}, dict):
                yield RawRow(number, {"geometry": ""}, "is not a GeoJSON feature")
                continue
            properties = {_plain(name)[:_LONGEST_NAME]: _plain(value) for name, value in (feature.get("properties") or {}).items()}
            yield RawRow(number, {**properties, "geometry": json.dumps(feature.get("geometry"))})


def _to_degrees(projection: str) -> Callable[[dict[str, Any]], dict[str, Any]]:
    """Return what turns a geometry of a projection (its .prj, well-known text) into degrees."""
    source = SpatialReference(projection, srs_type="wkt", axis_order=AxisOrder.TRADITIONAL)
    target = SpatialReference(_WGS84, axis_order=AxisOrder.TRADITIONAL)
    change = CoordTransform(source, target)

    def turned(geometry: dict[str, Any]) -> dict[str, Any]:
        shape = OGRGeometry(json.dumps(geometry))
        shape.srs = source
        shape.transform(change)
        found: dict[str, Any] = json.loads(shape.json)
        return found

    return turned


class _BoundedReads:
    """A file that gives no more at once than a row may have: a shape is read as long as it says that it is."""

    def __init__(self, handle: IO[bytes]) -> None:
        self._handle = handle

    def read(self, size: int = -1) -> bytes:
        if not 0 <= size <= LIMITS.row:
            raise ValueError(f"a shape has more than {LIMITS.row / 1e6:,.0f} MB")
        return self._handle.read(size)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._handle, name)


def read_shapefile(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read a zipped Shapefile; the geometry comes in degrees as GeoJSON text."""
    with zipfile.ZipFile(path) as files:
        check_zip(path, files)
        parts = {name.casefold(): name for name in files.namelist()}
        stem = next(name for name in parts if name.endswith(".shp"))[:-4]
        if missing := [ending for ending in ("dbf", "shx") if f"{stem}.{ending}" not in parts]:
            raise UnreadableFileError(path, f" can't be read as a zipped Shapefile: {stem}.{missing[0]} is missing from it.")
        encoding = files.read(parts[f"{stem}.cpg"]).decode("ascii", "ignore").strip() if f"{stem}.cpg" in parts else "utf-8"
        projection = files.read(parts[f"{stem}.prj"]).decode(errors="replace") if f"{stem}.prj" in parts else ""
        in_degrees = _to_degrees(projection) if projection else None
        with files.open(parts[f"{stem}.shp"]) as shp, files.open(parts[f"{stem}.dbf"]) as dbf, files.open(parts[f"{stem}.shx"]) as shx:
            shapes = shapefile.Reader(shp=_BoundedReads(shp), dbf=dbf, shx=shx, encoding=encoding, encodingErrors="replace")
            for number, one in enumerate(shapes.iterShapeRecords(), start=1):
                cells = {name.casefold(): _plain(value).strip() for name, value in one.record.as_dict().items()}
                fault = ""
                geometry = {}
                try:
                    geometry = one.shape.__geo_interface__
                    geometry = in_degrees(geometry) if in_degrees and one.shape.shapeType != shapefile.NULL else geometry
                except Exception as error:
                    fault = f"has a shape that can't be read: {error}"
                yield RawRow(number, cells | {"geometry": json.dumps(geometry)}, fault)


def _members(path: Path) -> Iterator[tuple[int, PurePosixPath, bytes, str]]:
    """Yield the files of a zip in the order of their names: number, name, bytes, and what is wrong with one that is too large."""
    with zipfile.ZipFile(path) as files:
        check_zip(path, files)
        names = sorted(name for name in files.namelist() if not name.endswith("/") and not PurePosixPath(name).name.startswith("."))
        for number, name in enumerate(names, start=1):
            is_large = files.getinfo(name).file_size > LIMITS.picture
            fault = f"is a file of more than {LIMITS.picture / 1e6:,.0f} MB" if is_large else ""
            yield number, PurePosixPath(name), b"" if is_large else files.read(name), fault


def read_pictures(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read the images of a zip: ``AB-1002/03 kitchen.png`` is the third of AB-1002, of its kitchen."""
    for number, file, content, fault in _members(path):
        match = _PICTURE.fullmatch(file.stem)
        order, caption = (match["order"], match["caption"]) if match else ("", file.stem)
        cells = {"folder": _plain(file.parent.name), "order": order, "caption": _plain(caption.strip())}
        yield RawRow(number, cells | {"image": content}, fault)


def read_papers(path: Path, layout: Layout) -> Iterator[RawRow]:
    """Read the papers of a zip: ``2025TX000123/2025-03-04 Petition.pdf`` is a petition filed on that day in that case."""
    for number, file, content, fault in _members(path):
        match = _PAPER.fullmatch(file.stem)
        day, title = (match["day"], match["title"]) if match else ("", file.stem)
        cells = {"case_number": _plain(file.parent.name), "filed_on": day, "title": _plain(title.strip())}
        yield RawRow(number, cells | {"paper": content}, fault)


_READERS = {
    Form.TEXT: read_text,
    Form.WORKBOOK: read_workbook,
    Form.GEOJSON: read_geojson,
    Form.SHAPEFILE: read_shapefile,
    Form.PICTURES: read_pictures,
    Form.PAPERS: read_papers,
}
_SAID = {
    Form.TEXT: "text",
    Form.WORKBOOK: "an Excel workbook",
    Form.GEOJSON: "GeoJSON",
    Form.SHAPEFILE: "a zipped Shapefile",
    Form.PICTURES: "a zip of pictures",
    Form.PAPERS: "a zip of papers",
}


def read(path: Path, layout: Layout | None = None) -> Iterator[RawRow]:
    """Yield a file's rows as they are laid out. Raises UnreadableFileError."""
    layout = layout or find_layout(path)
    read_so_far = 0
    try:
        for row in _READERS[layout.form](path, layout):
            read_so_far += 1
            if read_so_far > LIMITS.rows:
                raise UnreadableFileError(path, f" has more than {LIMITS.rows:,} rows. Split it.")
            # What we wrote ourselves wears a guard, so that no spreadsheet runs what is in it.
            yield row if REFUSED_AS not in row.cells else row._replace(cells={name: unguarded(cell) for name, cell in row.cells.items()})
    except UnreadableFileError:
        raise
    except Exception as error:
        after = f" after {read_so_far:,} rows" if read_so_far else ""
        raise UnreadableFileError(path, f" can't be read as {_SAID[layout.form]}{after}: {reason_of(error, path)}.") from error
